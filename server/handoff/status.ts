import {
  allOf,
  batchFromJson,
  findObject,
  hasHoldouts,
  type DocumentObject,
  type EditBatch,
  type RotoDocument,
} from '@tender-lasso/core/document'
import { DocumentError } from '@tender-lasso/core/errors'
import { mattesOf, partsTouched } from '@tender-lasso/core/handoff'
import { JobEntity, orm, type JobRow } from '../database'
import { batchesSince, loadHead } from '../editLog'
import { framesDoneOf } from '../jobs'
import { deliveryOf, type Delivery } from './payload'

/** A delivery as a list shows it. */
export interface DeliveryInfo {
  jobId: string
  outputId: string
  version: number
  state: JobRow['state']
  message: string | null
  range: [number, number]
  sequence: number
  /** Frames. */
  done: number
  total: number
  at: string
}

/** How far an output's latest whole delivery is behind the shot. */
export interface Behind {
  /** Edits since then that touched what the output shows; at most {@link MOST_EDITS}. */
  edits: number
  /** The Parts that they touched. */
  partIds: string[]
}

export interface OutputStatus {
  outputId: string
  /** null: never delivered whole. */
  behind: Behind | null
}

export interface HandoffStatus {
  outputs: OutputStatus[]
  /** Newest first. */
  deliveries: DeliveryInfo[]
}

/** Beyond this nobody counts; at the most as many again are kept. */
const MOST_EDITS = 2000

const MOST_DELIVERIES = 100

/** Deliveries of a shot, and how far each output is behind. @throws Problem 404 when the shot is gone */
export async function handoffStatus(shotId: string): Promise<HandoffStatus> {
  const em = (await orm()).em.fork()
  const rows = await em.find(JobEntity, { shotId, kind: 'export' }, { orderBy: { createdAt: 'desc' }, limit: MOST_DELIVERIES, disableIdentityMap: true }) // prettier-ignore
  const done = await framesDoneOf(rows.map(({ id }) => id))
  const known = rows.flatMap((row) => {
    const delivery = deliveryOf(row.payload)
    return delivery ? [{ row, delivery }] : []
  })
  const { document } = await loadHead(em, shotId)
  const latest = new Map<string, Delivery>()
  for (const { row, delivery } of known) {
    const former = latest.get(delivery.output.id)
    if (row.state === 'done' && (!former || delivery.version > former.version)) latest.set(delivery.output.id, delivery)
  }
  const since = Math.min(Infinity, ...[...latest.values()].map(({ sequence }) => sequence))
  const edits = Number.isFinite(since) ? await editsSince(shotId, since) : []
  return {
    outputs: allOf(document, 'output').map(({ id }) => {
      const delivery = latest.get(id)
      return { outputId: id, behind: delivery ? behindOf(document, delivery, edits) : null }
    }),
    deliveries: known.map(({ row, delivery }) => ({
      jobId: row.id,
      outputId: delivery.output.id,
      version: delivery.version,
      state: row.state,
      message: row.message ?? null,
      range: delivery.range,
      sequence: delivery.sequence,
      done: row.state === 'done' ? row.total : Math.min(row.total, done.get(row.id) ?? 0),
      total: row.total,
      at: new Date(row.createdAt).toISOString(),
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

function behindOf(document: RotoDocument, delivery: Delivery, edits: readonly Edit[]): Behind {
  const output = findObject(document, 'output', delivery.output.id)!
  const held = new Set([...delivery.mattes, ...mattesOf(document, output)].map(({ partId }) => partId))
  // What was deleted since, so that edits of it before that are known for what they were.
  const gone = new Map(edits.flatMap((edit) => edit.gone.map((object) => [object.id, object] as const)))
  const found = new Set<string>()
  let count = 0
  for (const { sequence, ids } of edits) {
    if (sequence <= delivery.sequence) continue
    const touched = partsTouched(document, ids, gone)
    const cuts = (partId: string) => {
      const part = findObject(document, 'part', partId)
      // What is gone may have cut others.
      return hasHoldouts(output) && (!part || part.holdsOut)
    }
    const relevant = [...touched].filter((partId) => held.has(partId) || cuts(partId))
    const isOutputChanged = ids.includes(output.id)
    if (relevant.length === 0 && !isOutputChanged) continue
    count++
    relevant.forEach((partId) => found.add(partId))
  }
  return { edits: count, partIds: [...found] }
}
