import { LockMode } from '@mikro-orm/core'
import { z } from 'zod'
import { COLOUR_ENCODINGS } from '@tender-lasso/core/colour'
import { fieldSet, objectAdded } from '@tender-lasso/core/edits'
import {
  findObject,
  newId,
  SCHEMA_VERSION,
  type EditBatch,
  type Patch,
  type Shot,
  firstOutputs,
} from '@tender-lasso/core/document'
import { orm, ProjectEntity, ShotEntity, type ShotRow } from '../database'
import { afterCommit, commitBatch, forgetHead, loadHead, SERVER_AUTHOR } from '../editLog'
import { notFound, Problem } from '../errors'
import { createJob, endJobsOf, latestIngests, type JobProgress } from '../jobs'
import { finishedFrames, inspectFiles, type SourceFile } from '../media'
import { keepOriginal, keys, mediaStore } from '../store'

/** A name in one line. */
const line = (missing: string) =>
  z
    .string()
    .trim()
    .min(1, missing)
    .max(80)
    // eslint-disable-next-line no-control-regex
    .refine((text) => !/[\u0000-\u001f\u007f]/.test(text), 'control characters cannot be used')

export const shotSettingsSchema = z.object({
  name: line('a shot needs a name'),
  firstFrame: z.number().int().min(0).max(9_999_999),
  rate: z.object({
    numerator: z.number().int().min(1).max(1_000_000),
    denominator: z.number().int().min(1).max(100_000),
  }),
  pixelAspect: z.number().min(0.1).max(10),
  colourEncoding: z.enum(COLOUR_ENCODINGS),
})
export type ShotSettings = z.infer<typeof shotSettingsSchema>

export const projectNameSchema = line('a project needs a name')

export async function listBoard() {
  const em = (await orm()).em.fork()
  const projects = await em.find(ProjectEntity, {}, { orderBy: { createdAt: 'asc' } })
  const shots = await em.find(ShotEntity, {}, { orderBy: { createdAt: 'asc' }, exclude: ['sources'] })
  const ingests = await latestIngests(
    em,
    shots.map(({ id }) => id),
  )
  return projects.map(({ id, name }) => ({
    id,
    name,
    shots: shots.filter((shot) => shot.projectId === id).map((shot) => shotSummary(shot, ingests.get(shot.id))),
  }))
}

/** How far a plate is read. */
export type ShotState = 'ingesting' | 'ready' | 'failed'

function shotSummary(shot: Omit<ShotRow, 'sources'>, ingest: JobProgress | undefined) {
  const { id, projectId, name, width, height, firstFrame, lastFrame, pixelAspect, colourEncoding, warnings } = shot
  const rate = { numerator: shot.rateNumerator, denominator: shot.rateDenominator }
  const edits = shot.headSequence
  return {
    id,
    projectId,
    name,
    ...readingOf(ingest),
    width,
    height,
    firstFrame,
    lastFrame,
    pixelAspect: Number(pixelAspect),
    colourEncoding,
    warnings,
    rate,
    edits,
  }
}

/** How far a plate is read, as the job says that reads it: nothing else is kept of it. */
function readingOf(ingest: JobProgress | undefined): {
  state: ShotState
  message: string | null
  jobId: string | null
} {
  if (!ingest || ingest.state === 'done') return { state: 'ready', message: null, jobId: null }
  const jobId = ingest.id
  if (ingest.state === 'queued' || ingest.state === 'running') return { state: 'ingesting', message: null, jobId }
  return { state: 'failed', message: ingest.message ?? 'Reading was cancelled', jobId }
}

export async function createProject(name: string): Promise<string> {
  const em = (await orm()).em.fork()
  const id = newId()
  em.create(ProjectEntity, { id, name: projectNameSchema.parse(name), createdAt: new Date() })
  await em.flush()
  return id
}

export async function findShot(id: string) {
  const em = (await orm()).em.fork()
  const shot = await em.findOne(ShotEntity, { id })
  if (!shot) throw notFound('The shot')
  const project = await em.findOneOrFail(ProjectEntity, { id: shot.projectId })
  const ingests = await latestIngests(em, [id])
  return { ...shotSummary(shot, ingests.get(id)), projectName: project.name }
}

/** How far a plate is read, with the frames that are there as first and last of each stretch. */
export async function readingOfShot(id: string) {
  const { state, message, firstFrame, lastFrame, warnings } = await findShot(id)
  const frames = [...(await finishedFrames(mediaStore(), id))].sort((a, b) => a - b)
  const stretches: [number, number][] = []
  for (const frame of frames) {
    const stretch = stretches.at(-1)
    if (stretch && frame === stretch[1] + 1) stretch[1] = frame
    else stretches.push([frame, frame])
  }
  return { state, message, firstFrame, lastFrame, warnings, stretches }
}

