import { mkdir, readdir, rm, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { closeOrm, migrate, orm, ShotEntity, StoredObjectEntity } from '../database'
import { loadHead, writeSnapshot } from '../editLog'
import { keepOriginal, keys, mediaStore, storeAddress } from '../store'
import { shotInDatabase } from '../testing'
import { collectGarbage, storageUsage } from './index'

beforeAll(migrate)
afterAll(closeOrm)

const HOUR = 3_600_000

describe('what nothing refers to', () => {
  it('is collected after an hour: uploads, originals, frames, hand-offs, stored objects; what is referred to stays', async () => {
    const store = mediaStore()
    const at = (key: string) => path.join(storeAddress(), key)
    const shot = await shotInDatabase()
    const em = (await orm()).em.fork()
    await rm(at(keys.originals), { recursive: true, force: true })
    const file = at('picture')
    const [kept, lost] = await Promise.all(
      ['kept', 'lost'].map(async (text) => {
        await writeFile(file + text, text)
        return keepOriginal(store, file + text)
      }),
    )
    await em.nativeUpdate(ShotEntity, { id: shot }, { sources: [{ name: 'a.png', hash: kept! }] })
    for (const folder of [keys.framesOf(shot), keys.framesOf('gone'), keys.handoff(shot, 'noJob'), keys.uploads].map(at)) await mkdir(folder, { recursive: true }) // prettier-ignore
    await writeFile(at(keys.below(keys.uploads, 'abandoned')), 'half')
    await writeSnapshot(em, shot, await loadHead(em.fork(), shot))
    await em.upsert(StoredObjectEntity, { hash: 'unlisted', bytes: Buffer.from('x') })
    const listed = await em.count(StoredObjectEntity, { hash: { $ne: 'unlisted' } })

    const early = await collectGarbage(Date.now() + HOUR / 2)
    expect(early).toMatchObject({ uploads: 0, originals: 0, folders: 0 })
    const late = await collectGarbage(Date.now() + HOUR * 1.1)
    expect(late.uploads).toBeGreaterThanOrEqual(1)
    expect(late.originals).toBe(1)
    const originals = (await readdir(at(keys.originals), { recursive: true })).join()
    expect(originals).toContain(kept)
    expect(originals).not.toContain(lost)
    expect(await store.list(keys.frames)).toContain(shot)
    expect(await store.list(keys.frames)).not.toContain('gone')
    expect(await store.list(keys.handoffsOf(shot))).toEqual([])
    expect(await em.fork().count(StoredObjectEntity, { hash: 'unlisted' })).toBe(0)
    expect(await em.fork().count(StoredObjectEntity)).toBeLessThanOrEqual(listed)
    // The snapshot's own are all there.
    await expect(loadHead(em.fork(), shot)).resolves.toMatchObject({ sequence: 1 })
  })

  it('what the data folder takes is counted by what it is for', async () => {
    const { free, total, originals } = await storageUsage()
    expect(originals).toBeGreaterThan(0)
    expect(total).toBeGreaterThan(free)
  })
})
