import { createHash } from 'node:crypto'
import {
  applyBatch,
  batchFromJson,
  BOUNDS,
  decodeObject,
  EMPTY_DOCUMENT,
  encodeObject,
  isConflict,
  type DocumentObject,
  type RotoDocument,
} from '@tender-lasso/core/document'
import { DocumentError } from '@tender-lasso/core/errors'
import type { EntityManager } from '@mikro-orm/postgresql'
import { Problem } from '../errors'
import { log } from '../log'
import { insertRows, SnapshotEntity, StoredObjectEntity } from '../database'

import { logRows } from './logRows'

export interface Head {
  /** Place in the log up to which the document could be read. */
  sequence: number
  document: RotoDocument
  /** Why what comes behind could not be read, in words; nothing of it is thrown away. */
  damage?: string
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
  rememberHead(shotId, { sequence: head.sequence, document: head.document })
  return head
}

/** The same, known to be at a place in the log: where this process has read as far, nothing is asked. */
export async function headAt(em: EntityManager, shotId: string, sequence: number): Promise<Head> {
  const known = heads.get(shotId)
  return known?.sequence === sequence ? known : loadHead(em, shotId)
}

export function rememberHead(shotId: string, head: Head) {
  heads.delete(shotId)
  heads.set(shotId, head)
  if (heads.size > MOST_HEADS) heads.delete(heads.keys().next().value!)
}

/** The shot is gone. */
export const forgetHead = (shotId: string) => heads.delete(shotId)

/** The document as it was after a batch of the past. @throws Problem 409 when that cannot be read */
export async function documentAt(em: EntityManager, shotId: string, sequence: number): Promise<RotoDocument> {
  const start = await fromSnapshot(em, shotId, sequence)
  const { document, damage } = await replayed(em, shotId, start, sequence)
  if (damage) throw new Problem(409, 'log-damaged', damage)
  return document
}

/** The newest snapshot that this version can read; an unreadable one only costs replaying more of the log. */
async function fromSnapshot(em: EntityManager, shotId: string, notAfter: number = BOUNDS.sequence): Promise<Head> {
  for (let latest = notAfter; ;) {
    const [snapshot] = await em.find(
      SnapshotEntity,
      { shotId, sequence: { $lte: latest } },
      { orderBy: { sequence: 'desc' }, limit: 1, disableIdentityMap: true },
    )
    if (!snapshot) return { sequence: 0, document: EMPTY_DOCUMENT }
    try {
      return { sequence: snapshot.sequence, document: { objects: await objectsOf(em, snapshot.hashes) } }
    } catch (error) {
      if (!(error instanceof DocumentError)) throw error
      log.error({ err: error, shotId, snapshot: snapshot.sequence }, 'a snapshot cannot be read')
      latest = snapshot.sequence - 1
    }
  }
}

/** @throws DocumentError `invalid-object` when one is missing or cannot be read */
async function objectsOf(em: EntityManager, hashes: readonly string[]): Promise<Map<string, DocumentObject>> {
  const rows = await em.find(StoredObjectEntity, { hash: { $in: [...hashes] } }, { disableIdentityMap: true })
  const byHash = new Map(rows.map((row) => [row.hash, row.bytes]))
  const objects = new Map<string, DocumentObject>()
  for (const hash of hashes) {
    const bytes = byHash.get(hash)
    if (!bytes) throw new DocumentError('invalid-object', `The stored object ${hash} is missing`)
    const object = decodeObject(bytes)
    encodedObjects.set(object, { bytes, hash })
    objects.set(object.id, object)
  }
  return objects
}

/** Later batches laid on a head, up to the last one that this version can read. */
async function replayed(
  em: EntityManager,
  shotId: string,
  from: Head,
  notAfter: number = BOUNDS.sequence,
): Promise<Head> {
  let { sequence, document } = from
  for (;;) {
    const rows = await logRows(em, { shotId, after: sequence, notAfter })
    if (rows.length === 0) return { sequence, document }
    for (const row of rows) {
      const next = appliedRow(document, row.payload)
      if (typeof next === 'string') {
        const damage = `Edit ${row.sequence} of this shot (${row.label}) cannot be read by this version: ${next}`
        log.error({ shotId, sequence: row.sequence }, damage)
        return { sequence, document, damage }
      }
      document = next
      sequence = row.sequence
    }
  }
}

/** The document with a stored batch, or why it cannot be had. */
function appliedRow(document: RotoDocument, payload: string): RotoDocument | string {
  try {
    const next = applyBatch(document, batchFromJson(JSON.parse(payload)))
    return isConflict(next) ? next.reason : next
  } catch (error) {
    if (error instanceof DocumentError || error instanceof SyntaxError) return error.message
    throw error
  }
}

/** Of those who write snapshots and who take away objects that none lists, one at a time works, to the end of its transaction. */
export const lockStoredObjects = (tx: EntityManager) => tx.execute('select pg_advisory_xact_lock(7031)')

/** Stores the head as a snapshot: objects that are not there yet, and the list of hashes. */
export async function writeSnapshot(em: EntityManager, shotId: string, head: Head): Promise<void> {
  const objects = [...head.document.objects.values()].map(encoded)
  await em.transactional(async (tx) => {
    await lockStoredObjects(tx)
    for (let i = 0; i < objects.length; i += 200) {
      const rows = objects.slice(i, i + 200).map(({ hash, bytes }) => ({ hash, bytes: Buffer.from(bytes) }))
      await insertRows(tx, 'document_object', rows, 'ignore')
    }
    const snapshot = { shotId, sequence: head.sequence, hashes: objects.map((object) => object.hash) }
    await tx.upsert(SnapshotEntity, snapshot, { onConflictAction: 'ignore' })
  })
}
