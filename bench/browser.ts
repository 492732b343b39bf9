import { spawn, type ChildProcess } from 'node:child_process'
import path from 'node:path'
import { chromium, type Browser, type Page } from '@playwright/test'
import { decodeObjects, newId, objectAdded, toJson, type Patch } from '@tender-lasso/core/document'
import { testPart, testShape, testSubject } from '@tender-lasso/core/document/testDocuments'
import sharp from 'sharp'
import { median, type Benchmark } from './benchmark'
import { largeDocument } from './documents'

const PORT = 4394
const ADDRESS = `http://127.0.0.1:${PORT}`
const SHOT = 'demoWS010'
const root = path.resolve(import.meta.dirname, '..')
let server: ChildProcess | null = null
let browser: Browser | null = null

/** The production build on the demonstration, started once for all browser benchmarks. */
async function workspace(): Promise<Page> {
  if (!server) {
    const environment = {
      ...process.env,
      PORT: String(PORT),
      TENDER_LASSO_DATA: path.join(root, '.test-data', 'bench'),
    }
    server = spawn(process.execPath, ['--import', 'tsx', 'bin/launch.ts'], {
      cwd: root,
      env: environment,
      stdio: 'ignore',
    })
    await until(async () => (await fetch(`${ADDRESS}/api/health`)).ok, 600)
    await until(async () => (await shotState(SHOT)) === 'ready', 240)
    browser = await chromium.launch({
      executablePath: '/usr/bin/chromium',
      args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'], // prettier-ignore
    })
  }
  const page = await browser!.newPage({ viewport: { width: 1280, height: 800 } })
  await page.goto(`${ADDRESS}/shots/${SHOT}`)
  await page.getByTestId('frame').waitFor()
  await page.waitForTimeout(3000)
  return page
}

async function until(isTrue: () => Promise<boolean>, seconds: number) {
  for (let i = 0; i < seconds * 4; i++) {
    if (await isTrue().catch(() => false)) return
    await new Promise((resolve) => setTimeout(resolve, 250))
  }
  throw new Error('The application did not come up for the benchmark')
}

export async function closeBrowser() {
  await browser?.close()
  if (!server) return
  const gone = new Promise((resolve) => server!.once('exit', resolve))
  server.kill('SIGTERM')
  await gone
}

/** The middle of the viewer holds more than the grey that stands for a frame still to come. */
const IS_PICTURE_SHOWN = `() => {
  const canvas = document.querySelector('[data-testid="viewer"] canvas')
  if (!canvas || canvas.width < 400) return false
  const { data } = canvas.getContext('2d').getImageData(canvas.width / 2 - 50, canvas.height / 2, 100, 1)
  return data.some((value, i) => value !== data[i % 4])
}`

/**
 * Milliseconds from the address to the frame in which something is true, by the page's own clock: the test driver's
 * own scripts would take a good part of the time that is measured.
 */
async function timeToShow(shotId: string, isShown: string): Promise<{ page: Page; milliseconds: number }> {
  const page = await browser!.newPage({ viewport: { width: 1280, height: 800 } })
  await page.addInitScript(`{
    const isShown = ${isShown}
    const look = () => isShown() ? requestAnimationFrame((now) => (window.__shownAt = now)) : requestAnimationFrame(look)
    requestAnimationFrame(look)
  }`)
  await page.goto(`${ADDRESS}/shots/${shotId}`, { waitUntil: 'commit' })
  let shownAt: unknown
  await until(async () => typeof (shownAt = await page.evaluate('window.__shownAt')) === 'number', 60)
  return { page, milliseconds: shownAt as number }
}

export const openShot: Benchmark = {
  name: 'open-shot',
  goal: 1500,
  better: 'less',
  async run() {
    await (await workspace()).close()
    const times: number[] = []
    for (let i = 0; i < 7; i++) {
      const { page, milliseconds } = await timeToShow(SHOT, IS_PICTURE_SHOWN)
      times.push(milliseconds)
      await page.close()
    }
    return {
      value: median(times),
      unit: 'ms',
      notes: 'address to first picture, new page with nothing cached each time',
    }
  },
}

