import { readFileSync } from 'node:fs'
import path from 'node:path'
import { FolderLock } from './folderLock'
import { runningCluster, startCluster } from './postgres'
import { StartError } from './startError'

/** Where all is kept, for one command: settings and database are there until it is closed. */
export interface House {
  close(): Promise<void>
}

/**
 * Makes database and store of the data folder ready for this process, whether the application is running on it or not. Where it is not, the database is started, and
 * nobody else can start meanwhile.
 *
 * @throws StartError with what to do
 */
export async function openHouse(root: string): Promise<House> {
  const folder = path.resolve(process.env.TENDER_LASSO_DATA ?? path.join(root, '.data'))
  process.env.TENDER_LASSO_DATA = folder
  process.env.TENDER_LASSO_LOG ??= 'silent'
  if (process.env.DATABASE_URL) return ready(() => Promise.resolve())
  if (!isThere(folder)) throw new StartError(`There is nothing in ${folder} yet: start the application once with bin/start, or name its folder in TENDER_LASSO_DATA`) // prettier-ignore
  if (FolderLock.isHeld(folder)) {
    const url = runningCluster(path.join(folder, 'postgresql'))
    if (!url) throw new StartError('The application is just starting: try again in a moment')
    process.env.DATABASE_URL = url
    return ready(() => Promise.resolve())
  }
  const lock = await FolderLock.take(folder, 'the command line')
  const cluster = await startCluster(path.join(folder, 'postgresql'))
  process.env.DATABASE_URL = cluster.url
  return ready(async () => {
    await cluster.stop()
    lock.release()
  })
}

function isThere(folder: string): boolean {
  try {
    return readFileSync(path.join(folder, 'postgresql', 'PG_VERSION'), 'utf8').length > 0
  } catch {
    return false
  }
}

async function ready(close: () => Promise<void>): Promise<House> {
  const { closeOrm, migrate } = await import('../server/database')
  const end = async () => {
    await closeOrm()
    await close()
  }
  try {
    await migrate()
  } catch (error) {
    await end()
    throw error
  }
  return { close: end }
}
