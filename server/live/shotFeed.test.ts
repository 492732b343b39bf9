import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { constantSet } from '@tender-lasso/core/edits'
import { depthOn } from '@tender-lasso/core/evaluation'
import { findObject, channelOf } from '@tender-lasso/core/document'
import { closeOrm, migrate, orm } from '../database'
import { batchesSince, loadHead, submitBatch } from '../editLog'
import { countedBatch, shotInDatabase } from '../testing'
import { followShot, type Follower } from './index'

beforeAll(migrate)
afterAll(closeOrm)

const decoder = new TextDecoder()

class Reader implements Follower {
  text = ''
  dropped = 0
  /** Bytes that may wait; what is taken is never read. */
  room = Infinity

  take(bytes: Uint8Array) {
    this.text += decoder.decode(bytes)
    this.room -= bytes.length
    return this.room > 0
  }

  drop() {
    this.dropped++
  }

  get sequences() {
    return [...this.text.matchAll(/^id: (\d+)\ndata: \{"sequence":(\d+),/gm)].map(([, id, sequence]) => {
      expect(id).toBe(sequence)
      return Number(id)
    })
  }
}

async function edit(shot: string, count: number) {
  for (let i = 0; i < count; i++) {
    const part = findObject((await loadHead((await orm()).em.fork(), shot)).document, 'part', 'coat')!
    await submitBatch(shot, countedBatch(constantSet(channelOf(part, 'depth'), [depthOn(part, 1001) + 1])))
  }
}

async function until(holds: () => boolean, what: string) {
  for (let i = 0; i < 400; i++) {
    if (holds()) return
    await new Promise((resolve) => setTimeout(resolve, 25))
  }
  throw new Error(`${what}: waited in vain`)
}

const counting = () => {
  let reads = 0
  const read: typeof batchesSince = (shot, after) => {
    reads++
    return batchesSince(shot, after)
  }
  return { read, reads: () => reads }
}
const to = (last: number) => Array.from({ length: last }, (_, i) => i + 1)

describe('the live feed of a shot', () => {
  it('brings everything, also to one that opens it 600 behind, each once and in order', async () => {
    const shot = await shotInDatabase()
    await edit(shot, 600)
    const reader = new Reader()
    const leave = await followShot(shot, 0, reader, batchesSince)
    await until(() => reader.sequences.length >= 601, 'catching up')
    await edit(shot, 3)
    await until(() => reader.sequences.length >= 604, 'what came after')
    expect(reader.sequences).toEqual(to(604))
    leave()
  })

  it('misses nothing that is committed while it is opened', async () => {
    const shot = await shotInDatabase()
    const readers = Array.from({ length: 5 }, () => new Reader())
    const editing = edit(shot, 40)
    const leaves = []
    for (const reader of readers) {
      await new Promise((resolve) => setTimeout(resolve, 15))
      leaves.push(await followShot(shot, 0, reader, batchesSince))
    }
    await editing
    for (const reader of readers) {
      await until(() => reader.sequences.length >= 41, 'all')
      expect(reader.sequences).toEqual(to(41))
    }
    leaves.forEach((leave) => leave())
  })

  it('tells 200 followers of 20 edits, each of which it reads once', async () => {
    const shot = await shotInDatabase()
    const { read, reads } = counting()
    const readers = Array.from({ length: 200 }, () => new Reader())
    const leaves = await Promise.all(readers.map((reader) => followShot(shot, 1, reader, read)))
    const before = reads()
    await edit(shot, 20)
    await until(() => readers.every((reader) => reader.sequences.length >= 20), 'all of them')
    for (const reader of readers) expect(reader.sequences).toEqual(to(21).slice(1))
    // A notice, a reading, and one more that finds nothing: not one for each follower.
    expect(reads() - before).toBeLessThanOrEqual(3 * 20)
    leaves.forEach((leave) => leave())
  })

  it('drops a reader that stalls; the others go on, and it comes back from where it was', async () => {
    const shot = await shotInDatabase()
    const [stalled, lively] = [new Reader(), new Reader()]
    stalled.room = 400
    const leaves = await Promise.all([stalled, lively].map((reader) => followShot(shot, 1, reader, batchesSince)))
    await edit(shot, 6)
    await until(() => lively.sequences.length >= 6 && stalled.dropped > 0, 'the drop')
    expect(stalled.dropped).toBe(1)
    const back = new Reader()
    leaves.push(await followShot(shot, stalled.sequences.at(-1)!, back, batchesSince))
    await until(() => back.sequences.at(-1) === 7, 'coming back')
    expect([...stalled.sequences, ...back.sequences]).toEqual(to(7).slice(1))
    leaves.forEach((leave) => leave())
  })

  it('of a shot that is gone drops its followers', async () => {
    const reader = new Reader()
    await expect(followShot('nobody', 0, reader, batchesSince)).rejects.toMatchObject({ status: 404 })
  })
})
