import { chmod, mkdir, mkdtemp, readdir, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { text } from 'node:stream/consumers'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { keepOriginal, keys, openStore, type Store } from './index'

let folder: string
let store: Store
beforeAll(async () => {
  folder = await mkdtemp(path.join(tmpdir(), 'tender-lasso-store-'))
  store = openStore(path.join(folder, 'kept'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

describe('the store', () => {
  it('gives back what was put, whole, in ranges and as a stream; put again it is the new value', async () => {
    await store.put('a/b/value', 'former')
    await store.put('a/b/value', Uint8Array.from([1, 2, 3, 4, 5]))
    expect(Array.from(await store.read('a/b/value'))).toEqual([1, 2, 3, 4, 5])
    const open = await store.open('a/b/value')
    const into = new Uint8Array(6)
    expect(await open.readInto(into, 1, 3, 1)).toBe(3)
    // Beyond the end there is less than was asked for.
    expect(await open.readInto(into, 4, 2, 4)).toBe(1)
    await open.close()
    expect(Array.from(into)).toEqual([0, 2, 3, 4, 5, 0])
    await store.put('a/words', 'said')
    expect(await text(store.stream('a/words'))).toBe('said')
  })

  it('lists what lies directly below a key, and counts its bytes', async () => {
    await store.put('list/one', '12345')
    await store.put('list/below/two', '123')
    expect((await store.list('list')).toSorted()).toEqual(['below', 'one'])
    expect(await store.bytesBelow('list')).toBe(8)
    expect([await store.list('nowhere'), await store.bytesBelow('nowhere')]).toEqual([[], 0])
    await store.delete('list/below')
    expect(await store.list('list')).toEqual(['one'])
    await store.delete('list')
    expect(await store.about('list/one')).toBeNull()
    // What is gone already is as good.
    await store.delete('list')
  })

  it('says of what is not there that it is not', async () => {
    await expect(store.read('none')).rejects.toMatchObject({ code: 'ENOENT' })
    await expect(store.open('none')).rejects.toMatchObject({ code: 'ENOENT' })
    await expect(text(store.stream('none'))).rejects.toMatchObject({ code: 'ENOENT' })
    expect(await store.about('none')).toBeNull()
  })

  it('leaves no half of a value where it could not be put, and keeps the former one', async () => {
    await store.put('full/value', 'former')
    const place = path.join(folder, 'kept', 'full')
    // A folder in the way of the value: it is written, but cannot take its place.
    await mkdir(path.join(place, 'taken', 'inside'), { recursive: true })
    await expect(store.put('full/taken', 'new')).rejects.toThrow()
    expect((await readdir(place)).toSorted()).toEqual(['taken', 'value'])
    expect(new TextDecoder().decode(await store.read('full/value'))).toBe('former')
  })

  it('takes an original in once, as it is, and counts it as new when it comes again', async () => {
    const [first, second] = [path.join(folder, 'first'), path.join(folder, 'second')]
    await writeFile(first, 'picture')
    await writeFile(second, 'picture')
    const hash = await keepOriginal(store, first)
    const before = await store.about(keys.original(hash))
    await chmod(path.join(folder, 'kept', keys.original(hash)), 0o644)
    await new Promise((resolve) => setTimeout(resolve, 20))
    expect(await keepOriginal(store, second)).toBe(hash)
    const after = await store.about(keys.original(hash))
    expect(after!.bytes).toBe(7)
    expect(after!.changedAt).toBeGreaterThan(before!.changedAt)
    expect(await store.list(keys.originalsUnder(hash.slice(0, 2)))).toEqual([hash])
    expect((await stat(await store.fileOf(keys.original(hash)))).size).toBe(7)
  })
})
