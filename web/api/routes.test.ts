import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { decodeObjects, findObject, toJson, type EditBatch } from '@tender-lasso/core/document'
import { fieldSet } from '@tender-lasso/core/edits'
import { testPart } from '@tender-lasso/core/document/testDocuments'
import { closeOrm, migrate, orm } from '@tender-lasso/server/database'
import { documentAt } from '@tender-lasso/server/editLog'
import { countedBatch, shotInDatabase } from '@tender-lasso/server/testing'
import { GET as getDocument } from '../app/api/shots/[shotId]/document/route'
import { GET as getEdits, POST as postEdits } from '../app/api/shots/[shotId]/edits/route'
import { GET as getFrame } from '../app/api/shots/[shotId]/frames/[frame]/[tier]/route'
import { DELETE as deleteShot, GET as getShot } from '../app/api/shots/[shotId]/route'
import { GET as getTiles } from '../app/api/shots/[shotId]/tiles/route'
import { POST as cancelJob } from '../app/api/jobs/[jobId]/cancel/route'
import { GET as getJobs } from '../app/api/jobs/route'

beforeAll(migrate)
afterAll(closeOrm)

const at = (path: string, body?: string) =>
  new Request(`http://localhost${path}`, {
    ...(body !== undefined && { method: 'POST', body, headers: { 'Content-Type': 'application/json' } }),
  })
const params = <Names extends Record<string, string>>(names: Names) => ({ params: Promise.resolve(names) })
const sent = (shotId: string, batches: readonly unknown[]) =>
  postEdits(at('/edits', `{"batches":[${batches.map((batch) => toJson(batch)).join(',')}]}`), params({ shotId }))
const named = (name: string, before = 'coat'): EditBatch =>
  countedBatch([{ kind: 'field', id: 'coat', field: 'name', before, after: name }])

/** Status and code of a problem, which is told as RFC 9457 has it. */
async function problemOf(answer: Response) {
  expect(answer.headers.get('content-type')).toContain('application/problem+json')
  const { status, title: code } = (await answer.json()) as { status: number; title: string }
  expect(status).toBe(answer.status)
  return [status, code]
}

describe('edits of a shot', () => {
  it('are committed in their order, and a repeated send is answered the same', async () => {
    const shotId = await shotInDatabase()
    const batches = [named('overcoat'), named('cloak', 'overcoat')]
    const first = (await (await sent(shotId, batches)).json()) as unknown
    expect(first).toMatchObject([
      { outcome: 'committed', sequence: 2 },
      { outcome: 'committed', sequence: 3 },
    ])
    expect(await (await sent(shotId, batches)).json()).toEqual(first)
    const stored = await documentAt((await orm()).em.fork(), shotId, 3)
    expect(findObject(stored, 'part', 'coat')!.name).toBe('cloak')
  })

  it('that do not fit are set aside, and can be asked for; those behind are committed', async () => {
    const shotId = await shotInDatabase()
    const answers = (await (await sent(shotId, [named('cloak', 'cape'), named('overcoat')])).json()) as unknown
    expect(answers).toMatchObject([{ outcome: 'set-aside' }, { outcome: 'committed', sequence: 2 }])
    const list = (await (await getEdits(at('/edits?aside=1'), params({ shotId }))).json()) as unknown[]
    expect(list).toHaveLength(1)
    const since = (await (await getEdits(at('/edits?since=1'), params({ shotId }))).json()) as { sequence: number }[]
    expect(since.map(({ sequence }) => sequence)).toEqual([2])
  })

  it('that nothing can be made of are refused each for itself; all refused, the request is', async () => {
    const shotId = await shotInDatabase()
    const nonsense = { ...named('x'), patches: [] }
    const mixed = await sent(shotId, [nonsense, named('overcoat')])
    expect(await mixed.json()).toMatchObject([{ outcome: 'refused', code: 'invalid-batch' }, { outcome: 'committed' }])
    expect(await problemOf(await sent(shotId, [nonsense]))).toEqual([422, 'invalid-batch'])
    for (const body of ['{half', '[]', '{"batches":[]}', '{}']) {
      const [status] = await problemOf(await postEdits(at('/edits', body), params({ shotId })))
      expect([400, 422], body).toContain(status)
    }
  })

  it('of a shot that is not there are not found, of a name that can be none not even looked for', async () => {
    expect(await problemOf(await sent('noSuchShot12', [named('x')]))).toEqual([404, 'not-found'])
    expect(await problemOf(await sent('../../etc', [named('x')]))).toEqual([404, 'not-found'])
    const query = await getEdits(at('/edits?since=-1'), params({ shotId: 'noSuchShot12' }))
    expect(await problemOf(query)).toEqual([422, 'invalid-input'])
  })
})

