import { execFileSync } from 'node:child_process'
import { rmSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'

const root = path.resolve(import.meta.dirname, '..')
const planted = path.join(root, 'core', 'geometry', 'planted.ts')

function cruise(): { code: number; output: string } {
  try {
    const output = execFileSync('node_modules/.bin/depcruise', ['--config', '.dependency-cruiser.cjs', 'core'], {
      cwd: root,
      encoding: 'utf8',
    })
    return { code: 0, output }
  } catch (error) {
    const failed = error as { status: number; stdout: string }
    return { code: failed.status, output: failed.stdout }
  }
}

describe('import rules', () => {
  afterAll(() => rmSync(planted, { force: true }))

  it('hold for core as it is', () => {
    expect(cruise()).toMatchObject({ code: 0 })
  })

  it('fail on a planted import up the house, of a file system and of an interface library', () => {
    writeFileSync(planted, "import '@tender-lasso/server/store'\nimport 'node:fs'\nimport 'react'\n")
    const { code, output } = cruise()
    expect(code).toBeGreaterThan(0)
    for (const rule of ['core-knows-only-below', 'core-is-pure', 'core-knows-no-interface'])
      expect(output).toContain(rule)
  })
})
