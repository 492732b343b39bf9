import { readdir, rm, stat } from 'node:fs/promises'
import path from 'node:path'
import type { EntityManager } from '@mikro-orm/postgresql'
import { JobEntity, orm, ShotEntity } from '../database'
import { lockStoredObjects } from '../editLog'
import { readSettings } from '../settings'

/** What nothing refers to is left alone so long: it may belong to something that is just being made. */
const GRACE_MS = 3_600_000

export interface Collected {
  uploads: number
  originals: number
  folders: number
  objects: number
}

/**
 * Takes away what nothing refers to any more: abandoned uploads, originals and frames of deleted shots, hand-offs without
 * their job, stored objects that no snapshot lists. Files changed within the last hour stay.
 *
 * @param now  milliseconds, for tests
 */
export async function collectGarbage(now = Date.now()): Promise<Collected> {
  const em = (await orm()).em.fork()
  const settings = readSettings()
  const isOld = async (file: string) => {
    const { mtimeMs, ctimeMs } = await stat(file)
    return now - Math.max(mtimeMs, ctimeMs) > GRACE_MS
  }
  const collected = { uploads: 0, originals: 0, folders: 0, objects: 0 }
  const takeAway = async (file: string, what: Exclude<keyof Collected, 'objects'>) => {
    // Somebody else may be faster; then it is gone, which is what is wanted.
    if (!(await isOld(file).catch(() => false))) return
    await rm(file, { recursive: true, force: true })
    collected[what]++
  }

  for (const name of await names(settings.uploads)) await takeAway(path.join(settings.uploads, name), 'uploads')

  const shots = await em.find(ShotEntity, {}, { fields: ['id', 'sources'], disableIdentityMap: true })
  const wanted = new Set(shots.flatMap(({ sources }) => sources.map(({ hash }) => hash)))
  for (const part of await names(settings.originals)) {
    for (const name of await names(path.join(settings.originals, part))) {
      if (!wanted.has(name)) await takeAway(path.join(settings.originals, part, name), 'originals')
    }
  }

  const shotIds = new Set(shots.map(({ id }) => id))
  const jobs = await em.find(JobEntity, { kind: 'export' }, { fields: ['id'], disableIdentityMap: true })
  const jobIds = new Set(jobs.map(({ id }) => id))
  for (const id of await names(settings.frames)) {
    if (!shotIds.has(id)) await takeAway(path.join(settings.frames, id), 'folders')
  }
  for (const shotId of await names(settings.exports)) {
    const folder = path.join(settings.exports, shotId)
    if (!shotIds.has(shotId)) await takeAway(folder, 'folders')
    else for (const id of await names(folder)) if (!jobIds.has(id)) await takeAway(path.join(folder, id), 'folders')
  }

  collected.objects = await collectObjects(em)
  return collected
}

const names = (folder: string) => readdir(folder).catch(() => [] as string[])

async function collectObjects(em: EntityManager): Promise<number> {
  return em.transactional(async (tx) => {
    await lockStoredObjects(tx)
    const rows = await tx.execute<unknown[]>(
      `delete from document_object o
       where not exists (select 1 from snapshot s where jsonb_exists(s.hashes, o.hash)) returning 1`,
    )
    return rows.length
  })
}
