import { encodeObjects, type HistoryEntry, type RotoDocument } from '@tender-lasso/core/document'
import type { EntityManager } from '@mikro-orm/postgresql'
import { SetAsideEntity, BatchEntity, orm, ShotEntity } from '../database'
import { notFound } from '../errors'
import { documentAt, encoded, loadHead } from './head'
import { logRows, type LogRow } from './logRows'

/**
 * The head of a shot as one binary stream of objects, and its place in the log. Where the log cannot be read to its end, the
 * document up to there, and why.
 */
export async function openDocument(
  shotId: string,
): Promise<{ sequence: number; damage: string | null; bytes: Uint8Array<ArrayBuffer> }> {
  const em = (await orm()).em.fork()
  await requireShot(em, shotId)
  const { sequence, document, damage } = await loadHead(em, shotId)
  return { sequence, damage: damage ?? null, bytes: bytesOf(document) }
}

/** The last place in the shot's log. @throws Problem 404 when the shot is gone */
export async function headSequenceOf(shotId: string): Promise<number> {
  const shot = await (await orm()).em.fork().findOne(ShotEntity, { id: shotId }, { fields: ['headSequence'] })
  if (!shot) throw notFound('The shot')
  return shot.headSequence
}

/** @throws Problem 404 when the shot is gone */
export async function requireShot(em: EntityManager, shotId: string): Promise<void> {
  if (!(await em.count(ShotEntity, { id: shotId }))) throw notFound('The shot')
}

/** The document of a shot as it was after a batch of the past, as one binary stream of objects. */
export async function openDocumentAt(shotId: string, sequence: number): Promise<Uint8Array<ArrayBuffer>> {
  const em = (await orm()).em.fork()
  await requireShot(em, shotId)
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

/** Batches after a place in the log, oldest first; an empty list is its end. */
export async function batchesSince(shotId: string, sequence: number): Promise<LogRow[]> {
  const em = (await orm()).em.fork()
  await requireShot(em, shotId)
  return logRows(em, { shotId, after: sequence })
}

/** The artist's latest batches, oldest first: what undo and redo are derived from. */
export async function batchesOf(shotId: string, author: string, limit: number): Promise<LogRow[]> {
  return logRows((await orm()).em.fork(), { shotId, author, most: limit }, true)
}

/** Batches that did not fit, newest first. */
export async function setAsideBatches(shotId: string) {
  const em = (await orm()).em.fork()
  const rows = await em.find(
    SetAsideEntity,
    { shotId },
    { orderBy: { createdAt: 'desc' }, limit: 100, exclude: ['payload'], disableIdentityMap: true },
  )
  return rows.map(({ batchId, author, label, reason, createdAt }) => ({ batchId, author, label, reason, createdAt }))
}
