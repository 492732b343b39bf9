import type { EntityManager } from '@mikro-orm/postgresql'
import { JobEntity, orm, ShotEntity } from '../database'
import { lockStoredObjects } from '../editLog'
import { keys, mediaStore } from '../store'

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
  const store = mediaStore()
  const collected = { uploads: 0, originals: 0, folders: 0, objects: 0 }
  const takeAway = async (key: string, what: Exclude<keyof Collected, 'objects'>) => {
    // Somebody else may be faster; then it is gone, which is what is wanted.
    const about = await store.about(key)
    if (!about || now - about.changedAt <= GRACE_MS) return
    await store.delete(key)
    collected[what]++
  }

  for (const name of await store.list(keys.uploads)) await takeAway(keys.below(keys.uploads, name), 'uploads')

  const shots = await em.find(ShotEntity, {}, { fields: ['id', 'sources'], disableIdentityMap: true })
  const wanted = new Set(shots.flatMap(({ sources }) => sources.map(({ hash }) => hash)))
  for (const letters of await store.list(keys.originals)) {
    const under = keys.originalsUnder(letters)
    for (const name of await store.list(under)) {
      if (!wanted.has(name)) await takeAway(keys.below(under, name), 'originals')
    }
  }

  const shotIds = new Set(shots.map(({ id }) => id))
  const jobs = await em.find(JobEntity, { kind: 'export' }, { fields: ['id'], disableIdentityMap: true })
  const jobIds = new Set(jobs.map(({ id }) => id))
  for (const id of await store.list(keys.frames)) {
    if (!shotIds.has(id)) await takeAway(keys.framesOf(id), 'folders')
  }
  for (const shotId of await store.list(keys.handoffs)) {
    const key = keys.handoffsOf(shotId)
    if (!shotIds.has(shotId)) await takeAway(key, 'folders')
    else
      for (const id of await store.list(key)) if (!jobIds.has(id)) await takeAway(keys.handoff(shotId, id), 'folders')
  }

  collected.objects = await collectObjects(em)
  return collected
}

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
