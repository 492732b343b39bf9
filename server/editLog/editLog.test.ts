import { beforeAll, afterAll, describe, expect, it } from 'vitest'
import {
  decodeObjects,
  documentRestored,
  fieldSet,
  find,
  newId,
  objectAdded,
  patchesTakenBack,
  sameValue,
  type EditBatch,
  type Patch,
} from '@tender-lasso/core/document'
import { testBatch, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { BatchEntity, closeOrm, migrate, orm, ProjectEntity, ShotEntity, SnapshotEntity } from '../database'
import { batchesAside, batchesSince, documentAt, historyOf, loadHead, openDocument, openDocumentAt, rememberHead, submitBatch } from './index' // prettier-ignore

let sequence = 0
const batch = (patches: Patch[], overrides: Partial<EditBatch> = {}) =>
  testBatch(patches, { clientId: 'test', clientSequence: sequence++, ...overrides })

async function newShot(): Promise<string> {
  const em = (await orm()).em.fork()
  const projectId = newId()
  em.create(ProjectEntity, { id: projectId, name: 'Trial', createdAt: new Date() })
  await em.flush()
  const id = newId()
  em.create(ShotEntity, {
    id,
    projectId,
    name: 'one',
    state: 'ready',
    message: null,
    createdAt: new Date(),
    width: 64,
    height: 48,
    firstFrame: 1001,
    lastFrame: 1010,
    rateNumerator: 24,
    rateDenominator: 1,
    pixelAspect: 1,
    colourEncoding: 'sRGB',
    headSequence: 0,
    sources: [],
  })
  await em.flush()
  await submitBatch(
    id,
    batch([testShot, testSubject, testPart('coat'), testShape('outline', 'coat', [1001])].map(objectAdded)),
  )
  return id
}

describe('the edit log', () => {
  beforeAll(migrate)
  afterAll(closeOrm)

  it('commits in order, opens what was committed, and the past as it was', async () => {
    const shot = await newShot()
    const { document } = await loadHead((await orm()).em.fork(), shot)
    const part = find(document, 'part', 'coat')!
    expect(await submitBatch(shot, batch([fieldSet(part, 'name', 'overcoat')]))).toMatchObject({
      outcome: 'committed',
      sequence: 2,
    })
    const opened = await openDocument(shot)
    expect(opened.sequence).toBe(2)
    expect(decodeObjects(opened.bytes).find((o) => o.id === 'coat')).toMatchObject({ name: 'overcoat' })
    const before = await documentAt((await orm()).em.fork(), shot, 1)
    expect(find(before, 'part', 'coat')!.name).toBe('coat')
  })

  it('tells the history newest first, in pages, and gives the shot as it was; restored, it is that again', async () => {
    const shot = await newShot()
    for (const name of ['overcoat', 'cloak', 'cape']) {
      const part = find((await loadHead((await orm()).em.fork(), shot)).document, 'part', 'coat')!
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
    expect(find(restored.document, 'part', 'coat')!.name).toBe('overcoat')
    expect(documentRestored(restored.document, past)).toEqual([])
  })

  it('a batch sent twice applies once and is answered the same', async () => {
    const shot = await newShot()
    const part = find((await loadHead((await orm()).em.fork(), shot)).document, 'part', 'coat')!
    const edit = batch([fieldSet(part, 'locked', true)])
    const answers = await Promise.all([submitBatch(shot, edit), submitBatch(shot, edit), submitBatch(shot, edit)])
    expect(new Set(answers.map((a) => JSON.stringify(a))).size).toBe(1)
    expect(await batchesSince(shot, 0)).toHaveLength(2)
  })

  it('what does not fit is set aside, visibly and for good; twenty writers at once lose nothing', async () => {
    const shot = await newShot()
    const part = find((await loadHead((await orm()).em.fork(), shot)).document, 'part', 'coat')!
    const results = await Promise.all(
      Array.from({ length: 20 }, (_, i) =>
        submitBatch(shot, batch([fieldSet(part, 'name', `coat ${i}`)], { clientId: `c${i}` })),
      ),
    )
    expect(results.filter((r) => r.outcome === 'committed')).toHaveLength(1)
    expect(await batchesAside(shot)).toHaveLength(19)
  })

  it('replay from a snapshot equals replay from the beginning', async () => {
    const shot = await newShot()
    const em = (await orm()).em.fork()
    let last: EditBatch | null = null
    for (let i = 0; i < 104; i++) {
      const part = find((await loadHead(em.fork(), shot)).document, 'part', 'coat')!
      last = batch([fieldSet(part, 'depth', i + 1)])
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
    const nonsense = batch([{ kind: 'field', id: 'coat', field: 'depth', before: 0, after: 'near' }])
    await expect(submitBatch(shot, nonsense)).rejects.toMatchObject({ code: 'invalid-patch' })
    expect(await batchesSince(shot, 0)).toHaveLength(1)
  })
})
