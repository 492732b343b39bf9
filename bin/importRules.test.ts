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
}

function brokenRules(planted: Record<string, string>): string[] {
  for (const [name, text] of Object.entries(planted)) put(name, text)
  try {
    const program = path.join(project, 'node_modules', '.bin', 'depcruise')
    const config = path.join(project, '.dependency-cruiser.cjs')
    // Of this kind of output it ends with 0 whatever it has found.
    const args = ['--config', config, '--output-type', 'json', 'core', 'web']
    const { summary } = JSON.parse(execFileSync(program, args, { cwd: house, encoding: 'utf8' })) as {
      summary: { violations: { rule: { name: string } }[] }
    }
    return summary.violations.map(({ rule }) => rule.name)
  } finally {
    for (const name of Object.keys(planted)) rmSync(path.join(house, name))
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
  it('let a house through that keeps them', () => expect(brokenRules({})).toEqual([]))

  it.each([
    ['what is stored knows what is made of it', 'core/document/a.ts', "export { union } from '../evaluation'", 'core/document-knows-only-below'],
    ['the document at a time knows edits', 'core/evaluation/a.ts', "export { union } from '../edits'", 'core/evaluation-knows-only-below'],
    ['core knows the interface', 'core/edits/a.ts', "export * from '../../web/page'", 'core-knows-only-below'],
    ['a neighbour in core reaches past an index', 'core/edits/a.ts', "export { union } from '../raster/union'", 'public-face-inside-core'],
    ['the interface reaches past an index', 'web/a.ts', "export { union } from '../core/raster/union'", 'public-face-only'],
  ])('stop it where %s', (_, name, text, rule) => {
    expect(brokenRules({ [name]: text })).toContain(rule)
  })
}) // prettier-ignore
