import { LockMode } from '@mikro-orm/core'
import type { EntityManager } from '@mikro-orm/postgresql'
import {
  applyBatch,
  brokenObject,
  findObject,
  isConflict,
  toJson,
  type EditBatch,
  type RotoDocument,
} from '@tender-lasso/core/document'
import { DocumentError } from '@tender-lasso/core/errors'
import { SetAsideEntity, BatchEntity, insertRows, orm, ShotEntity, type ShotRow } from '../database'
import { log } from '../log'
import { notFound, Problem } from '../errors'
import { EDIT_CHANNEL } from '../live'
import { loadHead, rememberHead, writeSnapshot, type Head } from './head'

export type SubmitResult =
  | { batchId: string; outcome: 'committed'; sequence: number }
  | { batchId: string; outcome: 'set-aside'; reason: string }

/** The author of what the server itself puts into a log; nobody else may write under this name. */
export const SERVER_AUTHOR = 'server'

const SNAPSHOT_EVERY = 100

/**
 * Commits one batch of a client to the shot's log, in one transaction under the shot's row lock, or sets it aside when it
 * does not fit the head. Sent again, it answers what it answered before.
 *
 * @throws Problem 404 when the shot is gone, 409 when its log cannot be read to its end; DocumentError `invalid-patch` when
 *         the batch can fit no document or is not a client's to make, `repeated-id` when its name is another batch's
 */
export async function submitBatch(shotId: string, batch: EditBatch): Promise<SubmitResult> {
  refuseReserved(batch)
  const em = (await orm()).em.fork()
  const { result, head } = await em.transactional((tx) => commitBatch(tx, shotId, batch))
  if (head) await afterCommit(em, shotId, head)
  return result
}

/** What is kept of a committed head once its transaction has ended. */
export async function afterCommit(em: EntityManager, shotId: string, head: Head): Promise<void> {
  rememberHead(shotId, head)
  // A snapshot only saves replaying: the commit stands without it.
  if (head.sequence % SNAPSHOT_EVERY === 0) {
    await writeSnapshot(em.fork(), shotId, head).catch((error: unknown) =>
      log.error({ err: error, shotId }, 'a snapshot could not be written'),
    )
  }
}

/** The same within a transaction of the caller's, who calls {@link afterCommit} when it has ended. */
export async function commitBatch(
  tx: EntityManager,
  shotId: string,
  batch: EditBatch,
): Promise<{ result: SubmitResult; head: Head | null }> {
  const shot = await tx.findOne(ShotEntity, { id: shotId }, { lockMode: LockMode.PESSIMISTIC_WRITE })
  if (!shot) throw notFound('The shot')
  const known = await answeredBefore(tx, shotId, batch)
  if (known) return { result: known, head: null }
  const head = await loadHead(tx, shotId)
  if (head.damage) {
    throw new Problem(409, 'log-damaged', `${head.damage}. It is shown as it was before; edits cannot be stored.`)
  }
  const row = {
    shot_id: shotId,
    client_id: batch.clientId,
    client_sequence: batch.clientSequence,
    batch_id: batch.batchId,
    author: batch.author,
    label: batch.label,
    created_at: new Date(),
    payload: toJson(batch),
  }
  const next = applyBatch(head.document, batch)
  if (isConflict(next)) {
    await insertRows(tx, 'edit_aside', [{ ...row, reason: next.reason }])
    return { result: { batchId: batch.batchId, outcome: 'set-aside', reason: next.reason }, head: null }
  }
  const broken = brokenObject(next, new Set(batch.patches.map((patch) => patch.id)))
  if (broken) throw new DocumentError('invalid-patch', broken)
  const sequence = head.sequence + 1
  await insertRows(tx, 'edit_batch', [{ ...row, sequence, undoes: batch.undoes }])
  Object.assign(shot, factsOf(next), { headSequence: sequence })
  await tx.flush()
  await tx.execute(`select pg_notify(?, ?)`, [EDIT_CHANNEL, shotId])
  return { result: { batchId: batch.batchId, outcome: 'committed', sequence }, head: { sequence, document: next } }
}

/** The row's copy of what the document says of the plate: written here alone, so that they never differ. */
function factsOf(document: RotoDocument): Partial<ShotRow> {
  const shot = findObject(document, 'shot', 'shot')
  if (!shot) return {}
  const { width, height, pixelAspect, range, rate } = shot
  return {
    width,
    height,
    pixelAspect,
    firstFrame: range[0],
    lastFrame: range[1],
    rateNumerator: rate.numerator,
    rateDenominator: rate.denominator,
  }
}

/** Of the shot itself a client changes its channels, the shutter; what the plate is, only reading it can tell. */
function refuseReserved(batch: EditBatch) {
  if (batch.author === SERVER_AUTHOR) throw new DocumentError('invalid-batch', 'No artist is called "server"')
  const isOdd = batch.patches.some(({ id, kind }) => id === 'shot' && (kind === 'field' || kind === 'object'))
  if (isOdd) throw new DocumentError('invalid-patch', 'Of the shot itself only the shutter can be changed')
}

/** What a batch was answered when it was sent before; a batch is named by its id and by its client's count alike. */
async function answeredBefore(tx: EntityManager, shotId: string, batch: EditBatch): Promise<SubmitResult | null> {
  const { batchId, clientId, clientSequence } = batch
  const either = { shotId, $or: [{ batchId }, { clientId, clientSequence }] }
  const options = { exclude: ['payload' as const], disableIdentityMap: true }
  const [done] = await tx.find(BatchEntity, either, { ...options, limit: 1 })
  const [aside] = done ? [] : await tx.find(SetAsideEntity, either, { ...options, limit: 1 })
  const known = done ?? aside
  if (!known) return null
  if (known.batchId !== batchId || known.clientId !== clientId || known.clientSequence !== clientSequence) {
    throw new DocumentError('repeated-id', `The shot has another edit of that id (${batchId}) or count`)
  }
  return done
    ? { batchId, outcome: 'committed', sequence: done.sequence }
    : { batchId, outcome: 'set-aside', reason: aside!.reason }
}
