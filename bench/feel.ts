import type { Page } from '@playwright/test'
import { newId, POINT_STRIDE, type Shape, outlineKeys } from '@tender-lasso/core/document'
import { objectAdded } from '@tender-lasso/core/edits'
import { outlineAt, Rooms } from '@tender-lasso/core/evaluation'
import { SEGMENT_STRIDE } from '@tender-lasso/core/spline'
import { testPart, testShape, testSubject } from '@tender-lasso/core/document/testDocuments'
import { SHOT, submit, takeAway, workspace } from './application'
import { median, percentile, type Benchmark } from './benchmark'
import { largeDocument } from './documents'
import { MEASURE } from './pageTimes'

const COLUMNS = 20
const ROWS = 10
const POINTS = 24

/** 200 shapes of 24 points in 20 Parts, side by side over the whole plate. */
function manyShapes(): { subjectId: string; partIds: string[]; shapes: Shape[] } {
  const partIds = Array.from({ length: COLUMNS }, () => newId())
  const shapes = Array.from({ length: COLUMNS * ROWS }, (_, i) => {
    const shape = testShape(newId(), partIds[i % COLUMNS]!, [1001, 1040], POINTS, 26)
    for (const key of outlineKeys(shape)) {
      for (let p = 0; p < POINTS; p++) {
        // The test shape stands at 300, 200 on its first key and is moved by 3 px on its next.
        key.values[p * POINT_STRIDE]! += 36 + (i % COLUMNS) * 62 - 300
        key.values[p * POINT_STRIDE + 1]! += 40 + Math.floor(i / COLUMNS) * 68 - 200
      }
    }
    return shape
  })
  return { subjectId: newId(), partIds, shapes }
}

type ToScreen = (x: number, y: number) => readonly [number, number]

async function withManyShapes<Result>(act: (page: Page, place: ToScreen, shapes: readonly Shape[]) => Promise<Result>) {
  const { subjectId, partIds, shapes } = manyShapes()
  const page = await workspace()
  const parts = partIds.map((id, i) => testPart(id, { subjectId, depth: i }))
  await submit(SHOT, '200 shapes', [{ ...testSubject, id: subjectId }, ...parts, ...shapes].map(objectAdded))
  await page.waitForTimeout(1500)
  const box = (await page.getByTestId('viewer').boundingBox())!
  const zoom = Math.min((box.width - 12) / 1280, (box.height - 12) / 720)
  const place: ToScreen = (x, y) => [
    box.x + (box.width - 1280 * zoom) / 2 + x * zoom,
    box.y + (box.height - 720 * zoom) / 2 + y * zoom,
  ]
  try {
    return await act(page, place, shapes)
  } finally {
    await takeAway([...shapes.map(({ id }) => id), ...partIds, subjectId])
    await page.close()
  }
}

/** Times of frames that show what an event asked for, while `act` makes such events. */
async function timed(page: Page, event: string, act: () => Promise<void>): Promise<number[]> {
  await page.evaluate(MEASURE)
  await page.evaluate(`window.__watch('${event}')`)
  await act()
  await page.waitForTimeout(150)
  return (await page.evaluate('window.__times')) as number[]
}

async function moves(page: Page, count: number, at: (i: number) => readonly [number, number]) {
  for (let i = 1; i <= count; i++) {
    await page.mouse.move(...at(i))
    await page.waitForTimeout(25)
  }
}

const words = (name: string, times: readonly number[], goal: number) =>
  `${name} ${median(times).toFixed(1)} ms, 95 % ${percentile(times, 95).toFixed(1)} (goal ${goal})${median(times) > goal ? ', missed' : ''}`

