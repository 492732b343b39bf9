import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { firstOutputs, findObject, newId, outputWith } from '@tender-lasso/core/document'
import { testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { mattesOf } from '@tender-lasso/core/handoff'
import { fieldSet, objectAdded } from '@tender-lasso/core/edits'
import { loadHead, submitBatch } from '../editLog'
import { closeOrm, LiveTokenEntity, migrate, orm } from '../database'
import { Problem } from '../errors'
import { writeFrame } from '../handoff'
import { countedBatch, shotInDatabase } from '../testing'
import { createLiveToken, LiveHandoff, liveTokens, newLiveThreads, requireLiveToken, revokeLiveToken } from './index'
import type { LiveThreads } from './liveThreads'
import type { LiveAnswer, LiveTask } from './task'
import { NewestFirst } from './newestFirst'
import { RecentFrames } from './recentFrames'

const running: LiveThreads[] = []
const threads = () => {
  const started = newLiveThreads()
  running.push(started)
  return started
}
beforeAll(migrate)
afterAll(async () => {
  await Promise.all(running.map((one) => one.close()))
  await closeOrm()
})

const never = new AbortController().signal
const granted = Promise.resolve()

/** A shot with the outputs of a new one. */
async function shotWithOutputs() {
  const shotId = await shotInDatabase()
  const outputs = firstOutputs(newId)
  await submitBatch(shotId, countedBatch(outputs.map(objectAdded)))
  return { shotId, outputs, mattes: { shotId, outputId: outputs[0]!.id }, ids: { shotId, outputId: outputs[2]!.id } }
}
const partOf = async (shotId: string, id: string) =>
  findObject((await loadHead((await orm()).em.fork(), shotId)).document, 'part', id)!

/** Sum of the pixels of a picture of one channel. */
function areaOf(file: string): number {
  const said = execFileSync('oiiotool', [file, '--croptofull', '--printstats'], { encoding: 'utf8' })
  return Number(/Stats Avg: ([\d.]+)/.exec(said)![1]) * 1280 * 720
}

class Reader {
  text = ''
  dropped = 0
  take(bytes: Uint8Array) {
    this.text += new TextDecoder().decode(bytes)
    return true
  }
  drop() {
    this.dropped++
  }
  events(name: string): Record<string, unknown>[] {
    return [...this.text.matchAll(/event: (\w+)\ndata: (.*)\n\n/g)].flatMap(([, event, data]) =>
      event === name ? [JSON.parse(data!) as Record<string, unknown>] : [],
    )
  }
}

async function until(holds: () => boolean, what: string) {
  for (let i = 0; i < 400; i++) {
    if (holds()) return
    await new Promise((resolve) => setTimeout(resolve, 25))
  }
  throw new Error(`${what}: waited in vain`)
}

describe('a live output', () => {
  it('is what the shot is now: the same version while nothing that it hangs on changes, another one after that', async () => {
    const { shotId, mattes } = await shotWithOutputs()
    const live = new LiveHandoff(threads())
    const before = await live.manifest(mattes)
    expect(before).toMatchObject({ output: 'Mattes', sequence: 2, range: [1001, 1072], width: 1280, mattes: ['Lamplighter_coat'] }) // prettier-ignore
    expect(Object.keys(before.versions)).toHaveLength(72)
    const first = await live.file(mattes, 1003, 'exr', null, never, granted)
    expect(first.version).toBe(before.versions[1003])
    expect((await live.file(mattes, 1003, 'exr', first.version, never, granted)).bytes).toBeNull()
    expect((await live.file(mattes, 1003, 'exr', 'another', never, granted)).bytes).toBe(first.bytes)

    await submitBatch(shotId, countedBatch([objectAdded({ ...testSubject, id: 'another', name: 'Another' })]))
    expect((await live.manifest(mattes)).versions).toEqual(before.versions)
    await submitBatch(shotId, countedBatch([fieldSet(await partOf(shotId, 'coat'), 'name', 'cloak')].flat()))
    const after = await live.manifest(mattes)
    for (const [frame, version] of Object.entries(after.versions)) expect(version).not.toBe(before.versions[frame])
    const again = await live.file(mattes, 1003, 'exr', first.version, never, granted)
    expect(again.version).toBe(after.versions[1003])
    expect(again.bytes).not.toBeNull()
  })

  it('is read by others: channels by name in EXR, all that is covered in PNG, ids where the output has ids', async () => {
    const { mattes, ids } = await shotWithOutputs()
    const live = new LiveHandoff(threads())
    const folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-live-'))
    const read = async (source: typeof mattes, ending: 'exr' | 'png') => {
      const file = path.join(folder, `frame.${ending}`)
      writeFileSync(file, (await live.file(source, 1001, ending, null, never, granted)).bytes!)
      return execFileSync('oiiotool', ['--info', '-v', '--stats', file], { encoding: 'utf8' })
    }
    try {
      const exr = await read(mattes, 'exr')
      // Only the pixels where there is something, within the whole picture.
      expect(exr).toMatch(/1 channel, half openexr/)
      expect(exr).toMatch(/full\/display size: 1280 x 720/)
      expect(exr).toContain('Lamplighter_coat.A')
      expect(exr).toContain('frameVersion')
      const png = await read(mattes, 'png')
      expect(png).toMatch(/1280 x\s+720, 1 channel, uint16 png/)
      expect(png).toMatch(/Stats Max: 65535/)
      expect(await read(ids, 'exr')).toMatch(/cryptomatte\/\w+\/manifest/)
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  })

  it('has the same pixels as a delivery of the same output', async () => {
    const { shotId, outputs, mattes } = await shotWithOutputs()
    const folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-live-'))
    try {
      const { document } = await loadHead((await orm()).em.fork(), shotId)
      const output = outputWith(outputs[0]!, { layout: 'channels', window: 'full' })
      const payload = { output, version: 1, sequence: 2, range: [1001, 1072] as [number, number], mattes: mattesOf(document, output) } // prettier-ignore
      const target = { store: folder, key: 'job', shotId, shotName: 'one', ...testShot }
      const [file] = await writeFrame({ document, payload, target }, 1001)
      const live = path.join(folder, 'live.exr')
      writeFileSync(live, (await new LiveHandoff(threads()).file(mattes, 1001, 'exr', null, never, granted)).bytes!)
      const said = execFileSync('oiiotool', [live, '--fullpixels', path.join(folder, 'job', file!.path), '--diff'], { encoding: 'utf8' }) // prettier-ignore
      expect(said).toContain('PASS')
      expect(execFileSync('oiiotool', ['--stats', live], { encoding: 'utf8' })).toMatch(/Stats Max: 1\.0/)
      // The same as numbers, by settings that are none of the shot's outputs; of a Part that is not there nothing.
      const handoff = new LiveHandoff(threads())
      const half = { ...output, id: 'gone', scale: 0.5 as const }
      const matte = await handoff.matte({ shotId, output: half, partId: 'coat', frame: 1001 })
      expect([matte.width, matte.height]).toEqual([640, 360])
      expect(matte.values.reduce((sum, value) => sum + value / 65535, 0)).toBeCloseTo(areaOf(live) / 4, -1)
      expect((await handoff.matte({ shotId, output: half, partId: 'x', frame: 1001 })).values.every((one) => one === 0)).toBe(true) // prettier-ignore
      // And out of the files of a delivery, in a thread as well; its refusals arrive as they are.
      const manifest = {
        shot: 'one',
        ...payload,
        width: 1280,
        height: 720,
        rate: testShot.rate,
        pictures: [],
        files: [],
      }
      const place = { store: folder, key: 'job', manifest, partId: 'coat', frame: 1001 }
      const delivered = await handoff.delivered(place)
      expect(delivered.values.reduce((sum, value) => sum + value / 65535, 0)).toBeCloseTo(areaOf(live), -2)
      await expect(handoff.delivered({ ...place, partId: 'x' })).rejects.toMatchObject({ status: 404 })
      await expect(handoff.matte({ shotId: 'none', output: half, partId: 'coat', frame: 1001 })).rejects.toMatchObject({ status: 404 }) // prettier-ignore
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  })

  it('tells followers which frames an edit changes, and nothing of one that changes none', async () => {
    const { shotId, mattes } = await shotWithOutputs()
    const live = new LiveHandoff(threads())
    const reader = new Reader()
    const leave = await live.watch(mattes, reader)
    await until(() => reader.events('settled').length === 1, 'the first look')
    const { versions } = await live.manifest(mattes)
    expect(Object.assign({}, ...reader.events('versions'))).toEqual(versions)

    reader.text = ''
    await submitBatch(shotId, countedBatch([objectAdded({ ...testSubject, id: 'another', name: 'Another' })]))
    await until(() => reader.events('settled').length === 1, 'an edit without effect')
    expect(reader.events('settled')).toEqual([{ sequence: 3 }])
    expect(reader.events('versions')).toEqual([])

    reader.text = ''
    const second = new Reader()
    const leaveToo = await live.watch(mattes, second)
    await submitBatch(shotId, countedBatch([fieldSet(await partOf(shotId, 'coat'), 'name', 'cloak')].flat()))
    await until(() => reader.events('settled').length === 1 && second.events('settled').length >= 1, 'both are told')
    const now = (await live.manifest(mattes)).versions
    expect(Object.assign({}, ...reader.events('versions'))).toEqual(now)
    expect(Object.assign({}, ...second.events('versions'))).toEqual(now)
    leave()
    leaveToo()
  })

  it('that is deleted ends its followers, and is not found any more', async () => {
    const { shotId, outputs, mattes } = await shotWithOutputs()
    const live = new LiveHandoff(threads())
    const reader = new Reader()
    await live.watch(mattes, reader)
    await until(() => reader.events('settled').length === 1, 'the first look')
    await submitBatch(shotId, countedBatch([{ kind: 'object', id: outputs[0]!.id, before: outputs[0]!, after: null }]))
    await until(() => reader.dropped === 1, 'the end')
    expect(reader.events('ended')).toMatchObject([{ reason: expect.stringContaining('The output') as string }])
    await expect(live.manifest(mattes)).rejects.toMatchObject({ status: 404 })
    await expect(live.file(mattes, 1001, 'exr', null, never, granted)).rejects.toMatchObject({ status: 404 })
  })

  it('has no frames outside its range, and none while it holds nothing', async () => {
    const { shotId, outputs, mattes } = await shotWithOutputs()
    const live = new LiveHandoff(threads())
    await expect(live.file(mattes, 1073, 'exr', null, never, granted)).rejects.toMatchObject({ status: 404 })
    const empty = { ...outputs[0]!, id: newId(), holds: { what: 'parts' as const, partIds: [] } }
    await submitBatch(shotId, countedBatch([objectAdded(empty)]))
    expect((await live.manifest({ shotId, outputId: empty.id })).versions).toEqual({})
    await expect(live.file({ shotId, outputId: empty.id }, 1001, 'exr', null, never, granted)).rejects.toMatchObject({ status: 404 }) // prettier-ignore
  })
})

describe('frames under way', () => {
  /** Threads that answer when they are told to. */
  function held() {
    const asked: { task: LiveTask; answer(answer: LiveAnswer): void }[] = []
    const facts = { shot: 's', output: 'o', sequence: 1, range: [1, 9] as [number, number], width: 1, height: 1, pixelAspect: 1, rate: { numerator: 24, denominator: 1 }, mattes: [] } // prettier-ignore
    const threads: LiveThreads = {
      ask: (task) =>
        task.what === 'versions'
          ? Promise.resolve({ versions: { ...facts, versions: (task.frames ?? []).map((frame) => `v${frame}`) } })
          : new Promise((answer) => asked.push({ task, answer })),
      warmUp: () => undefined,
      close: () => Promise.resolve(),
    }
    return { live: new LiveHandoff(threads), asked }
  }
  const source = { shotId: 's', outputId: 'o' }
  const made = { frame: { version: 'v3', bytes: new Uint8Array(8) } }

  it('are made once for all who ask', async () => {
    const { live, asked } = held()
    const both = [live.file(source, 3, 'exr', null, never, granted), live.file(source, 3, 'exr', null, never, granted)]
    await until(() => asked.length === 1, 'the making')
    asked[0]!.answer(made)
    for (const file of await Promise.all(both)) expect(file.bytes).toBe(made.frame.bytes)
    await live.file(source, 3, 'exr', null, never, granted)
    expect(asked).toHaveLength(1)
  })

  it('are neither made nor told of for who may not read them, whether there are such frames or not', async () => {
    const { live, asked } = held()
    const refused = Promise.reject<void>(new Problem(403, 'token-refused', 'no'))
    await expect(live.file(source, 3, 'exr', 'v3', never, refused)).rejects.toMatchObject({ status: 403 })
    const { shotId } = await shotWithOutputs()
    const missing = new LiveHandoff(threads()).file({ shotId, outputId: newId() }, 1, 'exr', null, never, refused)
    await expect(missing).rejects.toMatchObject({ status: 403 })
    expect(asked).toEqual([])
  })

  it('are stopped when the last one who waits is gone, and made anew for who comes then', async () => {
    const { live, asked } = held()
    const [first, second] = [new AbortController(), new AbortController()]
    const files = [first, second].map(({ signal }) => live.file(source, 3, 'exr', null, signal, granted))
    files.forEach((file) => file.catch(() => undefined))
    await until(() => asked.length === 1, 'the making')
    await new Promise((resolve) => setTimeout(resolve, 10))
    const { stop } = asked[0]!.task as { stop: Int32Array }
    first.abort()
    expect(stop[0]).toBe(0)
    second.abort()
    expect(stop[0]).toBe(1)
    const later = live.file(source, 3, 'exr', null, never, granted)
    await until(() => asked.length === 2, 'another making')
    asked[0]!.answer({ frame: null })
    asked[1]!.answer(made)
    expect((await later).bytes).toBe(made.frame.bytes)
    await expect(files[0]).rejects.toMatchObject({ status: 503 })
  })

  it('whose thread died are a word for the asker, and the next request works', async () => {
    const { live, asked } = held()
    const file = live.file(source, 3, 'exr', null, never, granted)
    await until(() => asked.length === 1, 'the making')
    asked[0]!.answer({ failure: { status: 503, code: 'live-interrupted', message: 'interrupted' } })
    await expect(file).rejects.toMatchObject({ status: 503, code: 'live-interrupted' })
    const again = live.file(source, 3, 'exr', null, never, granted)
    await until(() => asked.length === 2, 'the next making')
    asked[1]!.answer(made)
    expect((await again).version).toBe('v3')
  })

  it('wait in a row of which the newest comes first', () => {
    const row = new NewestFirst<number>()
    ;[1, 2, 3].forEach((task) => row.push(task))
    row.remove(2)
    expect([row.size, row.shift(), row.shift(), row.shift()]).toEqual([2, 3, 1, null])
  })

  it('are kept up to a number of bytes, those that were asked for last', () => {
    const recent = new RecentFrames(30)
    for (const key of ['a', 'b', 'c']) recent.put(key, new Uint8Array(10))
    recent.get('a')
    recent.put('d', new Uint8Array(10))
    expect(['a', 'b', 'c', 'd'].filter((key) => recent.get(key))).toEqual(['a', 'c', 'd'])
    recent.put('a', new Uint8Array(28))
    expect(['a', 'c', 'd'].filter((key) => recent.get(key))).toEqual(['a'])
  })
})

describe('tokens of the live hand-off', () => {
  it('read their own shot until they are revoked or end, and are stored as a hash only', async () => {
    const [shotId, other] = [await shotInDatabase(), await shotInDatabase()]
    const { info, token } = await createLiveToken(shotId, 'Comp desk', 7)
    await requireLiveToken(shotId, token)
    await expect(requireLiveToken(other, token)).rejects.toMatchObject({ status: 403 })
    await expect(requireLiveToken(shotId, `${token}x`)).rejects.toMatchObject({ status: 403 })
    await expect(requireLiveToken(shotId, null)).rejects.toMatchObject({ status: 401 })
    const em = (await orm()).em.fork()
    const row = await em.findOneOrFail(LiveTokenEntity, { id: info.id })
    expect(JSON.stringify(row)).not.toContain(token)
    expect(await liveTokens(shotId)).toMatchObject([{ name: 'Comp desk', usedAt: expect.any(String) as string }])
    await revokeLiveToken(info.id)
    await expect(requireLiveToken(shotId, token)).rejects.toMatchObject({ status: 403, message: expect.stringContaining('revoked') as string }) // prettier-ignore
    expect(await liveTokens(shotId)).toEqual([])
    await expect(revokeLiveToken(info.id)).rejects.toMatchObject({ status: 404 })

    const ended = await createLiveToken(shotId, 'Old desk', 1)
    await em.nativeUpdate(LiveTokenEntity, { id: ended.info.id }, { expiresAt: new Date(Date.now() - 1000) })
    await expect(requireLiveToken(shotId, ended.token)).rejects.toMatchObject({ status: 403, message: expect.stringContaining('ended') as string }) // prettier-ignore
    expect(await liveTokens(shotId)).toEqual([])
    await expect(createLiveToken('noSuchShot12', 'x', 1)).rejects.toMatchObject({ status: 404 })
  })
})