/** What a frame that is not there is called: one that is still to be read, or none. */
export async function missingFrame(id: string, frames: readonly number[]): Promise<Problem> {
  const { state } = await findShot(id)
  const words = frames.length === 1 ? `Frame ${frames[0]}` : `One of the frames ${frames[0]} to ${frames.at(-1)}`
  return state === 'ingesting' ? new Problem(425, 'not-read-yet', `${words} is not read yet`) : notFound(words)
}

/**
 * A shot from files: originals go into the store, the frames are made by a job, the document starts with the shot's
 * settings.
 *
 * @throws Problem 422 as inspectFiles does; nothing is kept then
 */
export async function createShot(
  projectId: string,
  files: readonly SourceFile[],
  settings: ShotSettings,
  id = newId(),
): Promise<{ shotId: string; jobId: string }> {
  const plate = await inspectFiles(files)
  const em = (await orm()).em.fork()
  if (!(await em.count(ProjectEntity, { id: projectId }))) throw notFound('The project')
  const byName = new Map(files.map((file) => [file.name, file]))
  const sources: ShotRow['sources'] = []
  for (const name of plate.order) {
    sources.push({ name, hash: await keepOriginal(mediaStore(), byName.get(name)!.path) })
  }
  const shot: Shot = {
    kind: 'shot',
    id: 'shot',
    width: plate.width,
    height: plate.height,
    pixelAspect: settings.pixelAspect,
    range: [settings.firstFrame, settings.firstFrame + plate.frameCount - 1],
    rate: settings.rate,
    channels: {},
  }
  // Row, document and job come about together, or not at all.
  const { jobId, head } = await em.transactional(async (tx) => {
    tx.create(ShotEntity, {
      id,
      projectId,
      name: settings.name,
      createdAt: new Date(),
      width: shot.width,
      height: shot.height,
      firstFrame: shot.range[0],
      lastFrame: shot.range[1],
      rateNumerator: shot.rate.numerator,
      rateDenominator: shot.rate.denominator,
      pixelAspect: shot.pixelAspect,
      colourEncoding: settings.colourEncoding,
      headSequence: 0,
      sources,
      warnings: plate.warnings,
    })
    await tx.flush()
    const { head } = await commitBatch(
      tx,
      id,
      serverBatch('make the shot', 0, [shot, ...firstOutputs(newId)].map(objectAdded)),
    )
    const jobId = await createJob(tx, {
      kind: 'ingest',
      shotId: id,
      title: `Read ${settings.name}`,
      range: shot.range,
      // Only one reads a movie from its beginning; of pictures several workers take some each.
      chunkFrames: plate.kind === 'movie' ? null : INGEST_CHUNK_FRAMES,
      payload: {},
    })
    return { jobId, head }
  })
  if (head) await afterCommit(em, id, head)
  return { shotId: id, jobId }
}

const INGEST_CHUNK_FRAMES = 16

/** What the server itself writes into a shot's log. */
function serverBatch(label: string, clientSequence: number, patches: Patch[]): EditBatch {
  return {
    batchId: newId(),
    clientId: SERVER_AUTHOR,
    clientSequence,
    author: SERVER_AUTHOR,
    baseSequence: 0,
    schemaVersion: SCHEMA_VERSION,
    label,
    undoes: null,
    patches,
  }
}

/**
 * A plate has been read: the shot has the frames that were there, in its row and its document, and says what was mended.
 *
 * @param lastFrame  of what was read, which for a movie may be another than its head promised
 */
export async function plateWasRead(id: string, lastFrame: number, warnings: readonly string[]): Promise<void> {
  const em = (await orm()).em.fork()
  const head = await em.transactional(async (tx) => {
    const row = await tx.findOne(ShotEntity, { id }, { lockMode: LockMode.PESSIMISTIC_WRITE })
    if (!row) throw notFound('The shot')
    row.warnings = [...new Set([...row.warnings, ...warnings])]
    const shot = findObject((await loadHead(tx, id)).document, 'shot', 'shot')
    if (!shot || shot.range[1] === lastFrame) return null
    const patches = [fieldSet(shot, 'range', [shot.range[0], lastFrame])]
    return (await commitBatch(tx, id, serverBatch('the frames that were read', row.headSequence, patches))).head
  })
  if (head) await afterCommit(em, id, head)
}

/** Ends the shot's jobs, then takes it away with its frames and hand-offs. */
export async function deleteShot(id: string): Promise<void> {
  const em = (await orm()).em.fork()
  const shot = await em.findOne(ShotEntity, { id })
  if (!shot) throw notFound('The shot')
  await endJobsOf(id)
  await em.remove(shot).flush()
  forgetHead(id)
  const store = mediaStore()
  await store.delete(keys.framesOf(id))
  await store.delete(keys.handoffsOf(id))
}
