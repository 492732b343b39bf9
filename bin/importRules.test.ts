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

interface Violation {
  from: string
  rule: { name: string }
}

/** What in a tree breaks which rule. */
function cruise(root: string, folders: readonly string[]): Violation[] {
  const program = path.join(project, 'node_modules', '.bin', 'depcruise')
  // Of this kind of output it ends with 0 whatever it has found.
  const args = ['--config', path.join(project, '.dependency-cruiser.cjs'), '--output-type', 'json', ...folders]
  const { summary } = JSON.parse(execFileSync(program, args, { cwd: root, encoding: 'utf8', maxBuffer: 1e9 })) as {
    summary: { violations: Violation[] }
  }
  return summary.violations
}

const ROOMS = ['core', 'formats', 'server', 'web']

function put(name: string, text: string) {
  mkdirSync(path.dirname(path.join(house, name)), { recursive: true })
  writeFileSync(path.join(house, name), text)
}

beforeAll(() => {
  house = mkdtempSync(path.join(tmpdir(), 'tender-lasso-house-'))
  for (const [name, text] of Object.entries(FILES)) put(name, text)
})
afterAll(() => rmSync(house, { recursive: true, force: true }))

/** In words, where it is planted, what it says, and the rule that it breaks. */
const PLANTED = [
  ['what is stored knows what is made of it', 'core/document/planted1.ts', "export { union } from '../evaluation'", 'core/document-knows-only-below'],
  ['the document at a time knows edits', 'core/evaluation/planted2.ts', "export { union } from '../edits'", 'core/evaluation-knows-only-below'],
  ['core knows the interface', 'core/edits/planted3.ts', "export * from '../../web/page'", 'core-knows-only-below'],
  ['core knows the server', 'core/edits/planted4.ts', "import '../../server/store'", 'core-knows-only-below'],
  ['core knows the file system', 'core/edits/planted5.ts', "import 'node:fs'", 'core-is-pure'],
  ['core knows an interface library', 'core/edits/planted6.ts', "import 'react'", 'core-knows-no-interface'],
  ['a neighbour in core reaches past an index', 'core/edits/planted7.ts', "export { union } from '../raster/union'", 'public-face-inside-core'],
  ['a neighbour in the server reaches past an index', 'server/editLog/planted8.ts', "export { run } from '../jobs/run'", 'public-face-inside-server'],
  ['the interface reaches past an index of the server', 'web/api/planted9.ts', "export { run } from '../../server/jobs/run'", 'public-face-of-server'],
  ['the server reaches past an index of the formats', 'server/handoff/planted10.ts', "export { write } from '../../formats/exr/write'", 'public-face-of-formats'],
  ['the viewer reaches past the index of the store', 'web/viewer/planted11.ts', "export { state } from '../store/state'", 'public-face-inside-web'],
  ['the store knows the viewer', 'web/store/planted12.ts', "import '../viewer/stage'", 'web/store-knows-only-below'],
  ['what keys and buttons do knows the viewer', 'web/commands/planted13.ts', "import '../viewer/stage'", 'web/commands-knows-only-below'],
  ['a worker knows the store', 'web/workers/planted14.ts', "import '../store'", 'web/workers-knows-only-below'],
  ['the interface reaches past an index', 'web/planted15.ts', "export { union } from '../core/raster/union'", 'public-face-only'],
] as const // prettier-ignore

describe('rules of imports', () => {
  it('hold for core as it is', () => expect(cruise(project, ['core'])).toEqual([]))

  it('let a house through that keeps them', () => expect(cruise(house, ROOMS)).toEqual([]))

  describe('stop it where', () => {
    let violations: Violation[]
    beforeAll(() => {
      for (const [, name, text] of PLANTED) put(name, text)
      violations = cruise(house, ROOMS)
      for (const [, name] of PLANTED) rmSync(path.join(house, name))
    })

    it.each(PLANTED)('%s', (_, name, __, rule) => {
      expect(violations.filter(({ from }) => from === name).map(({ rule }) => rule.name)).toContain(rule)
    })

    it('a rule is broken, and nowhere else', () => {
      const planted = new Set<string>(PLANTED.map(([, name]) => name))
      expect(violations.filter(({ from }) => !planted.has(from))).toEqual([])
    })
  })
})
