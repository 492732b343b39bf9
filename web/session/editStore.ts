import { batchFromJson, toJson, type EditBatch } from '@tender-lasso/core/document'
import { openDB, type DBSchema, type IDBPDatabase } from 'idb'
import type { EditStore } from './shotSession'

interface StoreSchema extends DBSchema {
  pending: { key: [string, number]; value: { shotId: string; clientId: string; clientSequence: number; json: string } }
}

let database: Promise<IDBPDatabase<StoreSchema>> | null = null

function opened(): Promise<IDBPDatabase<StoreSchema>> {
  if (!database) {
    database = openDB<StoreSchema>('tender-lasso', 1, {
      upgrade: (db) => void db.createObjectStore('pending', { keyPath: ['clientId', 'clientSequence'] }),
    })
    // A browser that refuses now may not refuse later.
    database.catch(() => (database = null))
  }
  return database
}

/** Edits that the server has not answered yet, kept in the browser across closed tabs and crashes. */
export const browserEditStore: EditStore = {
  async keep(shotId, batch) {
    const { clientId, clientSequence } = batch
    await (await opened()).put('pending', { shotId, clientId, clientSequence, json: toJson(batch) })
  },

  async forget({ clientId, clientSequence }) {
    await (await opened()).delete('pending', [clientId, clientSequence])
  },

  async pendingOf(shotId) {
    const rows = (await (await opened()).getAll('pending')).filter((row) => row.shotId === shotId)
    rows.sort((a, b) => a.clientSequence - b.clientSequence)
    const batches: EditBatch[] = []
    let unreadable = 0
    for (const row of rows) {
      try {
        batches.push(batchFromJson(JSON.parse(row.json)))
      } catch {
        // It stays where it is: a later version may read it.
        unreadable++
      }
    }
    return { batches, unreadable }
  },
}
