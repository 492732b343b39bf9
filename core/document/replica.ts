import { applyBatch, type EditBatch } from './batches'
import { EMPTY_DOCUMENT, type RotoDocument } from './objects'
import { isConflict } from './patches'

/** A batch the log has taken, with its place in it. */
export interface CommittedBatch {
  sequence: number
  batch: EditBatch
}

/**
 * One client's view of a shot: what the server has confirmed, its own edits that wait for an answer, and both together.
 * Immutable; every function returns a new replica.
 */
export interface Replica {
  readonly sequence: number
  readonly confirmed: RotoDocument
  readonly pending: readonly EditBatch[]
  /** Confirmed plus those pending edits that still fit. */
  readonly live: RotoDocument
}

export function replicaOf(confirmed: RotoDocument = EMPTY_DOCUMENT, sequence = 0): Replica {
  return { sequence, confirmed, pending: [], live: confirmed }
}

/** The artist's edit, applied at once and queued. Null when it does not fit what is on screen. */
export function withLocalEdit(replica: Replica, batch: EditBatch): Replica | null {
  const live = applyBatch(replica.live, batch)
  if (isConflict(live)) return null
  return { ...replica, pending: [...replica.pending, batch], live }
}

/**
 * Batches of the log, in order. Own ones leave the queue; the rest of the queue is laid on top again.
 *
 * @throws Error when a batch is missing before the first or one does not fit: the replica must be loaded again
 */
export function withCommitted(replica: Replica, committed: readonly CommittedBatch[]): Replica {
  let { sequence, confirmed, pending } = replica
  let onlyOwnInOrder = true
  for (const { sequence: next, batch } of committed) {
    if (next <= sequence) continue
    if (next !== sequence + 1) throw new Error(`Batch ${next} arrived after ${sequence}`)
    const result = applyBatch(confirmed, batch)
    if (isConflict(result)) throw new Error(`Committed batch ${next} does not fit: ${result.reason}`)
    confirmed = result
    sequence = next
    onlyOwnInOrder &&= pending[0]?.batchId === batch.batchId
    pending = pending.filter((own) => own.batchId !== batch.batchId)
  }
  const settled = { sequence, confirmed, pending, live: replica.live }
  return onlyOwnInOrder ? settled : relaid(settled)
}

/** The server set a queued batch aside: it leaves the queue and the picture. */
export function withoutPending(replica: Replica, batchId: string): Replica {
  return relaid({ ...replica, pending: replica.pending.filter((batch) => batch.batchId !== batchId) })
}

function relaid(replica: Replica): Replica {
  let live = replica.confirmed
  for (const batch of replica.pending) {
    const next = applyBatch(live, batch)
    if (!isConflict(next)) live = next
  }
  return { ...replica, live }
}
