import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { readShotData, shotDataText } from '@tender-lasso/formats/shotData'
import { bundlePrograms } from './bundle'
import { FolderLock } from './folderLock'
import { startCluster, type Cluster } from './postgres'
import { programFile } from './programs'

const [width, height] = [640, 360]
let folder: string
const data = () => path.join(folder, 'data')

/** The command line on a data folder of its own, as a person calls it. */
function lasso(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, [programFile('bin/lasso.ts'), ...args], {
    cwd: path.resolve(import.meta.dirname, '..'),
    encoding: 'utf8',
    env: { ...process.env, DATABASE_URL: '', TENDER_LASSO_DATA: data(), TENDER_LASSO_CALLER: folder },
  })
  return { status, stdout, stderr }
}

const answered = (...args: string[]): unknown => {
  const { status, stdout, stderr } = lasso(...args, '--json')
  expect(stderr).toBe('')
  expect(status).toBe(0)
  return JSON.parse(stdout)
}

beforeAll(async () => {
  await bundlePrograms()
  // Where the user postgres can reach it.
  folder = path.resolve(import.meta.dirname, '..', '.test-data', 'cli')
  rmSync(folder, { recursive: true, force: true })
  mkdirSync(folder, { recursive: true })
  const cluster = await startCluster(path.join(data(), 'postgresql'))
  await cluster.stop()
  for (const frame of [1001, 1002, 1003]) {
    const grey = sharp({ create: { width, height, channels: 3, background: { r: frame % 256, g: 90, b: 60 } } })
    await grey.png().toFile(path.join(folder, `plate.${frame}.png`))
  }
  const objects = [{ ...testShot, width, height }, testSubject, testPart('coat'), testShape('outline', 'coat', [1001])]
  writeFileSync(path.join(folder, 'cut.json'), shotDataText({ name: 'cut', whole: true, objects }))
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

describe('the command line while the application is not running', () => {
  it('reads a plate and shot data, lists, writes outputs into a folder, and gives the data back', () => {
    expect(answered('projects')).toEqual([])
    const files = [1001, 1002, 1003].map((frame) => `plate.${frame}.png`)
    expect(answered('ingest', 'Wick Street', 'ÖL 1', ...files)).toMatchObject({ name: 'ÖL 1', frames: '1001-1003', size: `${width}x${height}`, state: 'ready' }) // prettier-ignore
    expect(answered('shots', '--project', 'Wick Street')).toMatchObject([{ name: 'ÖL 1', project: 'Wick Street' }])
    expect(answered('import', 'ÖL 1', 'cut.json')).toMatchObject({ parts: 1 })
    expect(answered('write', 'ÖL 1', 'Mattes', 'Object ids', '--to', 'given')).toMatchObject([
      { output: 'Mattes', version: 1, frames: '1001-1003', mattes: 1, place: 'OL_1/Mattes/v001' },
      { output: 'Object ids', version: 1, place: 'OL_1/Object_ids/v001' },
    ])
    const place = path.join(folder, 'given', 'OL_1', 'Mattes', 'v001')
    const manifest = JSON.parse(readFileSync(path.join(place, 'manifest.json'), 'utf8')) as { files: { path: string }[] } // prettier-ignore
    expect(manifest.files).toHaveLength(3)
    for (const file of manifest.files) expect(existsSync(path.join(place, file.path))).toBe(true)
    expect(answered('outputs', 'ÖL 1')).toMatchObject([
      { name: 'Mattes', version: 1, behind: 0 },
      { name: 'Channels', version: null, behind: null },
      { name: 'Object ids', version: 1, behind: 0 },
    ])
    answered('export', 'ÖL 1', 'back.json', '--part', 'coat')
    const { objects } = readShotData(readFileSync(path.join(folder, 'back.json'), 'utf8'))
    expect(objects.map(({ id }) => id).sort()).toEqual(['coat', 'lamplighter', 'outline'])
  }, 240_000)

  it('says what is wrong on the error stream: 1 where it cannot be done, 2 where it is asked for wrongly', () => {
    for (const [args, status, words] of [
      [['outputs', 'nothing'], 1, 'There is no shot nothing'],
      [['import', 'ÖL 1', 'nothing.json'], 1, 'nothing.json'],
      [['import', 'ÖL 1', 'plate.1001.png'], 1, 'no JSON'],
      [['write', 'ÖL 1', 'Hats'], 1, 'There is no output Hats'],
      [['dance'], 2, "unknown command 'dance'"],
      [['ingest', 'p', 's', 'plate.1001.png', '--rate', 'fast'], 2, 'a rate is a number'],
    ] as const) {
      const said = lasso(...args)
      expect([said.status, said.stdout]).toEqual([status, ''])
      expect(said.stderr).toContain(words)
      expect(said.stderr).not.toContain('    at ')
    }
    const help = lasso('--help')
    expect(help.status).toBe(0)
    for (const command of ['projects', 'shots', 'outputs', 'write', 'export', 'import', 'ingest']) expect(help.stdout).toContain(command) // prettier-ignore
  }, 240_000)
})

describe('while it is running on the same folder', () => {
  let cluster: Cluster
  let lock: FolderLock
  beforeAll(async () => {
    lock = await FolderLock.take(data(), 'somewhere')
    cluster = await startCluster(path.join(data(), 'postgresql'))
  })
  afterAll(async () => {
    await cluster.stop()
    lock.release()
  })

  it('the running database is asked, and stays', () => {
    expect(answered('outputs', 'ÖL 1')).toHaveLength(3)
    expect(answered('shots')).toMatchObject([{ name: 'ÖL 1' }])
    expect(FolderLock.isHeld(data())).toBe(true)
  }, 120_000)
})
