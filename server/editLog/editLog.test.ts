import { beforeAll, afterAll, describe, expect, it } from 'vitest'
import {
  decodeObjects,
  findObject,
  patchesTakenBack,
  sameValue,
  type EditBatch,
  type Patch,
  batchFromJson,
  channelOf,
} from '@tender-lasso/core/document'
import { documentRestored, fieldSet, constantSet, keyAdded, KEY_HERE, numberChanged } from '@tender-lasso/core/edits'
import { BatchEntity, closeOrm, migrate, orm, ShotEntity, SnapshotEntity, StoredObjectEntity } from '../database'
import { countedBatch, shotInDatabase } from '../testing'
import { afterCommit, setAsideBatches, batchesOf, batchesSince, commitBatch, documentAt, forgetHead, historyOf, loadHead, openDocument, openDocumentAt, rememberHead, submitBatch } from './index' // prettier-ignore

const batch = countedBatch
const newShot = shotInDatabase

describe('the edit log', () => {
  beforeAll(migrate)
  afterAll(closeOrm)

  it('commits in order, opens what was committed, and the past as it was', async () => {
    const shot = await newShot()
    const { document } = await loadHead((await orm()).em.fork(), shot)
    const part = findObject(document, 'part', 'coat')!
    expect(await submitBatch(shot, batch([fieldSet(part, 'name', 'overcoat')]))).toMatchObject({
      outcome: 'committed',
      sequence: 2,
    })
    const opened = await openDocument(shot)
    expect(opened.sequence).toBe(2)
    expect(decodeObjects(opened.bytes).find((o) => o.id === 'coat')).toMatchObject({ name: 'overcoat' })
    const before = await documentAt((await orm()).em.fork(), shot, 1)
    expect(findObject(before, 'part', 'coat')!.name).toBe('coat')
  })

  it('tells the history newest first, in pages, and gives the shot as it was; restored, it is that again', async () => {
    const shot = await newShot()
    for (const name of ['overcoat', 'cloak', 'cape']) {
      const part = findObject((await loadHead((await orm()).em.fork(), shot)).document, 'part', 'coat')!
      await submitBatch(shot, batch([fieldSet(part, 'name', name)], { label: `name ${name}` }))
    }
    const newest = await historyOf(shot, 2147483647, 2)
    expect(newest.map(({ sequence, label, author }) => [sequence, label, author])).toEqual([
      [4, 'name cape', 'Ida'],
      [3, 'name cloak', 'Ida'],
    ])
    expect((await historyOf(shot, 3, 10)).map(({ sequence }) => sequence)).toEqual([2, 1])
    const then = decodeObjects(await openDocumentAt(shot, 2))
    expect(then.find(({ id }) => id === 'coat')).toMatchObject({ name: 'overcoat' })
    const head = await loadHead((await orm()).em.fork(), shot)
    const past = { objects: new Map(then.map((object) => [object.id, object])) }
    await submitBatch(shot, batch(documentRestored(head.document, past)))
    const restored = await loadHead((await orm()).em.fork(), shot)
    expect(findObject(restored.document, 'part', 'coat')!.name).toBe('overcoat')
    expect(documentRestored(restored.document, past)).toEqual([])
  })

  it('a batch sent twice applies once and is answered the same', async () => {
    const shot = await newShot()
    const part = findObject((await loadHead((await orm()).em.fork(), shot)).document, 'part', 'coat')!
    const edit = batch([fieldSet(part, 'locked', true)])
    const answers = await Promise.all([submitBatch(shot, edit), submitBatch(shot, edit), submitBatch(shot, edit)])
    expect(new Set(answers.map((a) => JSON.stringify(a))).size).toBe(1)
    expect(await batchesSince(shot, 0)).toHaveLength(2)
  })

  it('what does not fit is set aside, visibly and for good; twenty writers at once lose nothing', async () => {
    const shot = await newShot()
    const part = findObject((await loadHead((await orm()).em.fork(), shot)).document, 'part', 'coat')!
    const results = await Promise.all(
      Array.from({ length: 20 }, (_, i) =>
        submitBatch(shot, batch([fieldSet(part, 'name', `coat ${i}`)], { clientId: `c${i}` })),
      ),
    )
    expect(results.filter((r) => r.outcome === 'committed')).toHaveLength(1)
    expect(await setAsideBatches(shot)).toHaveLength(19)
  })

  it('replay from a snapshot equals replay from the beginning', async () => {
    const shot = await newShot()
    const em = (await orm()).em.fork()
    let last: EditBatch | null = null
    for (let i = 0; i < 104; i++) {
      const part = findObject((await loadHead(em.fork(), shot)).document, 'part', 'coat')!
      last = batch(constantSet(channelOf(part, 'depth'), [i + 1]))
      await submitBatch(shot, last)
    }
    expect(await em.count(SnapshotEntity, { shotId: shot })).toBe(1)
    rememberHead(shot, { sequence: 0, document: { objects: new Map() } })
    const slow = await loadHead(em.fork(), shot)
    const fast = await documentAt(em.fork(), shot, 105)
    for (const [id, object] of slow.document.objects) expect(sameValue(fast.objects.get(id), object)).toBe(true)
    expect(fast.objects.size).toBe(slow.document.objects.size)
    expect(slow.sequence).toBe(105)
    const undone = await submitBatch(shot, batch(patchesTakenBack(last!), { undoes: last!.batchId }))
    expect(undone.outcome).toBe('committed')
    expect(await em.count(BatchEntity, { shotId: shot })).toBe(106)
  })

  it('refuses what can fit no document with its code and keeps nothing', async () => {
    const shot = await newShot()
    const nonsense = batch([{ kind: 'field', id: 'coat', field: 'pivot', before: [0, 0], after: 'near' }])
    await expect(submitBatch(shot, nonsense)).rejects.toMatchObject({ code: 'invalid-patch' })
    expect(await batchesSince(shot, 0)).toHaveLength(1)
  })

  it('what is committed parses whole, and names that are others’ are refused; nothing of it is kept', async () => {
    const shot = await newShot()
    const pose = { time: 1001, interpolation: 'smooth' as const, values: Float64Array.of(0, 0, 0, 0, 0) }
    const poisoned = { ...pose, tangents: Float64Array.of(1, 2, 3) }
    const bad: Patch[][] = [
      [{ kind: 'field', id: 'shot', field: 'range', before: [1001, 1072], after: [1001, 1010] }],
      [{ kind: 'field', id: 'coat', field: 'life', before: null, after: [0, 9e6] }],
    ]
    for (const patches of bad) await expect(submitBatch(shot, batch(patches))).rejects.toMatchObject({ code: 'invalid-patch' }) // prettier-ignore
    const key = batch([{ kind: 'key', id: 'coat', time: 1001, before: null, after: poisoned }])
    expect(await submitBatch(shot, key)).toMatchObject({ outcome: 'set-aside' })
    const locked = (from: boolean): Patch[] => [{ kind: 'field', id: 'coat', field: 'locked', before: from, after: !from }] // prettier-ignore
    const first = batch(locked(false))
    expect(await submitBatch(shot, first)).toMatchObject({ outcome: 'committed' })
    const sameId = batch(locked(true), { batchId: first.batchId })
    const sameCount = batch(locked(true), { clientSequence: first.clientSequence })
    for (const other of [sameId, sameCount]) await expect(submitBatch(shot, other)).rejects.toMatchObject({ code: 'repeated-id' }) // prettier-ignore
    await expect(submitBatch(shot, batch(locked(true), { author: 'server' }))).rejects.toMatchObject({ code: 'invalid-batch' }) // prettier-ignore
    expect(await batchesSince(shot, 0)).toHaveLength(2)
  })

  it('of the shot itself an artist changes the shutter and keys it, and nothing else', async () => {
    const shot = await newShot()
    const head = async () => findObject((await loadHead((await orm()).em.fork(), shot)).document, 'shot', 'shot')!
    const angle = async () => channelOf(await head(), 'shutterAngle')
    const first = batch(constantSet(await angle(), [90]))
    expect(await submitBatch(shot, first)).toMatchObject({ outcome: 'committed' })
    for (const frame of [1001, 1021]) {
      expect(await submitBatch(shot, batch(keyAdded(await angle(), frame)))).toMatchObject({ outcome: 'committed' })
    }
    const wider = batch(numberChanged(await angle(), 0, { kind: 'add', by: 45 }, 1021, KEY_HERE))
    expect(await submitBatch(shot, wider)).toMatchObject({ outcome: 'committed' })
    expect((await angle()).keys.map(({ values }) => values[0])).toEqual([90, 135])
    const width: Patch[] = [{ kind: 'field', id: 'shot', field: 'width', before: 1280, after: 4 }]
    const gone: Patch[] = [{ kind: 'object', id: 'shot', before: await head(), after: null }]
    for (const patches of [width, gone]) await expect(submitBatch(shot, batch(patches))).rejects.toMatchObject({ code: 'invalid-patch' }) // prettier-ignore
    // As version 2 wrote it.
    const former = { ...batch([]), schemaVersion: 2, patches: [{ kind: 'field', id: 'shot', field: 'shutter', before: { angle: 180, phase: -90 }, after: { angle: 45, phase: -22.5 } }] } // prettier-ignore
    const other = await newShot()
    expect(await submitBatch(other, batchFromJson(former))).toMatchObject({ outcome: 'committed' })
  })

  it('the row says of the plate what the document says', async () => {
    const shot = await newShot()
    const em = (await orm()).em.fork()
    const range: Patch[] = [{ kind: 'field', id: 'shot', field: 'range', before: [1001, 1072], after: [1001, 1030] }]
    const { head } = await em.transactional((tx) => commitBatch(tx, shot, batch(range, { author: 'server' })))
    await afterCommit(em, shot, head!)
    expect(await em.fork().findOneOrFail(ShotEntity, { id: shot })).toMatchObject({ lastFrame: 1030, width: 1280 })
  })

  it('what a later version cannot read opens up to there, says so, takes no edits, and is not thrown away', async () => {
    const shot = await newShot()
    for (const name of ['overcoat', 'cloak', 'cape']) {
      const part = findObject((await loadHead((await orm()).em.fork(), shot)).document, 'part', 'coat')!
      await submitBatch(shot, batch([fieldSet(part, 'name', name)], { label: `name ${name}` }))
    }
    const em = (await orm()).em.fork()
    const stored = await em.findOneOrFail(BatchEntity, { shotId: shot, sequence: 3 })
    for (const payload of [stored.payload.replace('"cloak"', '"clo\\u0000ak"'), stored.payload.slice(0, 40)]) {
      await em.fork().nativeUpdate(BatchEntity, { shotId: shot, sequence: 3 }, { payload })
      forgetHead(shot)
      const opened = await openDocument(shot)
      expect(opened.sequence).toBe(2)
      expect(opened.damage).toContain('Edit 3 of this shot (name cloak) cannot be read')
      expect(decodeObjects(opened.bytes).find((o) => o.id === 'coat')).toMatchObject({ name: 'overcoat' })
      const edit = batch([{ kind: 'field', id: 'coat', field: 'locked', before: false, after: true }])
      await expect(submitBatch(shot, edit)).rejects.toMatchObject({ status: 409, code: 'log-damaged' })
      await expect(openDocumentAt(shot, 4)).rejects.toMatchObject({ code: 'log-damaged' })
      expect(await batchesSince(shot, 0)).toHaveLength(4)
    }
  })

  it('a snapshot that cannot be read costs replaying, not the shot', async () => {
    const shot = await newShot()
    const em = (await orm()).em.fork()
    for (let i = 0; i < 101; i++) {
      const part = findObject((await loadHead(em.fork(), shot)).document, 'part', 'coat')!
      await submitBatch(shot, batch(constantSet(channelOf(part, 'depth'), [i + 1])))
    }
    const [snapshot] = await em.find(SnapshotEntity, { shotId: shot })
    await em.nativeUpdate(StoredObjectEntity, { hash: snapshot!.hashes[0]! }, { bytes: Buffer.from('nonsense') })
    forgetHead(shot)
    const head = await loadHead(em.fork(), shot)
    expect([head.sequence, head.damage]).toEqual([102, undefined])
    await em.nativeDelete(StoredObjectEntity, { hash: snapshot!.hashes[0]! })
    forgetHead(shot)
    expect((await loadHead(em.fork(), shot)).sequence).toBe(102)
  })

  it('of very large batches only so many are read at once as memory holds; all of them arrive', async () => {
    const shot = await newShot()
    const em = (await orm()).em.fork()
    for (let i = 0; i < 5; i++) {
      const part = findObject((await loadHead(em.fork(), shot)).document, 'part', 'coat')!
      await submitBatch(shot, batch(constantSet(channelOf(part, 'depth'), [i + 1])))
    }
    // As if each had 12 million letters: spaces behind it are as good as numbers.
    await em.execute(`update edit_batch set payload = payload || repeat(' ', 12000000) where shot_id = ? and sequence > 1`, [shot]) // prettier-ignore
    const first = await batchesSince(shot, 0)
    expect(first.map(({ sequence }) => sequence)).toEqual([1, 2, 3, 4])
    expect((await batchesSince(shot, 4)).map(({ sequence }) => sequence)).toEqual([5, 6])
    expect((await batchesOf(shot, 'Ida', 200)).map(({ sequence }) => sequence)).toEqual([4, 5, 6])
    forgetHead(shot)
    expect((await loadHead(em.fork(), shot)).sequence).toBe(6)
  })
})
