import { rm } from 'node:fs/promises'
import path from 'node:path'
import { z } from 'zod'
import { COLOUR_ENCODINGS } from '@tender-lasso/core/colour'
import { newId, objectAdded, SCHEMA_VERSION, type Shot } from '@tender-lasso/core/document'
import { centredShutter } from '@tender-lasso/core/timing'
import { orm, ProjectEntity, ShotEntity, type ShotRow } from '../database'
import { submitBatch } from '../editLog'
import { notFound, Problem } from '../errors'
import { startJob } from '../jobs'
import { inspectFiles, type SourceFile } from '../media'
import { readSettings } from '../settings'
import { keepOriginal } from '../store'

export const shotSettingsSchema = z.object({
  name: z.string().trim().min(1, 'a shot needs a name').max(80),
  firstFrame: z.number().int().min(0).max(9_999_999),
  rate: z.object({
    numerator: z.number().int().min(1).max(1_000_000),
    denominator: z.number().int().min(1).max(100_000),
  }),
  pixelAspect: z.number().min(0.1).max(10),
  colourEncoding: z.enum(COLOUR_ENCODINGS),
})
export type ShotSettings = z.infer<typeof shotSettingsSchema>

export const projectNameSchema = z.string().trim().min(1, 'a project needs a name').max(80)

export async function listBoard() {
  const em = (await orm()).em.fork()
  const projects = await em.find(ProjectEntity, {}, { orderBy: { createdAt: 'asc' } })
  const shots = await em.find(ShotEntity, {}, { orderBy: { createdAt: 'asc' }, exclude: ['sources'] })
  return projects.map(({ id, name }) => ({
    id,
    name,
    shots: shots.filter((shot) => shot.projectId === id).map(shotSummary),
  }))
}

export type BoardProject = Awaited<ReturnType<typeof listBoard>>[number]
export type ShotSummary = ReturnType<typeof shotSummary>

/** How far a plate is read. */
export type ShotState = 'ingesting' | 'ready' | 'failed'

function shotSummary(shot: Omit<ShotRow, 'sources'>) {
  const { id, projectId, name, state, message, width, height, firstFrame, lastFrame, pixelAspect, colourEncoding } =
    shot
  const rate = { numerator: shot.rateNumerator, denominator: shot.rateDenominator }
  const edits = shot.headSequence
  return {
    id,
    projectId,
    name,
    state: state as ShotState,
    message: message ?? null,
    width,
    height,
    firstFrame,
    lastFrame,
    pixelAspect: Number(pixelAspect),
    colourEncoding,
    rate,
    edits,
  }
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
  return { ...shotSummary(shot), projectName: project.name }
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
    sources.push({ name, hash: await keepOriginal(readSettings().originals, byName.get(name)!.path) })
  }
  const lastFrame = settings.firstFrame + plate.frameCount - 1
  em.create(ShotEntity, {
    id,
    projectId,
    name: settings.name,
    state: 'ingesting',
    message: null,
    createdAt: new Date(),
    width: plate.width,
    height: plate.height,
    firstFrame: settings.firstFrame,
    lastFrame,
    rateNumerator: settings.rate.numerator,
    rateDenominator: settings.rate.denominator,
    pixelAspect: settings.pixelAspect,
    colourEncoding: settings.colourEncoding,
    headSequence: 0,
    sources,
  })
  await em.flush()
  const shot: Shot = {
    kind: 'shot',
    id: 'shot',
    width: plate.width,
    height: plate.height,
    pixelAspect: settings.pixelAspect,
    range: [settings.firstFrame, lastFrame],
    rate: settings.rate,
    shutter: centredShutter(180),
  }
  await submitBatch(id, {
    batchId: newId(),
    clientId: 'server',
    clientSequence: 0,
    author: 'server',
    baseSequence: 0,
    schemaVersion: SCHEMA_VERSION,
    label: 'make the shot',
    undoes: null,
    patches: [objectAdded(shot)],
  })
  const jobId = await startJob({
    kind: 'ingest',
    shotId: id,
    title: `Read ${settings.name}`,
    total: plate.frameCount,
    payload: {},
  })
  return { shotId: id, jobId }
}

export async function deleteShot(id: string): Promise<void> {
  const em = (await orm()).em.fork()
  const shot = await em.findOne(ShotEntity, { id })
  if (!shot) throw notFound('The shot')
  if (shot.state === 'ingesting') {
    throw new Problem(409, 'shot-busy', 'The shot is still being read: cancel that first')
  }
  await em.remove(shot).flush()
  const settings = readSettings()
  await rm(path.join(settings.frames, id), { recursive: true, force: true })
  await rm(path.join(settings.exports, id), { recursive: true, force: true })
}
