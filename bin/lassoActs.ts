import { readFile, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { allOf, newId, SCHEMA_VERSION, type DocumentObject, type EditBatch } from '@tender-lasso/core/document'
import { outputsInOrder, shotTaken, wordsOfHeld } from '@tender-lasso/core/edits'
import { objectsOfParts } from '@tender-lasso/core/handoff'
import { readShotData, shotDataText } from '@tender-lasso/formats/shotData'
import { loadHead, submitBatch } from '../server/editLog'
import { orm } from '../server/database'
import { copyToFolder, deliveryOf, handoffStatus, handoffTarget, startDelivery } from '../server/handoff'
import { findJob, listJobs, workersAlive, workUntil } from '../server/jobs'
import { createProject, createShot, listBoard, shotSettingsSchema, type ShotSettings } from '../server/shots'
import { exportChunk } from '../worker/exportChunk'
import { ingestChunk } from '../worker/ingestChunk'
import { StartError } from './startError'

type BoardProject = Awaited<ReturnType<typeof listBoard>>[number]
type BoardShot = BoardProject['shots'][number]

export const projects = async () =>
  (await listBoard()).map(({ id, name, shots }) => ({ id, name, shots: shots.length }))

export async function shots(project?: string) {
  const board = await listBoard()
  const wanted = project === undefined ? board : [oneOf(board, project, 'project')]
  return wanted.flatMap(({ name, shots }) =>
    shots.map((shot) => ({
      id: shot.id,
      name: shot.name,
      project: name,
      frames: `${shot.firstFrame}-${shot.lastFrame}`,
      size: `${shot.width}x${shot.height}`,
      state: shot.state,
    })),
  )
}

/** The shot of an id or of a name that only it has. @throws StartError */
export async function shotOf(idOrName: string): Promise<BoardShot> {
  return oneOf(
    (await listBoard()).flatMap(({ shots }) => shots),
    idOrName,
    'shot',
  )
}

function oneOf<Named extends { id: string; name: string }>(
  all: readonly Named[],
  idOrName: string,
  what: string,
): Named {
  const byId = all.find(({ id }) => id === idOrName)
  if (byId) return byId
  const found = all.filter(({ name }) => name === idOrName)
  if (found.length === 1) return found[0]!
  if (found.length === 0) throw new StartError(`There is no ${what} ${idOrName}`)
  throw new StartError(`There are ${found.length} ${what}s called ${idOrName}: name one by its id (${found.map(({ id }) => id).join(', ')})`) // prettier-ignore
}

const documentOf = async (shotId: string) => (await loadHead((await orm()).em.fork(), shotId)).document

export async function outputs(shotId: string) {
  const document = await documentOf(shotId)
  const status = await handoffStatus(shotId)
  return outputsInOrder(document).map((output) => {
    const whole = status.deliveries.filter(({ outputId, state }) => outputId === output.id && state === 'done')
    const behind = status.outputs.find(({ outputId }) => outputId === output.id)?.behind
    return {
      id: output.id,
      name: output.name,
      holds: wordsOfHeld(document, output),
      format: output.format,
      layout: output.layout,
      version: whole.length > 0 ? Math.max(...whole.map(({ version }) => version)) : null,
      behind: behind ? behind.edits : null,
    }
  })
}

interface Told {
  /** Frames so far of all there are. */
  onProgress?(done: number, total: number): void
}

/**
 * Writes outputs of a shot, all where none is named, and waits for them.
 *
 * @param to  folder that they are copied into; null: they stay in the store
 * @throws StartError when one failed
 */
export async function write(shotId: string, names: readonly string[], to: string | null, told: Told = {}) {
  const document = await documentOf(shotId)
  const all = outputsInOrder(document)
  const wanted = names.length === 0 ? all : names.map((name) => oneOf(all, name, 'output'))
  if (wanted.length === 0) throw new StartError('The shot has no outputs')
  const jobIds: string[] = []
  for (const output of wanted) jobIds.push(await startDelivery(shotId, output.id))
  await worked(jobIds, told)
  const made = []
  for (const jobId of jobIds) {
    const delivery = deliveryOf((await findJob(jobId)).payload)!
    const target = await handoffTarget(shotId, jobId)
    const copied = to === null ? null : await copyToFolder(delivery, target, new AbortController().signal, to)
    made.push({
      output: delivery.output.name,
      version: delivery.version,
      frames: delivery.range.join('-'),
      mattes: delivery.mattes.length,
      place: copied?.folder ?? target.key,
    })
  }
  return made
}

/** Waits for jobs. Where no worker is alive this process is one until they are done. @throws StartError when one did not end well */
async function worked(jobIds: readonly string[], { onProgress }: Told): Promise<void> {
  const stop = new AbortController()
  const own =
    (await workersAlive()) > 0
      ? null
      : workUntil(stop.signal, `${process.pid}-${newId()}`, { ingest: ingestChunk, export: exportChunk })
  try {
    for (;;) {
      const jobs = await listJobs({ ids: jobIds }, jobIds.length)
      onProgress?.(
        jobs.reduce((sum, { done }) => sum + done, 0),
        jobs.reduce((sum, { total }) => sum + total, 0),
      )
      const ended = jobs.find(({ state }) => state === 'failed' || state === 'cancelled')
      if (ended) throw new StartError(`${ended.title}: ${ended.message ?? 'it was cancelled'}`)
      if (jobs.every(({ state }) => state === 'done')) return
      await new Promise((resolve) => setTimeout(resolve, 250))
    }
  } finally {
    stop.abort()
    await own
  }
}

/** Writes a shot's data, or that of some Parts by name, to a file. */
export async function exportData(shotId: string, partNames: readonly string[], file: string) {
  const document = await documentOf(shotId)
  const shot = await shotOf(shotId)
  const parts = partNames.map((name) => oneOf(allOf(document, 'part'), name, 'Part'))
  const objects: DocumentObject[] = parts.length > 0 ? objectsOfParts(document, parts.map(({ id }) => id)) : [...document.objects.values()] // prettier-ignore
  await writeFile(file, shotDataText({ name: [shot.name, ...partNames].join(' '), whole: parts.length === 0, objects }))
  return { file, objects: objects.length }
}

/** Reads shot data into a shot, as one edit. @throws StartError when it does not fit, FormatError when it is none */
export async function importData(shotId: string, file: string, author = 'Command line') {
  const { name, objects } = readShotData(await readFile(file, 'utf8'))
  const taken = shotTaken(await documentOf(shotId), objects)
  if (typeof taken === 'string') throw new StartError(`${name} cannot be read into this shot: ${taken}`)
  const batch: EditBatch = {
    batchId: newId(),
    clientId: newId(),
    clientSequence: 0,
    author,
    baseSequence: 0,
    schemaVersion: SCHEMA_VERSION,
    label: `read ${name}`.slice(0, 200),
    undoes: null,
    patches: taken.patches,
  }
  const result = await submitBatch(shotId, batch)
  if (result.outcome === 'set-aside') throw new StartError(`${name} does not fit any more: ${result.reason}`)
  return { parts: taken.parts, edit: result.sequence }
}

/** Makes a shot of picture files or a movie and waits until it is read. */
export async function ingest(project: string, files: readonly string[], wanted: ShotSettings, told: Told = {}) {
  const settings = checked(wanted)
  const board = await listBoard()
  const known = board.filter(({ id, name }) => id === project || name === project)
  const projectId = known.length > 0 ? oneOf(board, project, 'project').id : await createProject(project)
  const sources = files.map((file) => ({ name: path.basename(file), path: file }))
  const { shotId, jobId } = await createShot(projectId, sources, settings)
  await worked([jobId], told)
  return { id: shotId, ...(await shots(projectId)).find(({ id }) => id === shotId) }
}

/** @throws StartError with what is wrong with which of them */
function checked(wanted: ShotSettings): ShotSettings {
  const settings = shotSettingsSchema.safeParse(wanted)
  if (settings.success) return settings.data
  const [issue] = settings.error.issues
  throw new StartError(`${issue!.path.join('.')}: ${issue!.message}`)
}
