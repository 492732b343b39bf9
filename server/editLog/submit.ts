import { LockMode } from '@mikro-orm/core'
import { applyBatch, isConflict, toJson, type EditBatch } from '@tender-lasso/core/document'
import { AsideEntity, BatchEntity, orm, ShotEntity } from '../database'
import { notFound } from '../errors'
import { EDIT_CHANNEL } from '../live'
import { loadHead, rememberHead, writeSnapshot } from './head'

export type SubmitResult =
  { batchId: string; outcome: 'committed'; sequence: number } | { batchId: string; outcome: 'aside'; reason: string }

const SNAPSHOT_EVERY = 100

/**
 * Commits one batch to the shot's log, in one transaction under the shot's row lock, or sets it aside when it does not
 * fit the head. Sent again, it answers what it answered before.
 *
 * @throws Problem 404 when the shot is gone; DocumentError `invalid-patch` when the batch can fit no document
 */
export async function submitBatch(shotId: string, batch: EditBatch): Promise<SubmitResult> {
  const em = (await orm()).em.fork()
  const { result, head } = await em.transactional(async (tx) => {
    const shot = await tx.findOne(ShotEntity, { id: shotId }, { lockMode: LockMode.PESSIMISTIC_WRITE })
    if (!shot) throw notFound('The shot')
    const name = { shotId, clientId: batch.clientId, clientSequence: batch.clientSequence }
    const known = await tx.findOne(BatchEntity, name)
    if (known) return { result: committed(batch, known.sequence), head: null }
    const knownAside = await tx.findOne(AsideEntity, name)
    if (knownAside) return { result: aside(batch, knownAside.reason), head: null }
    const head = await loadHead(tx, shotId)
    const row = {
      ...name,
      batchId: batch.batchId,
      author: batch.author,
      label: batch.label,
      createdAt: new Date(),
      payload: toJson(batch),
    }
    const next = applyBatch(head.document, batch)
    if (isConflict(next)) {
      tx.create(AsideEntity, { ...row, reason: next.reason })
      return { result: aside(batch, next.reason), head: null }
    }
    const sequence = head.sequence + 1
    tx.create(BatchEntity, { ...row, sequence, undoes: batch.undoes })
    shot.headSequence = sequence
    await tx.flush()
    await tx.execute(`select pg_notify(?, ?)`, [EDIT_CHANNEL, shotId])
    return { result: committed(batch, sequence), head: { sequence, document: next } }
  })
  if (head) {
    rememberHead(shotId, head)
    if (head.sequence % SNAPSHOT_EVERY === 0) await writeSnapshot(em.fork(), shotId, head)
  }
  return result
}

const committed = (batch: EditBatch, sequence: number): SubmitResult => ({
  batchId: batch.batchId,
  outcome: 'committed',
  sequence,
})

const aside = (batch: EditBatch, reason: string): SubmitResult => ({ batchId: batch.batchId, outcome: 'aside', reason })
