import { rmSync } from 'node:fs'
import path from 'node:path'
import { startCluster } from './postgres'

/**
 * Databases of their own for the unit tests of server/, thrown away afterwards: one for all, and one for tests that make jobs, which those of the queue in the
 * first one would take or take away.
 */
export default async function setup() {
  const folder = path.resolve(import.meta.dirname, '..', '.test-data', 'unit')
  rmSync(folder, { recursive: true, force: true })
  const cluster = await startCluster(path.join(folder, 'postgresql'))
  const apart = await startCluster(path.join(folder, 'postgresql-apart'))
  process.env.DATABASE_URL = cluster.url
  process.env.DATABASE_URL_APART = apart.url
  process.env.TENDER_LASSO_DATA = folder
  return async () => {
    await Promise.all([cluster.stop(), apart.stop()])
    rmSync(folder, { recursive: true, force: true })
  }
}
