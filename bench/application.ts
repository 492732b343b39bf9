import { spawn, type ChildProcess } from 'node:child_process'
import path from 'node:path'
import { chromium, type Browser, type Page } from '@playwright/test'
import { decodeObjects, newId, toJson, type Patch } from '@tender-lasso/core/document'
import { testBatch } from '@tender-lasso/core/document/testDocuments'
import { programFile } from '../bin/programs'

const PORT = 4394
export const ADDRESS = `http://127.0.0.1:${PORT}`
/** The demonstration's shot. */
export const SHOT = 'demoWS010'
const root = path.resolve(import.meta.dirname, '..')
let server: ChildProcess | null = null
let browser: Browser | null = null

/** The production build on the demonstration, started once for all browser benchmarks. */
export async function workspace(shotId = SHOT): Promise<Page> {
  if (!server) {
    const environment = {
      ...process.env,
      PORT: String(PORT),
      TENDER_LASSO_DATA: path.join(root, '.test-data', 'bench'),
    }
    server = spawn(process.execPath, [programFile('bin/launch.ts')], {
      cwd: root,
      env: environment,
      stdio: 'ignore',
    })
    await until(async () => (await fetch(`${ADDRESS}/api/health`)).ok, 600)
    await until(async () => (await shotState(SHOT)) === 'ready', 240)
    browser = await chromium.launch({
      executablePath: '/usr/bin/chromium-headless-shell',
      args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'], // prettier-ignore
    })
  }
  const page = await newPage()
  await page.goto(`${ADDRESS}/shots/${shotId}`)
  await page.getByTestId('frame').waitFor()
  await page.waitForTimeout(3000)
  return page
}

export async function until(isTrue: () => Promise<boolean>, seconds: number) {
  for (let i = 0; i < seconds * 4; i++) {
    if (await isTrue().catch(() => false)) return
    await new Promise((resolve) => setTimeout(resolve, 250))
  }
  throw new Error('The application did not come up for the benchmark')
}

export const newPage = () => browser!.newPage({ viewport: { width: 1280, height: 800 } })

export async function closeBrowser() {
  await browser?.close()
  if (!server) return
  const gone = new Promise((resolve) => server!.once('exit', resolve))
  server.kill('SIGTERM')
  await gone
}

/** What changes something is JSON and says so. */
const JSON_HEADERS = { 'Content-Type': 'application/json' }

/** A shot of pictures, made as the Shot board makes it; ready when this returns. */
export async function shotOf(name: string, pictures: readonly Buffer[]): Promise<string> {
  const tus = { 'Tus-Resumable': '1.0.0' }
  const files: { upload: string; name: string }[] = []
  for (const [i, png] of pictures.entries()) {
    const made = await fetch(`${ADDRESS}/api/uploads`, {
      method: 'POST',
      headers: { ...tus, 'Upload-Length': String(png.length) },
    })
    const place = made.headers.get('location')!
    await fetch(new URL(place, ADDRESS), {
      method: 'PATCH',
      headers: { ...tus, 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' },
      body: new Uint8Array(png),
    })
    files.push({ upload: place.split('/').at(-1)!, name: `a.${1001 + i}.png` })
  }
  const board = (await (await fetch(`${ADDRESS}/api/board`)).json()) as { id: string }[]
  const settings = {
    name,
    firstFrame: 1001,
    rate: { numerator: 24, denominator: 1 },
    pixelAspect: 1,
    colourEncoding: 'sRGB',
  }
  const answer = await fetch(`${ADDRESS}/api/shots`, {
    method: 'POST',
    headers: JSON_HEADERS,
    body: JSON.stringify({ projectId: board[0]!.id, files, settings }),
  })
  if (!answer.ok) throw new Error(await answer.text())
  const { shotId } = (await answer.json()) as { shotId: string }
  await until(async () => (await shotState(shotId)) === 'ready', 240)
  return shotId
}

const shotState = async (id: string) =>
  ((await (await fetch(`${ADDRESS}/api/shots/${id}`)).json()) as { state: string }).state

export async function submit(shotId: string, label: string, patches: Patch[]) {
  const batch = testBatch(patches, { clientId: newId(), author: 'bench', label })
  const answer = await fetch(`${ADDRESS}/api/shots/${shotId}/edits`, {
    method: 'POST',
    headers: JSON_HEADERS,
    body: toJson({ batches: [batch] }),
  })
  if (!answer.ok) throw new Error(await answer.text())
}

/** Deletes objects of the demonstration as they are now, so that the next benchmark finds it as it was. */
export async function takeAway(ids: readonly string[]) {
  const answer = await fetch(`${ADDRESS}/api/shots/${SHOT}/document`)
  const objects = decodeObjects(new Uint8Array(await answer.arrayBuffer()))
  const patches = ids.map((id) => ({
    kind: 'object' as const,
    id,
    before: objects.find((object) => object.id === id)!,
    after: null,
  }))
  await submit(SHOT, 'bench shapes taken away', patches)
}
