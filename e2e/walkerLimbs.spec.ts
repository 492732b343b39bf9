import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { LIMBS, NEAR_ARM, rigged } from './limbs'
import { test } from './test'
import { postHatAndHead } from './walker'

test.describe.configure({ mode: 'serial' })

let folder: string
test.beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-limbs-'))))
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

test('what the limbs hang on: a hat on its track, and the head below it', async ({ page }) => {
  const { artist } = await postHatAndHead(page, 'what carries the limbs')
  await artist.saved()
})

for (const limb of LIMBS.filter((one) => one !== NEAR_ARM)) {
  test(`the ${limb.id}: rigged by its joints, put right on a few frames, a table of error against keys`, ({ page }) =>
    rigged(page, limb, folder))
}