/** A shot of one small picture, made as the Shot board makes it. */
async function smallShot(name: string): Promise<string> {
  const png = await sharp(Buffer.alloc(64 * 48 * 3, 90), { raw: { width: 64, height: 48, channels: 3 } })
    .png()
    .toBuffer()
  const tus = { 'Tus-Resumable': '1.0.0' }
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
  const board = (await (await fetch(`${ADDRESS}/api/board`)).json()) as { id: string }[]
  const settings = {
    name,
    firstFrame: 1001,
    rate: { numerator: 24, denominator: 1 },
    pixelAspect: 1,
    colourEncoding: 'sRGB',
  }
  const files = [{ upload: place.split('/').at(-1), name: 'a.1001.png' }]
  const answer = await fetch(`${ADDRESS}/api/shots`, {
    method: 'POST',
    body: JSON.stringify({ projectId: board[0]!.id, files, settings }),
  })
  if (!answer.ok) throw new Error(await answer.text())
  const { shotId } = (await answer.json()) as { shotId: string }
  await until(async () => (await shotState(shotId)) === 'ready', 60)
  return shotId
}

const shotState = async (id: string) =>
  ((await (await fetch(`${ADDRESS}/api/shots/${id}`)).json()) as { state: string }).state

async function submit(shotId: string, label: string, patches: Patch[]) {
  const batch = { batchId: newId(), clientId: newId(), clientSequence: 0, author: 'bench', baseSequence: 0, schemaVersion: 1, label, undoes: null, patches } // prettier-ignore
  const answer = await fetch(`${ADDRESS}/api/shots/${shotId}/edits`, {
    method: 'POST',
    body: toJson({ batches: [batch] }),
  })
  if (!answer.ok) throw new Error(await answer.text())
}

