import { batchFromJson, toJson, type EditBatch } from '@tender-lasso/core/document'
import { openDB, type DBSchema, type IDBPDatabase } from 'idb'

interface QueueSchema extends DBSchema {
  pending: { key: [string, number]; value: { shotId: string; clientId: string; clientSequence: number; json: string } }
}

let database: Promise<IDBPDatabase<QueueSchema>> | null = null

function queue(): Promise<IDBPDatabase<QueueSchema>> {
  database ??= openDB<QueueSchema>('tender-lasso', 1, {
    upgrade: (db) => void db.createObjectStore('pending', { keyPath: ['clientId', 'clientSequence'] }),
  })
  return database
}

/** Keeps a batch until the server has answered for it, across closed tabs and crashes. */
export async function keepPending(shotId: string, batch: EditBatch): Promise<void> {
  const { clientId, clientSequence } = batch
  await (await queue()).put('pending', { shotId, clientId, clientSequence, json: toJson(batch) })
}

export async function forgetPending(batch: EditBatch): Promise<void> {
  await (await queue()).delete('pending', [batch.clientId, batch.clientSequence])
}

/** Batches of a shot that were never answered, in the order they were made. */
export async function pendingOf(shotId: string): Promise<EditBatch[]> {
  const rows = await (await queue()).getAll('pending')
  return rows
    .filter((row) => row.shotId === shotId)
    .sort((a, b) => a.clientSequence - b.clientSequence)
    .map((row) => batchFromJson(JSON.parse(row.json)))
}
