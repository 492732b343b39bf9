import { spawn, type ChildProcess } from 'node:child_process'
import path from 'node:path'
import { expect, test } from './test'
import { startCluster, type Cluster } from '../bin/postgres'
import { programFile } from '../bin/programs'
import { Artist } from './artist'
import { makeOwnShot } from './ownShot'
import { DATA_FOLDER } from './playwright.config'
import { rmSync } from 'node:fs'

/** A server of its own, so that it can be killed without the others noticing. */
const PORT = 4392
const ADDRESS = `http://127.0.0.1:${PORT}`
const root = path.resolve(import.meta.dirname, '..')
const data = path.join(DATA_FOLDER, 'resilience')
let cluster: Cluster
let web: ChildProcess
let worker: ChildProcess

function start(args: string[]): ChildProcess {
  const environment = {
    ...process.env,
    DATABASE_URL: cluster.url,
    TENDER_LASSO_DATA: data,
    NODE_ENV: 'production' as const,
    PORT: String(PORT),
  }
  return spawn(process.execPath, args, { cwd: root, env: environment, stdio: 'ignore' })
}

async function startWeb() {
  web = start([programFile('web/serve.ts')])
  for (let i = 0; i < 200; i++) {
    if ((await fetch(`${ADDRESS}/api/health`).catch(() => null))?.ok) return
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  throw new Error('The server did not start')
}

async function kill(child: ChildProcess) {
  const gone = new Promise((resolve) => child.once('exit', resolve))
  child.kill('SIGKILL')
  await gone
}

test.beforeAll(async () => {
  rmSync(data, { recursive: true, force: true })
  cluster = await startCluster(path.join(data, 'postgresql'))
  const migrated = start([
    '--import',
    'tsx',
    '-e',
    "import('./server/database/index.ts').then(async (d) => { await d.migrate(); await d.closeOrm() })",
  ])
  await new Promise((resolve) => migrated.once('exit', resolve))
  worker = start([programFile('worker/main.ts')])
  await startWeb()
})

test.afterAll(async () => {
  await kill(web)
  await kill(worker)
  await cluster.stop()
  rmSync(data, { recursive: true, force: true })
})

async function drawSquare(artist: Artist, x: number, y: number) {
  await artist.key('p')
  for (const [dx, dy] of [
    [0, 0],
    [120, 0],
    [120, 120],
    [0, 120],
  ] as const) {
    await artist.click(x + dx, y + dy)
  }
  await artist.key('Enter')
  await artist.key('s')
}

test('edits made while the server is dead arrive after its restart, also in another tab, and undo survives', async ({
  page,
  context,
}) => {
  await makeOwnShot(page, 'Trial', 'three', ADDRESS)
  const artist = new Artist(page, 1280, 720)
  await artist.settle()
  await drawSquare(artist, 200, 150)
  await artist.saved()

  await kill(web)
  await artist.drag(260, 210, 330, 240)
  await artist.key('Escape')
  await artist.key('Escape')
  await drawSquare(artist, 700, 150)
  await expect(page.getByTestId('save-state')).toContainText('not sent yet')
  await startWeb()
  await artist.saved()

  const other = await context.newPage()
  await other.goto(page.url())
  await expect(other.locator('[data-part^="Part"]')).toHaveCount(2)
  // A second tab sees edits as they are made.
  await other.locator('[data-part^="Part"]').first().getByRole('button', { name: 'Hide' }).click()
  await expect(page.getByRole('button', { name: 'Show', exact: true })).toHaveCount(1)

  // Undo after a reload takes back the last edit of the artist.
  await page.reload()
  await artist.settle()
  await artist.key('Control+z')
  await expect(page.getByTestId('message')).toContainText('undo hide')
  await expect(other.getByRole('button', { name: 'Show', exact: true })).toHaveCount(0)
  await artist.key('Control+z')
  await expect(page.locator('[data-part^="Part"]')).toHaveCount(1)
  await artist.key('Control+Shift+z')
  await expect(page.locator('[data-part^="Part"]')).toHaveCount(2)
})

test('a tab closed with unsent edits offers them again when the shot is opened', async ({ page, context }) => {
  await page.goto(ADDRESS)
  await page.getByRole('link', { name: 'Open three' }).click()
  const artist = new Artist(page, 1280, 720)
  await artist.settle()
  const before = await page.locator('[data-part]').count()
  await kill(web)
  await drawSquare(artist, 450, 400)
  await expect(page.getByTestId('save-state')).toContainText('not sent yet')
  const address = page.url()
  await page.close()
  await startWeb()
  const again = await context.newPage()
  await again.goto(address)
  await expect(again.locator('[data-part]')).toHaveCount(before + 1)
  await expect(again.getByTestId('save-state')).toHaveText('saved')
})

test('an edit made while the shot is still being read is kept', async ({ page }) => {
  await page.goto(ADDRESS)
  await page.getByRole('link', { name: 'Open three' }).click()
  const artist = new Artist(page, 1280, 720)
  await artist.settle()
  const before = await page.locator('[data-part]').count()
  // The server answers at once, and its answer is long on the way.
  let letGo: () => void = () => {}
  const held = new Promise<void>((resolve) => (letGo = resolve))
  await page.route('**/document', async (route) => {
    const response = await route.fetch()
    await held
    await route.fulfill({ response })
  })
  await page.reload()
  await artist.settle()
  await drawSquare(artist, 900, 420)
  await expect(page.locator('[data-part]')).toHaveCount(1)
  letGo()
  await expect(page.locator('[data-part]')).toHaveCount(before + 1)
  await artist.saved()
  await page.unroute('**/document')
  await page.reload()
  await expect(page.locator('[data-part]')).toHaveCount(before + 1)
})
