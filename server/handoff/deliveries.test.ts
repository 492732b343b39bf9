import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  NEW_OUTPUT_FIELDS,
  findObject,
  type DocumentObject,
  type Output,
  type Patch,
} from '@tender-lasso/core/document'
import { fieldSet, objectAdded, objectsDeleted } from '@tender-lasso/core/edits'
import { testPart, testShape } from '@tender-lasso/core/document/testDocuments'
import { closeOrm, JobEntity, migrate, orm } from '../database'
import { afterCommit, commitBatch, loadHead } from '../editLog'
import { Problem } from '../errors'
import { findJob } from '../jobs'
import { countedBatch, shotInDatabase } from '../testing'
import { copyToFolder, deliveryOf, handoffStatus, repeatDelivery, startDelivery, writeFrame, writeManifest, type HandoffTarget } from './index' // prettier-ignore

const output: Output = { ...NEW_OUTPUT_FIELDS, id: 'mattes', name: 'Mattes', order: 0 }

let folder: string
const shared = process.env.DATABASE_URL
beforeAll(async () => {
  // The tests of the queue take whatever job there is.
  process.env.DATABASE_URL = process.env.DATABASE_URL_APART
  await migrate()
  folder = await mkdtemp(path.join(tmpdir(), 'tender-lasso-deliveries-'))
})
afterAll(async () => {
  await rm(folder, { recursive: true, force: true })
  await closeOrm()
  process.env.DATABASE_URL = shared
})

async function commit(shotId: string, patches: Patch[]) {
  const em = (await orm()).em.fork()
  const { head } = await em.transactional((tx) => commitBatch(tx, shotId, countedBatch(patches)))
  await afterCommit(em, shotId, head!)
}

async function shotWith(...objects: DocumentObject[]) {
  const shotId = await shotInDatabase()
  await commit(shotId, objects.map(objectAdded))
  return shotId
}

const documentOf = async (shotId: string) => (await loadHead((await orm()).em.fork(), shotId)).document
const finish = async (jobId: string) => void (await (await orm()).em.fork().nativeUpdate(JobEntity, { id: jobId }, { state: 'done' })) // prettier-ignore
const behind = async (shotId: string) => (await handoffStatus(shotId)).outputs.find((one) => one.outputId === 'mattes')!.behind // prettier-ignore

describe('deliveries of an output', () => {
  it('are counted by output, also when asked for at once, and say of what they were made', async () => {
    const shotId = await shotWith(output, { ...output, id: 'other', name: 'Other' })
    const jobs = await Promise.all([1, 2, 3].map(() => startDelivery(shotId, 'mattes')))
    await startDelivery(shotId, 'other')
    const { deliveries } = await handoffStatus(shotId)
    const versions = (id: string) => deliveries.filter(({ outputId }) => outputId === id).map(({ version }) => version)
    expect(versions('mattes').sort()).toEqual([1, 2, 3])
    expect(versions('other')).toEqual([1])
    const delivery = deliveryOf((await findJob(jobs[0]!)).payload)!
    expect(delivery).toMatchObject({
      output,
      range: [1001, 1072],
      mattes: [{ partId: 'coat', name: 'Lamplighter_coat' }],
    })
  })

  it('are refused with words where there is nothing to write', async () => {
    const shotId = await shotWith(
      { ...output, id: 'empty', holds: { what: 'parts', partIds: ['gone'] } },
      { ...output, id: 'late', range: [9000, 9001] },
    )
    await expect(startDelivery(shotId, 'nothing')).rejects.toMatchObject({ status: 404 })
    await expect(startDelivery('nowhere', 'late')).rejects.toMatchObject({ status: 404 })
    await expect(startDelivery(shotId, 'empty')).rejects.toThrow(/holds no matte/)
    await expect(startDelivery(shotId, 'late')).rejects.toThrow(Problem)
    expect((await handoffStatus(shotId)).deliveries).toEqual([])
  })

  it('fall behind by the edits that touch what the output shows, and name the Parts', async () => {
    const shotId = await shotWith(
      { ...output, holds: { what: 'parts', partIds: ['coat'] }, withHoldouts: true },
      testPart('behind', { depth: 9, holdsOut: false }),
      testPart('front', { depth: -9 }),
      testShape('pane', 'behind', [1001]),
      testShape('pole', 'front', [1001]),
    )
    expect(await behind(shotId)).toBeNull()
    const jobId = await startDelivery(shotId, 'mattes')
    expect(await behind(shotId)).toBeNull()
    await finish(jobId)
    expect(await behind(shotId)).toEqual({ edits: 0, partIds: [] })
    const named = async (id: string, name: string) => {
      const object = (await documentOf(shotId)).objects.get(id) as { name: string } & DocumentObject
      await commit(shotId, [fieldSet(object, 'name' as never, name as never)])
    }
    // What does not cut it and is not in it does not count.
    await named('pane', 'another')
    expect(await behind(shotId)).toEqual({ edits: 0, partIds: [] })
    await named('outline', 'another')
    await named('outline', 'a third')
    await named('pole', 'another')
    expect(await behind(shotId)).toEqual({ edits: 3, partIds: ['coat', 'front'] })
    // Nor does an edit of another output.
    await commit(shotId, [objectAdded({ ...output, id: 'other' })])
    expect((await behind(shotId))!.edits).toBe(3)
    const document = await documentOf(shotId)
    await commit(shotId, objectsDeleted(document, ['front']))
    expect((await behind(shotId))!.edits).toBe(4)
    await finish(await startDelivery(shotId, 'mattes'))
    expect(await behind(shotId)).toEqual({ edits: 0, partIds: [] })
    const own = findObject(await documentOf(shotId), 'output', 'mattes')!
    await commit(shotId, [{ kind: 'object', id: own.id, before: own, after: { ...own, motionBlur: false } }])
    expect(await behind(shotId)).toEqual({ edits: 1, partIds: [] })
  })

  it('are made again of the same edits with the same settings', async () => {
    const shotId = await shotWith(output)
    const first = await startDelivery(shotId, 'mattes')
    await commit(shotId, [{ kind: 'object', id: 'mattes', before: output, after: { ...output, format: 'png8' } }])
    const again = await repeatDelivery(first)
    expect((await findJob(again)).payload).toEqual((await findJob(first)).payload)
    await expect(repeatDelivery('nothing')).rejects.toMatchObject({ status: 404 })
  })

  it('of before there were outputs can still be gone on with', () => {
    const former = { partIds: ['coat'], range: [1001, 1003], withHoldouts: false, motionBlur: true, format: 'exr-half', sequence: 7, mattes: [{ partId: 'coat', name: 'coat' }] } // prettier-ignore
    expect(deliveryOf(former)).toMatchObject({ version: 1, sequence: 7, output: { layout: 'channels', format: 'exr-half', withHoldouts: false } }) // prettier-ignore
    expect(deliveryOf({ anything: 1 })).toBeNull()
  })
})

