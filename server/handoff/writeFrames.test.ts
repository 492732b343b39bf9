import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { NEW_OUTPUT_FIELDS, outputWith, type Output } from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { shareWork, unpackWork } from './sharedWork'
import { writeFrame, type FrameWork, type HandoffTarget } from './write'
import { writeFrames } from './writeFrames'

const frames = [1001, 1002, 1003, 1004, 1005]
const document = documentOf([
  testShot,
  testSubject,
  testPart('coat'),
  testShape('outline', 'coat', [1001, 1010], 7, 40),
])
let target: HandoffTarget

beforeAll(() => {
  target = {
    store: mkdtempSync(path.join(tmpdir(), 'tender-lasso-threads-')),
    key: '',
    shotId: 'shot',
    shotName: 'WS 010',
    width: 400,
    height: 300,
    pixelAspect: 1,
    rate: { numerator: 24, denominator: 1 },
  }
})
afterAll(() => rmSync(target.store, { recursive: true, force: true }))

function workOf(key: string, change: Partial<Output> = {}): FrameWork {
  const output = outputWith({ ...NEW_OUTPUT_FIELDS, id: 'o', name: 'Mattes', order: 0 }, change)
  const mattes = [{ partId: 'coat', name: 'coat' }]
  return { document, payload: { range: [1001, 1010], output, version: 1, sequence: 0, mattes }, target: { ...target, key } } // prettier-ignore
}
const unheard = () => Promise.resolve()

describe('a delivery in shared memory', () => {
  it('comes out as it went in, in memory of its own', () => {
    const work = workOf('shared')
    const [one, other] = [unpackWork(shareWork(work)), unpackWork(shareWork(work))]
    expect(one).toEqual(work)
    expect(one.document.objects.get('outline')).not.toBe(other.document.objects.get('outline'))
  })
})

describe('frames written by threads', () => {
  it('are the files of each delivery, in the order of the frames, though the threads are the same', async () => {
    const works = ['one', 'two', 'three'].map((key) => workOf(key, { scale: key === 'two' ? 0.5 : 1 }))
    const shared = works.map(shareWork)
    // Two at once, as chunks are; the third one makes the threads forget the first, whose rest comes after it.
    const made = await Promise.all(shared.slice(0, 2).map((work) => writeFrames(work, frames, unheard)))
    made.push(await writeFrames(shared[2]!, frames, unheard))
    const rest = await writeFrames(shared[0]!, [1009, 1008], unheard)
    for (const [i, files] of [...made, rest].entries()) {
      const work = works[i % 3]!
      const expected = i === 3 ? [1009, 1008] : frames
      const alone = { ...work, target: { ...work.target, key: 'alone' } }
      expect(files).toEqual((await Promise.all(expected.map((frame) => writeFrame(alone, frame)))).flat())
    }
  })

  it('tell of each frame, and end with what the listener throws', async () => {
    const heard: number[] = []
    await writeFrames(shareWork(workOf('heard')), frames, (done) => Promise.resolve(void heard.push(done)))
    expect(heard.sort((a, b) => a - b)).toEqual([1, 2, 3, 4, 5])
    const full = new Error('the lease ran out')
    await expect(writeFrames(shareWork(workOf('refused')), frames, () => Promise.reject(full))).rejects.toBe(full)
  })

  it('refuse in the words and by the code of what was wrong', async () => {
    const work = shareWork(workOf('plateless', { layout: 'overlay', format: 'h264' }))
    await expect(writeFrames(work, frames, unheard)).rejects.toMatchObject({
      status: 409,
      code: 'no-plate',
      message: expect.stringContaining('of the plate is not there') as string,
    })
  })

  it('say by its code what the disk refused', async () => {
    const work = workOf('unwritable')
    const shared = shareWork({ ...work, target: { ...work.target, store: '/dev/null' } })
    await expect(writeFrames(shared, frames, unheard)).rejects.toMatchObject({ code: 'ENOTDIR' })
  })

  it('end for the reason that they were ended for, and the next delivery finds threads', async () => {
    const ending = new AbortController()
    const reason = new Error('the job was cancelled')
    const ended = writeFrames(shareWork(workOf('cancelled')), frames, unheard, ending.signal)
    setTimeout(() => ending.abort(reason), 1)
    await expect(ended).rejects.toBe(reason)
    expect(await writeFrames(shareWork(workOf('after')), frames, unheard)).toHaveLength(frames.length)
  })
})