describe('a shot', () => {
  it('gives its document with its place in the log, also as it was', async () => {
    const shotId = await shotInDatabase()
    await sent(shotId, [named('overcoat')])
    const nameOf = async (answer: Response) =>
      decodeObjects(new Uint8Array(await answer.arrayBuffer())).find(({ id }) => id === 'coat')
    const now = await getDocument(at('/document'), params({ shotId }))
    expect(now.headers.get('X-Sequence')).toBe('2')
    expect(await nameOf(now)).toMatchObject({ name: 'overcoat' })
    expect(await nameOf(await getDocument(at('/document?sequence=1'), params({ shotId })))).toMatchObject({
      name: 'coat',
    })
  })

  it('without a plate has no frames: it says which, and refuses what is no frame', async () => {
    const shotId = await shotInDatabase()
    const frame = await getFrame(at('/frame'), params({ shotId, frame: '1001', tier: 'display' }))
    expect((await problemOf(frame))[0]).toBeGreaterThanOrEqual(404)
    const odd = await getFrame(at('/frame'), params({ shotId, frame: 'first', tier: 'display' }))
    expect((await problemOf(odd))[0]).toBe(422)
    const tier = await getFrame(at('/frame'), params({ shotId, frame: '1001', tier: 'secret' }))
    expect((await problemOf(tier))[0]).toBe(422)
    const block = 'plane=luma&firstColumn=0&lastColumn=0&firstRow=0&lastRow=0'
    const tiles = await getTiles(at(`/tiles?frames=1001&${block}`), params({ shotId }))
    expect((await problemOf(tiles))[0]).toBeGreaterThanOrEqual(404)
    expect((await problemOf(await getTiles(at('/tiles?frames=1001'), params({ shotId }))))[0]).toBe(422)
  })

  it('is gone after it is deleted, its edits with it', async () => {
    const shotId = await shotInDatabase()
    expect((await getShot(at('/shot'), params({ shotId }))).status).toBe(200)
    expect((await deleteShot(at('/shot'), params({ shotId }))).status).toBe(204)
    expect(await problemOf(await getShot(at('/shot'), params({ shotId })))).toEqual([404, 'not-found'])
    expect(await problemOf(await sent(shotId, [named('overcoat')]))).toEqual([404, 'not-found'])
    expect(await problemOf(await deleteShot(at('/shot'), params({ shotId })))).toEqual([404, 'not-found'])
  })
})

describe('jobs', () => {
  it('of a shot without any are none, and one that is not there cannot be cancelled', async () => {
    const shotId = await shotInDatabase()
    expect(await (await getJobs(at(`/jobs?shot=${shotId}`))).json()).toEqual([])
    expect(await problemOf(await cancelJob(at('/cancel', ''), params({ jobId: 'noSuchJob123' })))).toEqual([404, 'not-found']) // prettier-ignore
  })
})

it('what is written by an edit is what the schema says, to the last field', async () => {
  const shotId = await shotInDatabase()
  const document = await documentAt((await orm()).em.fork(), shotId, 1)
  const part = findObject(document, 'part', 'coat')!
  expect(part).toEqual(testPart('coat'))
  const answer = await sent(shotId, [countedBatch([fieldSet(part, 'locked', true)])])
  expect(await answer.json()).toMatchObject([{ outcome: 'committed' }])
})
