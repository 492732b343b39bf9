import { spawn, type ChildProcess } from 'node:child_process'
import path from 'node:path'
import { chromium, type Browser, type Page } from '@playwright/test'
import { newId, objectAdded, toJson } from '@tender-lasso/core/document'
import { testPart, testShape, testSubject } from '@tender-lasso/core/document/testDocuments'
import { median, type Benchmark } from './benchmark'

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
    await until(
      async () => ((await (await fetch(`${ADDRESS}/api/shots/${SHOT}`)).json()) as { state: string }).state === 'ready',
      240,
    )
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

export const openShot: Benchmark = {
  name: 'open-shot',
  goal: 1500,
  better: 'less',
  async run() {
    await (await workspace()).close()
    const times: number[] = []
    for (let i = 0; i < 5; i++) {
      const page = await browser!.newPage({ viewport: { width: 1280, height: 800 } })
      const first = page.waitForResponse((response) => response.url().includes('/display'))
      const start = performance.now()
      await page.goto(`${ADDRESS}/shots/${SHOT}`)
      await (await first).finished()
      await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))))
      times.push(performance.now() - start)
      await page.close()
    }
    return { value: median(times), unit: 'ms', notes: 'address to first picture, new page each time' }
  },
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
          key.values[p * 10]! += -200 + (i % 8) * 140
          key.values[p * 10 + 1]! += -100 + Math.floor(i / 8) * 130
        }
      }
      return shape
    })
    const page = await workspace()
    const patches = [{ ...testSubject, id: subjectId }, testPart(partId, { subjectId }), ...shapes].map(objectAdded)
    const batch = { batchId: newId(), clientId: newId(), clientSequence: 0, author: 'bench', baseSequence: 0, schemaVersion: 1, label: 'forty shapes', undoes: null, patches } // prettier-ignore
    const answer = await fetch(`${ADDRESS}/api/shots/${SHOT}/edits`, {
      method: 'POST',
      body: toJson({ batches: [batch] }),
    })
    if (!answer.ok) throw new Error(await answer.text())
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
    await page.close()
    return { value: median(times), unit: 'ms', notes: `pointer event to end of the painted frame, ${times.length} moves, 40 shapes of 20 points; includes waiting for the next display frame` } // prettier-ignore
  },
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
