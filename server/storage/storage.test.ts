import { mkdir, readdir, rm, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { closeOrm, migrate, orm, ShotEntity, StoredObjectEntity } from '../database'
import { loadHead, writeSnapshot } from '../editLog'
import { readSettings } from '../settings'
import { keepOriginal } from '../store'
import { shotInDatabase } from '../testing'
import { collectGarbage, storageUsage } from './index'

beforeAll(migrate)
afterAll(closeOrm)

const HOUR = 3_600_000

describe('what nothing refers to', () => {
  it('is collected after an hour: uploads, originals, frames, hand-offs, stored objects; what is referred to stays', async () => {
    const settings = readSettings()
    const shot = await shotInDatabase()
    const em = (await orm()).em.fork()
    await rm(settings.originals, { recursive: true, force: true })
    const file = path.join(settings.dataFolder, 'picture')
    const [kept, lost] = await Promise.all(
      ['kept', 'lost'].map(async (text) => {
        await writeFile(file + text, text)
        return keepOriginal(settings.originals, file + text)
      }),
    )
    await em.nativeUpdate(ShotEntity, { id: shot }, { sources: [{ name: 'a.png', hash: kept! }] })
    for (const folder of [path.join(settings.frames, shot), path.join(settings.frames, 'gone'), path.join(settings.exports, shot, 'noJob'), settings.uploads]) await mkdir(folder, { recursive: true }) // prettier-ignore
    await writeFile(path.join(settings.uploads, 'abandoned'), 'half')
    await writeSnapshot(em, shot, await loadHead(em.fork(), shot))
    await em.upsert(StoredObjectEntity, { hash: 'unlisted', bytes: Buffer.from('x') })
    const listed = await em.count(StoredObjectEntity, { hash: { $ne: 'unlisted' } })

    const early = await collectGarbage(Date.now() + HOUR / 2)
    expect(early).toMatchObject({ uploads: 0, originals: 0, folders: 0 })
    const late = await collectGarbage(Date.now() + HOUR * 1.1)
    expect(late.uploads).toBeGreaterThanOrEqual(1)
    expect(late.originals).toBe(1)
    const originals = (await readdir(settings.originals, { recursive: true })).join()
    expect(originals).toContain(kept)
    expect(originals).not.toContain(lost)
    expect(await readdir(settings.frames)).toContain(shot)
    expect(await readdir(settings.frames)).not.toContain('gone')
    expect(await readdir(path.join(settings.exports, shot))).toEqual([])
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