describe('a delivery copied into the folder of the administrator', () => {
  const target = (key: string): HandoffTarget => ({ store: path.join(folder, 'store'), key, shotId: key.split('/')[1]!, shotName: 'WS 010', width: 64, height: 48, pixelAspect: 1, rate: { numerator: 24, denominator: 1 } }) // prettier-ignore
  const never = new AbortController().signal

  async function delivered(key: string, version = 1) {
    const shotId = await shotWith(output)
    const document = await documentOf(shotId)
    const payload = { output, version, sequence: 1, range: [1001, 1002] as [number, number], mattes: [{ partId: 'coat', name: 'coat' }] } // prettier-ignore
    const files = [...(await writeFrame({ document, payload, target: target(key) }, 1001)), ...(await writeFrame({ document, payload, target: target(key) }, 1002))] // prettier-ignore
    await writeManifest(payload, target(key), files)
    return payload
  }

  it('lies by shot, output and version; one of the same name lies beside it, the same again over it', async () => {
    const to = path.join(folder, 'given')
    const payload = await delivered('exports/s/one')
    expect(await copyToFolder(payload, target('exports/s/one'), never, to)).toEqual({ folder: 'WS_010/Mattes/v001' })
    const place = path.join(to, 'WS_010', 'Mattes', 'v001')
    const manifest = JSON.parse(await readFile(path.join(place, 'manifest.json'), 'utf8')) as { files: { path: string }[] } // prettier-ignore
    for (const file of manifest.files) {
      const copy = await readFile(path.join(place, file.path))
      expect(copy.equals(await readFile(path.join(folder, 'store', 'exports/s/one', file.path)))).toBe(true)
    }
    await delivered('exports/s/two')
    expect((await copyToFolder(payload, target('exports/s/two'), never, to))!.folder).toBe('WS_010/Mattes/v001')
    await delivered('exports/other/one')
    expect((await copyToFolder(payload, target('exports/other/one'), never, to))!.folder).toBe('WS_010/Mattes/v001_2')
    // What somebody does to the copy is not done to what is kept.
    await writeFile(path.join(place, manifest.files[0]!.path), 'scribble')
    expect((await readFile(path.join(folder, 'store', 'exports/s/two', manifest.files[0]!.path))).toString()).not.toBe(
      'scribble',
    )
  })

  it('without its manifest while it is copied, and where none is named nowhere', async () => {
    const to = path.join(folder, 'broken')
    const payload = await delivered('exports/s/three', 2)
    await expect(
      copyToFolder(payload, target('exports/s/three'), AbortSignal.abort(new Error('stop')), to),
    ).rejects.toThrow('stop')
    expect(await readdir(path.join(to, 'WS_010', 'Mattes', 'v002'))).not.toContain('manifest.json')
    expect(await copyToFolder(payload, target('exports/s/three'), never, null)).toBeNull()
  })
})
