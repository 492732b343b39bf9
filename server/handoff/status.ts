import {
  allOf,
  batchFromJson,
  findObject,
  hasHoldouts,
  type DocumentObject,
  type EditBatch,
  type Output,
  type RotoDocument,
} from '@tender-lasso/core/document'
import { DocumentError } from '@tender-lasso/core/errors'
import { mattesOf, partsTouched, type Behind, type HandoffStatus } from '@tender-lasso/core/handoff'
import { orm } from '../database'
import { batchesSince, loadHead, requireShot } from '../editLog'
import { listJobs } from '../jobs'
import { deliveryOf, type Delivery } from './payload'

/** Beyond this nobody counts; at the most as many again are kept. */
const MOST_EDITS = 2000

const MOST_DELIVERIES = 100

/** Deliveries of a shot, and how far each output is behind. @throws Problem 404 when the shot is gone */
export async function handoffStatus(shotId: string): Promise<HandoffStatus> {
  const em = (await orm()).em.fork()
  await requireShot(em, shotId)
  const known = (await listJobs({ shotId, kind: 'export' }, MOST_DELIVERIES)).flatMap((job) => {
    const delivery = deliveryOf(job.payload)
    return delivery ? [{ job, delivery }] : []
  })
  const { document } = await loadHead(em, shotId)
  const latest = new Map<string, Delivery>()
  for (const { job, delivery } of known) {
    const former = latest.get(delivery.output.id)
    if (job.state === 'done' && (!former || delivery.version > former.version)) latest.set(delivery.output.id, delivery)
  }
  const since = Math.min(...[...latest.values()].map(({ sequence }) => sequence))
  const edits = latest.size > 0 ? touchesOf(document, await editsSince(shotId, since)) : []
  return {
    outputs: allOf(document, 'output').map((output) => {
      const delivery = latest.get(output.id)
      return { outputId: output.id, behind: delivery ? behindOf(document, output, delivery, edits) : null }
    }),
    deliveries: known.map(({ job, delivery }) => ({
      jobId: job.id,
      outputId: delivery.output.id,
      version: delivery.version,
      state: job.state,
      message: job.message ?? null,
      range: delivery.range,
      sequence: delivery.sequence,
      done: job.done,
      total: job.total,
      at: new Date(job.createdAt).toISOString(),
    })),
  }
}

interface Edit {
  sequence: number
  ids: string[]
  /** What it deleted, as it was. */
  gone: DocumentObject[]
}

/** What is known of a shot's log from a place on: that only grows, so nothing of it is read twice. */
interface ReadLog {
  /** Edits behind this place, up to that one. */
  from: number
  to: number
  edits: Edit[]
}

const readLogs = new Map<string, ReadLog>()
const MOST_SHOTS = 24

/** What the edits behind a place in the log, and perhaps some before it, did something to. */
async function editsSince(shotId: string, sequence: number): Promise<Edit[]> {
  const former = readLogs.get(shotId)
  const known = former && former.from <= sequence ? former : { from: sequence, to: sequence, edits: [] }
  let { from, to } = known
  let edits = [...known.edits]
  if (edits.length >= MOST_EDITS) {
    // Room for what came since.
    edits = edits.filter((edit) => edit.sequence > sequence)
    from = sequence
  }
  while (edits.length < MOST_EDITS) {
    const rows = await batchesSince(shotId, to)
    if (rows.length === 0) break
    for (const row of rows) edits.push(editOf(row))
    to = rows.at(-1)!.sequence
  }
  readLogs.delete(shotId)
  readLogs.set(shotId, { from, to, edits })
  if (readLogs.size > MOST_SHOTS) readLogs.delete(readLogs.keys().next().value!)
  return edits
}

/** What cannot be read by this version touches nothing that it shows. */
function editOf({ sequence, payload }: { sequence: number; payload: string }): Edit {
  let patches: EditBatch['patches']
  try {
    patches = batchFromJson(JSON.parse(payload)).patches
  } catch (error) {
    if (error instanceof DocumentError || error instanceof SyntaxError) return { sequence, ids: [], gone: [] }
    throw error
  }
  const gone = patches.flatMap((patch) =>
    patch.kind === 'object' && patch.before && !patch.after ? [patch.before] : [],
  )
  return { sequence, ids: [...new Set(patches.map(({ id }) => id))], gone }
}

/** An edit, and the Parts whose mattes may be others by it. */
interface Touch {
  edit: Edit
  partIds: Set<string>
}

function touchesOf(document: RotoDocument, edits: readonly Edit[]): Touch[] {
  // What was deleted since, so that edits of it before that are known for what they were.
  const gone = new Map(edits.flatMap((edit) => edit.gone.map((object) => [object.id, object] as const)))
  const touchedBy = partsTouched(document, gone)
  return edits.map((edit) => ({ edit, partIds: touchedBy(edit.ids) }))
}

function behindOf(document: RotoDocument, output: Output, delivery: Delivery, touches: readonly Touch[]): Behind {
  const held = new Set([...delivery.mattes, ...mattesOf(document, output)].map(({ partId }) => partId))
  // What is gone may have cut others.
  const cuts = (partId: string) => hasHoldouts(output) && (findObject(document, 'part', partId)?.holdsOut ?? true)
  const found = new Set<string>()
  let count = 0
  for (const { edit, partIds } of touches) {
    if (edit.sequence <= delivery.sequence) continue
    const relevant = [...partIds].filter((partId) => held.has(partId) || cuts(partId))
    if (relevant.length === 0 && !edit.ids.includes(output.id)) continue
    count++
    relevant.forEach((partId) => found.add(partId))
  }
  return { edits: count, partIds: [...found] }
}
