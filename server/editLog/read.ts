import { encodeObjects, type HistoryEntry, type RotoDocument } from '@tender-lasso/core/document'
import { AsideEntity, BatchEntity, orm, ShotEntity } from '../database'
import { notFound } from '../errors'
import { documentAt, encoded, loadHead } from './head'

/** The head of a shot as one binary stream of objects, and its place in the log. */
export async function openDocument(shotId: string): Promise<{ sequence: number; bytes: Uint8Array<ArrayBuffer> }> {
  const em = (await orm()).em.fork()
  if (!(await em.count(ShotEntity, { id: shotId }))) throw notFound('The shot')
  const head = await loadHead(em, shotId)
  return {
    sequence: head.sequence,
    bytes: bytesOf(head.document),
  }
}

/** The document of a shot as it was after a batch of the past, as one binary stream of objects. */
export async function openDocumentAt(shotId: string, sequence: number): Promise<Uint8Array<ArrayBuffer>> {
  const em = (await orm()).em.fork()
  if (!(await em.count(ShotEntity, { id: shotId }))) throw notFound('The shot')
  return bytesOf(await documentAt(em, shotId, sequence))
}

function bytesOf(document: RotoDocument): Uint8Array<ArrayBuffer> {
  return encodeObjects([...document.objects.values()].map((object) => encoded(object).bytes))
}

/** Edits of a shot, newest first, before a place in the log. */
export async function historyOf(shotId: string, before: number, limit: number): Promise<HistoryEntry[]> {
  const em = (await orm()).em.fork()
  const rows = await em.find(
    BatchEntity,
    { shotId, sequence: { $lt: before } },
    {
      orderBy: { sequence: 'desc' },
      limit,
      fields: ['sequence', 'batchId', 'author', 'label', 'createdAt', 'undoes'],
      disableIdentityMap: true,
    },
  )
  return rows.map(({ sequence, batchId, author, label, createdAt, undoes }) => ({
    sequence,
    batchId,
    author,
    label,
    at: new Date(createdAt).toISOString(),
    undoes: undoes ?? null,
  }))
}

/** Batches after a place in the log, as JSON text each, at most 500 at once. */
export async function batchesSince(shotId: string, sequence: number): Promise<{ sequence: number; payload: string }[]> {
  const em = (await orm()).em.fork()
  const rows = await em.find(
    BatchEntity,
    { shotId, sequence: { $gt: sequence } },
    { orderBy: { sequence: 'asc' }, limit: 500, disableIdentityMap: true },
  )
  return rows.map((row) => ({ sequence: row.sequence, payload: row.payload }))
}

/** The artist's latest batches, oldest first: what undo and redo are derived from. */
export async function batchesOf(
  shotId: string,
  author: string,
  limit: number,
): Promise<{ sequence: number; payload: string }[]> {
  const em = (await orm()).em.fork()
  const rows = await em.find(
    BatchEntity,
    { shotId, author },
    { orderBy: { sequence: 'desc' }, limit, disableIdentityMap: true },
  )
  return rows.reverse().map((row) => ({ sequence: row.sequence, payload: row.payload }))
}

/** Batches that did not fit, newest first. */
export async function batchesAside(shotId: string) {
  const em = (await orm()).em.fork()
  const rows = await em.find(AsideEntity, { shotId }, { orderBy: { createdAt: 'desc' }, limit: 100 })
  return rows.map(({ batchId, author, label, reason, createdAt }) => ({ batchId, author, label, reason, createdAt }))
}
