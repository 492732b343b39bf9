import { createHash } from 'node:crypto'
import {
  applyBatch,
  batchFromJson,
  decodeObject,
  EMPTY_DOCUMENT,
  encodeObject,
  isConflict,
  type DocumentObject,
  type RotoDocument,
} from '@tender-lasso/core/document'
import type { EntityManager } from '@mikro-orm/postgresql'
import { BatchEntity, SnapshotEntity, StoredObjectEntity } from '../database'

export interface Head {
  sequence: number
  document: RotoDocument
}

// Heads of the shots in use. The log is the truth; this only saves replaying it. Oldest are dropped.
const heads = new Map<string, Head>()
const MOST_HEADS = 24

/** Encoded form of an object, kept as long as the object lives: unchanged objects are never encoded twice. */
const encodedObjects = new WeakMap<DocumentObject, { bytes: Uint8Array; hash: string }>()

export function encoded(object: DocumentObject): { bytes: Uint8Array; hash: string } {
  let known = encodedObjects.get(object)
  if (!known) {
    const bytes = encodeObject(object)
    known = { bytes, hash: createHash('sha256').update(bytes).digest('hex') }
    encodedObjects.set(object, known)
  }
  return known
}

/** The document as the log has it now: newest snapshot plus later batches. */
export async function loadHead(em: EntityManager, shotId: string): Promise<Head> {
  const head = await replayed(em, shotId, heads.get(shotId) ?? (await fromSnapshot(em, shotId)))
  rememberHead(shotId, head)
  return head
}

export function rememberHead(shotId: string, head: Head) {
  heads.delete(shotId)
  heads.set(shotId, head)
  if (heads.size > MOST_HEADS) heads.delete(heads.keys().next().value!)
}

/** The document as it was after a batch of the past. */
export async function documentAt(em: EntityManager, shotId: string, sequence: number): Promise<RotoDocument> {
  const start = await fromSnapshot(em, shotId, sequence)
  return (await replayed(em, shotId, start, sequence)).document
}

async function fromSnapshot(em: EntityManager, shotId: string, notAfter = Number.MAX_SAFE_INTEGER): Promise<Head> {
  const [snapshot] = await em.find(
    SnapshotEntity,
    { shotId, sequence: { $lte: Math.min(notAfter, 2147483647) } },
    { orderBy: { sequence: 'desc' }, limit: 1, disableIdentityMap: true },
  )
  if (!snapshot) return { sequence: 0, document: EMPTY_DOCUMENT }
  const rows = await em.find(StoredObjectEntity, { hash: { $in: snapshot.hashes } }, { disableIdentityMap: true })
  const byHash = new Map(rows.map((row) => [row.hash, row.bytes]))
  const objects = new Map<string, DocumentObject>()
  for (const hash of snapshot.hashes) {
    const bytes = byHash.get(hash)
    if (!bytes) throw new Error(`Snapshot ${snapshot.sequence} of shot ${shotId} misses the object ${hash}`)
    const object = decodeObject(bytes)
    encodedObjects.set(object, { bytes, hash })
    objects.set(object.id, object)
  }
  return { sequence: snapshot.sequence, document: { objects } }
}

async function replayed(em: EntityManager, shotId: string, from: Head, notAfter = 2147483647): Promise<Head> {
  let { sequence, document } = from
  const rows = await em.find(
    BatchEntity,
    { shotId, sequence: { $gt: sequence, $lte: notAfter } },
    { orderBy: { sequence: 'asc' }, disableIdentityMap: true },
  )
  for (const row of rows) {
    const next = applyBatch(document, batchFromJson(JSON.parse(row.payload)))
    if (isConflict(next))
      throw new Error(`Batch ${row.sequence} of shot ${shotId} does not fit its own log: ${next.reason}`)
    document = next
    sequence = row.sequence
  }
  return { sequence, document }
}

/** Stores the head as a snapshot: objects that are not there yet, and the list of hashes. */
export async function writeSnapshot(em: EntityManager, shotId: string, head: Head): Promise<void> {
  const objects = [...head.document.objects.values()].map(encoded)
  for (let i = 0; i < objects.length; i += 200) {
    await em.upsertMany(
      StoredObjectEntity,
      objects.slice(i, i + 200).map(({ hash, bytes }) => ({ hash, bytes: Buffer.from(bytes) })),
      {
        onConflictAction: 'ignore',
      },
    )
  }
  await em.upsert(
    SnapshotEntity,
    { shotId, sequence: head.sequence, hashes: objects.map((object) => object.hash) },
    { onConflictAction: 'ignore' },
  )
}
