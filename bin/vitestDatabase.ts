import { rmSync } from 'node:fs'
import path from 'node:path'
import { startCluster } from './postgres'

/** A database of its own for the unit tests of server/, thrown away afterwards. */
export default async function setup() {
  const folder = path.resolve(import.meta.dirname, '..', '.test-data', 'unit')
  rmSync(folder, { recursive: true, force: true })
  const cluster = await startCluster(path.join(folder, 'postgresql'))
  process.env.DATABASE_URL = cluster.url
  process.env.TENDER_LASSO_DATA = folder
  return async () => {
    await cluster.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}