export const dragMany: Benchmark = {
  name: 'drag-many',
  goal: 16,
  better: 'less',
  run: () =>
    withManyShapes(async (page, place, shapes) => {
      const nothing = async () => {
        await page.keyboard.press('s')
        await page.keyboard.press('Escape')
        await page.keyboard.press('Escape')
      }
      const { values } = outlineKeys(shapes[88]!)[0]!
      const [x, y] = [values[0]!, values[1]!]
      // One point.
      await nothing()
      await page.mouse.click(...place(x, y))
      await page.mouse.move(...place(x, y))
      await page.mouse.down()
      const one = await timed(page, 'pointermove', () =>
        moves(page, 40, (i) => place(x + i * 0.6, y + 8 * Math.sin(i / 5))),
      )
      await page.mouse.up()
      // A band over all of it, then over 21 shapes: 504 points.
      await nothing()
      await page.mouse.move(...place(2, 2))
      await page.mouse.down()
      const band = await timed(page, 'pointermove', () => moves(page, 40, (i) => place(2 + i * 11.4, 2 + i * 5.1)))
      await page.mouse.move(...place(460, 206))
      await page.mouse.up()
      const chosen = outlineKeys(shapes[0]!)[0]!.values
      const [px, py] = [chosen[0]!, chosen[1]!]
      await page.mouse.move(...place(px, py))
      await page.mouse.down()
      const many = await timed(page, 'pointermove', () =>
        moves(page, 40, (i) => place(px + i * 0.6, py + 8 * Math.sin(i / 5))),
      )
      await page.mouse.up()
      // Frame steps with the fill on.
      await nothing()
      await page.keyboard.press('2')
      await page.waitForTimeout(1500)
      const step = await timed(page, 'keydown', async () => {
        for (let i = 0; i < 30; i++) {
          await page.keyboard.press('ArrowRight')
          await page.waitForTimeout(60)
        }
      })
      return {
        value: median(one),
        unit: 'ms',
        notes: [
          '200 shapes of 24 points',
          words('one point', one, 16),
          words('504 points', many, 33),
          words('band', band, 16),
          words('frame step with fill', step, 33),
        ].join('; '),
      }
    }),
}

export const undo: Benchmark = {
  name: 'undo',
  goal: 50,
  better: 'less',
  run: () =>
    withManyShapes(async (page, place, shapes) => {
      const first = outlineKeys(shapes[0]!)[0]!.values
      await page.keyboard.press('s')
      await page.mouse.move(...place(2, 2))
      await page.mouse.down()
      await page.mouse.move(...place(1270, 712), { steps: 5 })
      await page.mouse.up()
      // One edit of all 4800 points, then one of a single point.
      await page.mouse.move(...place(first[0]!, first[1]!))
      await page.mouse.down()
      await page.mouse.move(...place(first[0]! + 8, first[1]! + 6), { steps: 5 })
      await page.mouse.up()
      await page.waitForTimeout(1500)
      const times = await timed(page, 'keydown', async () => {
        for (let i = 0; i < 12; i++) {
          await page.keyboard.press(i % 2 ? 'Control+Shift+z' : 'Control+z')
          await page.waitForTimeout(500)
        }
      })
      // A press of Ctrl or Shift is an event as well: only the letters do anything.
      const acts = times.filter((_, i) => isLetter(i))
      return {
        value: median(acts),
        unit: 'ms',
        notes: `undo and redo of one edit of all 4800 points, key to painted frame; 95 % ${percentile(acts, 95).toFixed(1)} ms`,
      }
    }),
}

/** Of the keydown events: Ctrl, Z, then Ctrl, Shift, Z, and again. */
const isLetter = (index: number) => index % 5 === 1 || index % 5 === 4

export const evaluate: Benchmark = {
  name: 'evaluate',
  goal: 3,
  better: 'less',
  run() {
    const document = largeDocument()
    const shapes = [...document.objects.values()].filter((object) => object.kind === 'shape')
    const rooms = new Rooms()
    const times: number[] = []
    for (let round = 0; round < 60; round++) {
      const time = 1001 + ((round * 7.3) % 78)
      const start = performance.now()
      for (const shape of shapes) {
        // As the lines over the picture are drawn, one outline after the other.
        outlineAt(document, shape, time, null, undefined, rooms.of(shape.pointIds.length * SEGMENT_STRIDE))
      }
      if (round >= 10) times.push(performance.now() - start)
    }
    return Promise.resolve({
      value: median(times),
      unit: 'ms',
      notes: `outlines of 300 shapes x 24 points between their 40 keys at one time; 95 % ${percentile(times, 95).toFixed(2)} ms`,
    })
  },
}