/** Deletes objects of the demonstration as they are now, so that the next benchmark finds it as it was. */
async function takeAway(ids: readonly string[]) {
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

export const largeDocumentOpens: Benchmark = {
  name: 'large-document',
  goal: 2000,
  better: 'less',
  async run() {
    await (await workspace()).close()
    const shotId = await smallShot('large')
    const objects = [...largeDocument().objects.values()].filter((object) => object.kind !== 'shot')
    for (let i = 0; i < objects.length; i += 40)
      await submit(shotId, 'large', objects.slice(i, i + 40).map(objectAdded))
    const times: number[] = []
    let megabytes = 0
    for (let i = 0; i < 5; i++) {
      const { page, milliseconds } = await timeToShow(shotId, "() => document.querySelector('[data-part]')")
      times.push(milliseconds)
      megabytes = await pageMegabytes(page)
      await page.close()
    }
    return {
      value: median(times),
      unit: 'ms',
      notes: `300 shapes x 40 keys x 24 points: address to the tree of Parts; ${megabytes.toFixed(0)} MB in the page and its workers (goal 200)${megabytes > 200 ? ', missed' : ''}`,
    }
  },
}

/** What the page and its workers hold after a collection, as the browser itself measures it for isolated pages. */
async function pageMegabytes(page: Page): Promise<number> {
  const bytes = (await page.evaluate(
    'performance.measureUserAgentSpecificMemory().then((measured) => measured.bytes)',
  )) as number
  return bytes / 1e6
}

/** Milliseconds from an event to the end of the frame that shows it, measured in the page. */
const MEASURE = `window.__times = []; window.__watch = (name) => window.addEventListener(name, () => {
  const start = performance.now();
  requestAnimationFrame(() => { const channel = new MessageChannel(); channel.port1.onmessage = () => window.__times.push(performance.now() - start); channel.port2.postMessage(0) })
}, true)`

export const dragPoint: Benchmark = {
  name: 'drag-point',
  goal: 16,
  better: 'less',
  async run() {
    const subjectId = newId()
    const partId = newId()
    const shapes = Array.from({ length: 40 }, (_, i) => {
      const shape = testShape(newId(), partId, [1001, 1040], 20, 45)
      for (const key of shape.keys) {
        for (let p = 0; p < 20; p++) {
          // 4 px a frame to the right: what rests has motion blur.
          key.values[p * 10]! += (key.time - 1001) * 4 - 200 + (i % 8) * 140
          key.values[p * 10 + 1]! += -100 + Math.floor(i / 8) * 130
        }
      }
      return shape
    })
    const page = await workspace()
    await submit(
      SHOT,
      'forty shapes',
      [{ ...testSubject, id: subjectId }, testPart(partId, { subjectId }), ...shapes].map(objectAdded),
    )
    await page.waitForTimeout(1000)
    await page.evaluate(MEASURE)
    const box = (await page.getByTestId('viewer').boundingBox())!
    const zoom = Math.min((box.width - 24) / 1280, (box.height - 24) / 720)
    const place = (x: number, y: number) =>
      [box.x + (box.width - 1280 * zoom) / 2 + x * zoom, box.y + (box.height - 720 * zoom) / 2 + y * zoom] as const
    const values = shapes[12]!.keys[0]!.values
    await page.mouse.click(...place(values[0]!, values[1]!))
    await page.mouse.move(...place(values[0]!, values[1]!))
    await page.mouse.down()
    await page.evaluate("window.__watch('pointermove')")
    for (let i = 1; i <= 60; i++) {
      await page.mouse.move(...place(values[0]! + i * 0.7, values[1]! + 10 * Math.sin(i / 6)))
      await page.waitForTimeout(20)
    }
    await page.mouse.up()
    const times = (await page.evaluate('window.__times')) as number[]
    const rest = await restTimes(page, place(values[0]!, values[1]!))
    await takeAway([...shapes.map(({ id }) => id), partId, subjectId])
    await page.close()
    return {
      value: median(times),
      unit: 'ms',
      notes: `pointer event to end of the painted frame, ${times.length} moves, 40 shapes of 20 points that move; the exact matte ${median(rest).toFixed(0)} ms after a drag rests (goal 150)${median(rest) > 150 ? ', missed' : ''}`,
    }
  },
}

/** With the fill shown: from the last move of a drag to the exact picture, as the page itself notes it. */
async function restTimes(page: Page, [x, y]: readonly [number, number]): Promise<number[]> {
  await page.keyboard.press('2')
  await page.waitForTimeout(500)
  await page.evaluate('performance.clearMeasures()')
  for (let i = 0; i < 7; i++) {
    await page.mouse.move(x, y)
    await page.mouse.down()
    await page.mouse.move(x + 12, y + 5 + i, { steps: 4 })
    await page.waitForTimeout(600)
    await page.mouse.up()
    await page.keyboard.press('Control+z')
    await page.waitForTimeout(500)
  }
  return (await page.evaluate("performance.getEntriesByName('exact matte').map((entry) => entry.duration)")) as number[]
}

export const scrub: Benchmark = {
  name: 'scrub',
  goal: 33,
  better: 'less',
  async run() {
    const page = await workspace()
    await page.waitForTimeout(4000)
    await page.evaluate(MEASURE)
    const box = (await page.getByTestId('timeline').boundingBox())!
    await page.mouse.move(box.x + 140, box.y + 30)
    await page.mouse.down()
    await page.evaluate("window.__watch('pointermove')")
    for (let i = 1; i <= 60; i++) {
      await page.mouse.move(box.x + 140 + i * 15, box.y + 30)
      await page.waitForTimeout(25)
    }
    await page.mouse.up()
    const times = (await page.evaluate('window.__times')) as number[]
    await page.close()
    return { value: median(times), unit: 'ms', notes: `${times.length} moves over cached frames` }
  },
}

export const playback: Benchmark = {
  name: 'playback',
  goal: 0,
  better: 'less',
  async run() {
    const page = await workspace()
    await page.waitForTimeout(5000)
    await page.keyboard.press(' ')
    await page.waitForTimeout(10_000)
    await page.keyboard.press(' ')
    const words =
      (await page
        .getByText(/\d+ dropped/)
        .textContent()
        .catch(() => null)) ?? ''
    await page.close()
    return { value: Number(/(\d+) dropped/.exec(words)?.[1] ?? 0), unit: 'frames', notes: 'dropped in 10 s at 24 fps' }
  },
}
