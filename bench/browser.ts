import type { Page } from '@playwright/test'
import { constantChannel, newId, outlineKeys, POINT_STRIDE, type Shape } from '@tender-lasso/core/document'
import { objectAdded } from '@tender-lasso/core/edits'
import { centroidOfVertices } from '@tender-lasso/core/geometry'
import { testPart, testShape, testSubject } from '@tender-lasso/core/document/testDocuments'
import sharp from 'sharp'
import { ADDRESS, newPage, SHOT, shotOf, submit, takeAway, until, workspace } from './application'
import { median, type Benchmark } from './benchmark'
import { largeDocument } from './documents'
import { pageMegabytes } from './pageMemory'
import { MEASURE } from './pageTimes'

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
  const page = await newPage()
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

export const largeDocumentOpens: Benchmark = {
  name: 'large-document',
  goal: 2000,
  better: 'less',
  async run() {
    await (await workspace()).close()
    const grey = sharp(Buffer.alloc(64 * 48 * 3, 90), { raw: { width: 64, height: 48, channels: 3 } })
    const shotId = await shotOf('large', [await grey.png().toBuffer()])
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

type Place = readonly [number, number]

/** Shapes that go 4 px a frame to the right, so that what rests has motion blur, in rows over the picture. */
function movingShapes(partId: string, count: number, points: (i: number) => number): Shape[] {
  return Array.from({ length: count }, (_, i) => {
    const shape = testShape(newId(), partId, [1001, 1040], points(i), 45)
    for (const key of outlineKeys(shape)) {
      for (let p = 0; p < points(i); p++) {
        key.values[p * POINT_STRIDE]! += (key.time - 1001) * 4 - 200 + (i % 8) * 140
        key.values[p * POINT_STRIDE + 1]! += -100 + Math.floor(i / 8) * 130
      }
    }
    return shape
  })
}

/**
 * Milliseconds from the pointer to the end of the painted frame while something of one of many shapes is dragged, and from the end of a drag to the exact matte.
 *
 * @param begin  makes the page ready for the drag; plate pixels to those of the page
 * @param from   where it begins, plate pixels
 * @param along  where its nth move goes
 */
async function draggedAmong(
  shapes: readonly Shape[],
  partId: string,
  begin: (page: Page, place: (x: number, y: number) => Place) => Promise<void>,
  from: Place,
  along: (move: number) => Place,
): Promise<{ times: number[]; rest: number[] }> {
  const subjectId = newId()
  const page = await workspace()
  await submit(
    SHOT,
    'many shapes',
    [{ ...testSubject, id: subjectId }, testPart(partId, { subjectId }), ...shapes].map(objectAdded),
  )
  await page.waitForTimeout(1000)
  await page.evaluate(MEASURE)
  const box = (await page.getByTestId('viewer').boundingBox())!
  const zoom = Math.min((box.width - 12) / 1280, (box.height - 12) / 720)
  const place = (x: number, y: number) =>
    [box.x + (box.width - 1280 * zoom) / 2 + x * zoom, box.y + (box.height - 720 * zoom) / 2 + y * zoom] as const
  await begin(page, place)
  await page.mouse.move(...place(...from))
  await page.mouse.down()
  await page.evaluate("window.__watch('pointermove')")
  for (let i = 1; i <= 60; i++) {
    await page.mouse.move(...place(...along(i)))
    await page.waitForTimeout(20)
  }
  await page.mouse.up()
  const times = (await page.evaluate('window.__times')) as number[]
  const rest = await restTimes(page, place(...from))
  await takeAway([...shapes.map(({ id }) => id), partId, subjectId])
  await page.close()
  return { times, rest }
}

const restWords = (rest: readonly number[]) =>
  `the exact matte ${median(rest).toFixed(0)} ms after a drag rests (goal 150)${median(rest) > 150 ? ', missed' : ''}`

export const dragPoint: Benchmark = {
  name: 'drag-point',
  goal: 16,
  better: 'less',
  async run() {
    const partId = newId()
    const shapes = movingShapes(partId, 40, () => 20)
    const [x, y] = outlineKeys(shapes[12]!)[0]!.values as unknown as [number, number]
    const { times, rest } = await draggedAmong(
      shapes,
      partId,
      (page, place) => page.mouse.click(...place(x, y)),
      [x, y],
      (i) => [x + i * 0.7, y + 10 * Math.sin(i / 6)],
    )
    return {
      value: median(times),
      unit: 'ms',
      notes: `pointer event to end of the painted frame, ${times.length} moves, 40 shapes of 20 points that move; ${restWords(rest)}`,
    }
  },
}

/** Pixels of feather outside that the dragged shape begins with. */
const FEATHER = 10

export const dragFeather: Benchmark = {
  name: 'drag-feather',
  goal: 16,
  better: 'less',
  async run() {
    const partId = newId()
    const shapes = movingShapes(partId, 50, (i) => (i === 12 ? 60 : 20))
    const soft = shapes[12]!
    shapes[12] = { ...soft, channels: { ...soft.channels, innerFeather: constantChannel(4), outerFeather: constantChannel(FEATHER) } } // prettier-ignore
    const { values } = outlineKeys(soft)[0]!
    const anchors = values.filter((_, i) => i % POINT_STRIDE < 2)
    const [middleX, middleY] = centroidOfVertices(anchors)
    const [px, py] = [values[0]!, values[1]!]
    const length = Math.hypot(px - middleX, py - middleY)
    const outside = (distance: number): Place => [px + ((px - middleX) * distance) / length, py + ((py - middleY) * distance) / length] // prettier-ignore
    const { times, rest } = await draggedAmong(
      shapes,
      partId,
      async (page, place) => {
        await page.mouse.click(...place(px, py))
        await page.keyboard.press('Alt+f')
        await page.waitForTimeout(300)
      },
      outside(FEATHER),
      (i) => outside(FEATHER + 8 + 8 * Math.sin(i / 6)),
    )
    return {
      value: median(times),
      unit: 'ms',
      notes: `pointer event to end of the painted frame, ${times.length} moves of the feather of a shape of 60 points among 50 that move; ${restWords(rest)}`,
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
