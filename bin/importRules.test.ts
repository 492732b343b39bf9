import { execFileSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'

const project = path.resolve(import.meta.dirname, '..')
let house: string

/** A house of a few files beside the real one, judged by the real rules. */
const FILES: Record<string, string> = {
  'tsconfig.json': '{}',
  'core/raster/union.ts': 'export const union = 1',
  'core/raster/index.ts': "export * from './union'",
  'core/evaluation/index.ts': "export { union } from '../raster'",
  'core/edits/index.ts': "export { union } from '../evaluation'",
  'web/page.ts': "export { union } from '../core/edits'",
  'server/store.ts': 'export const store = 1',
  'server/jobs/run.ts': 'export const run = 1',
  'server/jobs/index.ts': "export * from './run'",
  'formats/exr/write.ts': 'export const write = 1',
  'formats/exr/index.ts': "export * from './write'",
  'web/store/state.ts': 'export const state = 1',
  'web/store/index.ts': "export * from './state'",
  'web/viewer/stage.ts': "export { state } from '../store'",
  'web/workers/track.ts': 'export const track = 1',
  'node_modules/react/package.json': '{"name":"react","version":"1.0.0","main":"index.js"}',
  'node_modules/react/index.js': 'exports.react = 1',
}

/** Names of the rules that a tree breaks. */
function cruise(root: string, folders: readonly string[]): string[] {
  const program = path.join(project, 'node_modules', '.bin', 'depcruise')
  // Of this kind of output it ends with 0 whatever it has found.
  const args = ['--config', path.join(project, '.dependency-cruiser.cjs'), '--output-type', 'json', ...folders]
  const { summary } = JSON.parse(execFileSync(program, args, { cwd: root, encoding: 'utf8', maxBuffer: 1e9 })) as {
    summary: { violations: { rule: { name: string } }[] }
  }
  return summary.violations.map(({ rule }) => rule.name)
}

function brokenBy(name: string, text: string): string[] {
  put(name, text)
  try {
    return cruise(house, ['core', 'formats', 'server', 'web'])
  } finally {
    rmSync(path.join(house, name))
  }
}

function put(name: string, text: string) {
  mkdirSync(path.dirname(path.join(house, name)), { recursive: true })
  writeFileSync(path.join(house, name), text)
}

beforeAll(() => {
  house = mkdtempSync(path.join(tmpdir(), 'tender-lasso-house-'))
  for (const [name, text] of Object.entries(FILES)) put(name, text)
})
afterAll(() => rmSync(house, { recursive: true, force: true }))

describe('rules of imports', () => {
  it('hold for core as it is', () => expect(cruise(project, ['core'])).toEqual([]))

  it('let a house through that keeps them', () => expect(cruise(house, ['core', 'formats', 'server', 'web'])).toEqual([]))

  it.each([
    ['what is stored knows what is made of it', 'core/document/a.ts', "export { union } from '../evaluation'", 'core/document-knows-only-below'],
    ['the document at a time knows edits', 'core/evaluation/a.ts', "export { union } from '../edits'", 'core/evaluation-knows-only-below'],
    ['core knows the interface', 'core/edits/a.ts', "export * from '../../web/page'", 'core-knows-only-below'],
    ['core knows the server', 'core/edits/a.ts', "import '../../server/store'", 'core-knows-only-below'],
    ['core knows the file system', 'core/edits/a.ts', "import 'node:fs'", 'core-is-pure'],
    ['core knows an interface library', 'core/edits/a.ts', "import 'react'", 'core-knows-no-interface'],
    ['a neighbour in core reaches past an index', 'core/edits/a.ts', "export { union } from '../raster/union'", 'public-face-inside-core'],
    ['a neighbour in the server reaches past an index', 'server/editLog/a.ts', "export { run } from '../jobs/run'", 'public-face-inside-server'],
    ['the interface reaches past an index of the server', 'web/api/a.ts', "export { run } from '../../server/jobs/run'", 'public-face-of-server'],
    ['the server reaches past an index of the formats', 'server/handoff/a.ts', "export { write } from '../../formats/exr/write'", 'public-face-of-formats'],
    ['the viewer reaches past the index of the store', 'web/viewer/a.ts', "export { state } from '../store/state'", 'public-face-inside-web'],
    ['the store knows the viewer', 'web/store/a.ts', "import '../viewer/stage'", 'web/store-knows-only-below'],
    ['what keys and buttons do knows the viewer', 'web/commands/a.ts', "import '../viewer/stage'", 'web/commands-knows-only-below'],
    ['a worker knows the store', 'web/workers/a.ts', "import '../store'", 'web/workers-knows-only-below'],
    ['the interface reaches past an index', 'web/a.ts', "export { union } from '../core/raster/union'", 'public-face-only'],
  ])('stop it where %s', (_, name, text, rule) => {
    expect(brokenBy(name, text)).toContain(rule)
  })
}) // prettier-ignore
