import { describe, expect, it } from 'vitest'
import { controlPlacesAt } from '@tender-lasso/core/evaluation'
import { findObject, POINT_STRIDE, type RotoDocument, outlineKeys, withOutlineKeys } from '@tender-lasso/core/document'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  withPatches,
} from '@tender-lasso/core/document/testDocuments'
import { NOTHING_SELECTED } from '../../store'
import { BOX_GAP } from './boxHandles'
import { selectTool } from './selectTool'
import { contextOf, pointerAt } from './testContext'
import type { PointerInput, ToolContext } from './tool'

/** Two round shapes whose edges cross; the first points at (360, 200) and (400, 210). */
const document = documentOf([
  testShot,
  testSubject,
  testPart('coat', { depth: 1 }),
  testPart('hat', { depth: 2 }),
  testShape('collar', 'coat', [1001]),
  moved(testShape('brim', 'hat', [1001]), 40, 10),
])

function moved(shape: ReturnType<typeof testShape>, dx: number, dy: number) {
  const keys = outlineKeys(shape).map((key) => ({
    ...key,
    values: key.values.map((v, i) => (i % POINT_STRIDE === 0 ? v + dx : i % POINT_STRIDE === 1 ? v + dy : v)),
  }))
  return withOutlineKeys(shape, keys)
}

const placesOf = (from: RotoDocument, id: string) => controlPlacesAt(from, findObject(from, 'shape', id)!, 1001)

function drag(context: ToolContext, from: [number, number], to: [number, number], keys: Partial<PointerInput> = {}) {
  const down = selectTool.down(selectTool.idle, pointerAt(...from, keys), context)
  const chosen = { ...context, selection: { ...context.selection, ...down.selection } }
  const move = selectTool.move(down.state, pointerAt(...to, keys), chosen)
  const step = selectTool.up(move.state, pointerAt(...to, keys), chosen)
  return { step, after: withPatches(context.document, step.commit?.patches ?? []) }
}

const withShapes = (shapeIds: string[], pointIds: string[] = []) =>
  contextOf(document, { selection: { ...NOTHING_SELECTED, partId: 'coat', shapeIds, pointIds: new Set(pointIds) } })

describe('selecting', () => {
  it('a point means more than a line that goes by it, and Shift keeps what is selected of another shape', () => {
    const [x, y] = placesOf(document, 'brim')
    const { selection } = selectTool.down(
      selectTool.idle,
      pointerAt(x!, y!, { shift: true }),
      withShapes(['collar'], ['collar-p2']),
    )
    expect(selection?.shapeIds).toEqual(['collar', 'brim'])
    expect([...selection!.pointIds!]).toEqual(['collar-p2', 'brim-p0'])
  })

  it('Enter, and so a double click, goes from an outline to its Part', () => {
    const { selection } = selectTool.key!(selectTool.idle, 'Enter', withShapes(['brim'], ['brim-p0']))
    expect(selection).toMatchObject({ partId: 'hat', shapeIds: [] })
    expect(selectTool.key!(selectTool.idle, 'Enter', withShapes([])).selection).toBeUndefined()
  })

  it('a free form with Alt takes the points inside it', () => {
    const outline = [[320, 120], [420, 180], [420, 250], [340, 250]] as const // prettier-ignore
    let { state } = selectTool.down(selectTool.idle, pointerAt(320, 110, { alt: true }), contextOf(document))
    for (const [x, y] of outline) state = selectTool.move(state, pointerAt(x, y), contextOf(document)).state
    const { selection } = selectTool.up(state, pointerAt(340, 250), contextOf(document))
    expect([...selection!.pointIds!].sort()).toEqual(['brim-p0', 'brim-p5', 'collar-p0', 'collar-p5'])
  })
})

describe('a Part selected by itself', () => {
  const alone = contextOf(document, { selection: { ...NOTHING_SELECTED, partId: 'coat' } })
  // Inside an outline of it, on its line, and on one of its points.
  const [px, py] = placesOf(document, 'collar')
  const grips: [string, [number, number]][] = [
    ['inside', [300, 200]],
    ['on a point', [px!, py!]],
  ]

  it.each(grips)('moves as a Part when it is taken hold of %s, and says so before', (_, from) => {
    const hover = selectTool.hover!(selectTool.idle, pointerAt(...from), alone)
    expect(hover).toMatchObject({ cursor: 'move', words: 'Drag: move coat, as a Part' })
    expect(hover!.shapes.map(({ id }) => id)).toEqual(['collar'])
    const { step, after } = drag(alone, from, [from[0] + 20, from[1] + 5])
    expect(step.commit!.label).toBe('move coat')
    expect(outlineKeys(findObject(after, 'shape', 'collar')!)).toEqual(
      outlineKeys(findObject(document, 'shape', 'collar')!),
    )
    const [x, y] = placesOf(after, 'collar')
    expect([x! - px!, y! - py!]).toEqual([expect.closeTo(20, 6), expect.closeTo(5, 6)])
  })

  it.each(grips)('a click on it %s selects what is there', (_, from) => {
    const { state } = selectTool.down(selectTool.idle, pointerAt(...from), alone)
    expect(selectTool.up(state, pointerAt(...from), alone).selection).toMatchObject({ shapeIds: ['collar'] })
  })
})

describe('Alt on an outline', () => {
  it('inserts a point there, and says so before', () => {
    const places = placesOf(document, 'collar')
    // On the curve between the first two of six points of a round outline.
    const [cx, cy] = [300, 200]
    const [mx, my] = [(places[0]! + places[2]!) / 2 - cx, (places[1]! + places[3]!) / 2 - cy]
    const radius = Math.hypot(places[0]! - cx, places[1]! - cy)
    const on = [cx + (mx / Math.hypot(mx, my)) * radius, cy + (my / Math.hypot(mx, my)) * radius] as const
    const context = withShapes(['collar'])
    expect(selectTool.hover!(selectTool.idle, pointerAt(...on, { alt: true }), context)).toMatchObject({ cursor: 'copy', words: 'Click: a point on collar' }) // prettier-ignore
    const { commit } = selectTool.down(selectTool.idle, pointerAt(...on, { alt: true }), context)
    expect(findObject(withPatches(document, commit!.patches), 'shape', 'collar')!.pointIds).toHaveLength(7)
  })
})

describe('a small correction', () => {
  it('a pixel is a click when it is quick, a drag when the press is longer', () => {
    const context = withShapes(['collar'], ['collar-p0'])
    const [x, y] = placesOf(document, 'collar')
    const dragged = (milliseconds: number) => {
      const { state } = selectTool.down(selectTool.idle, pointerAt(x!, y!), context)
      const moved = selectTool.move(state, pointerAt(x! + 1, y!, { time: milliseconds }), context)
      return selectTool.up(moved.state, pointerAt(x! + 1, y!, { time: milliseconds }), context).commit
    }
    expect(dragged(60)).toBeUndefined()
    const after = withPatches(document, dragged(160)!.patches)
    expect(placesOf(after, 'collar')[0]! - x!).toBeCloseTo(1, 6)
  })
})

describe('the box round what is selected', () => {
  const box = { left: 240, right: 360 }

  it('its right side stretches the shape from the left one', () => {
    const handle: [number, number] = [box.right + BOX_GAP, 200]
    const { after } = drag(withShapes(['collar']), handle, [handle[0] + 60, 200])
    const places = placesOf(after, 'collar')
    const own = [0, 2, 4, 6, 8, 10].map((i) => places[i]!)
    expect(Math.min(...own)).toBeCloseTo(box.left, 6)
    // The handle stands a little off the edge: the edge goes by as much as the pointer.
    expect(Math.max(...own)).toBeCloseTo(box.right + 60, 6)
  })

  it('scales about the pivot that a click has set', () => {
    const context = { ...withShapes(['collar']), pivot: [300, 200] as const }
    const handle: [number, number] = [box.right + BOX_GAP, 200]
    const { after } = drag(context, handle, [handle[0] + 60, 200])
    const places = placesOf(after, 'collar')
    expect(places[0]).toBeCloseTo(300 + 60 * 2, 6)
    expect(places[6]).toBeCloseTo(300 - 60 * 2, 6)
  })
})

describe('dragged points', () => {
  it('catch on a point of another shape when snapping is on', () => {
    const [x, y] = placesOf(document, 'collar')
    const [tx, ty] = placesOf(document, 'brim')
    for (const snaps of [true, false]) {
      const { after } = drag({ ...withShapes(['collar'], ['collar-p0']), snaps }, [x!, y!], [tx! - 4, ty! + 3])
      const [nx, ny] = placesOf(after, 'collar')
      expect([nx, ny]).toEqual(snaps ? [expect.closeTo(tx!, 6), expect.closeTo(ty!, 6)] : [expect.closeTo(tx! - 4, 6), expect.closeTo(ty! + 3, 6)]) // prettier-ignore
    }
  })

  it('catch on a guide, each axis by itself', () => {
    const guided = {
      objects: new Map(document.objects).set('g', { kind: 'guide', id: 'g', axis: 'y', at: 77 }),
    } as RotoDocument
    const [x, y] = placesOf(document, 'collar')
    const context = { ...withShapes(['collar'], ['collar-p0']), document: guided, snaps: true }
    const { after } = drag(context, [x!, y!], [500, 79])
    expect(Array.from(placesOf(after, 'collar').slice(0, 2))).toEqual([expect.closeTo(500, 6), expect.closeTo(77, 6)])
  })

  it('take soft neighbours along, less the farther', () => {
    const [x, y] = placesOf(document, 'collar')
    const { after } = drag({ ...withShapes(['collar'], ['collar-p0']), softness: 100 }, [x!, y!], [x! + 30, y!])
    const [before, now] = [placesOf(document, 'collar'), placesOf(after, 'collar')]
    const ways = [0, 1, 2, 3].map((i) => now[2 * i]! - before[2 * i]!)
    expect(ways[0]).toBeCloseTo(30, 6)
    // 60 px away: (1 - 0.6) smoothly; 104 px away and farther nothing.
    expect(ways[1]).toBeCloseTo(30 * 0.4 ** 2 * (3 - 0.8), 6)
    expect(ways.slice(2)).toEqual([0, 0])
  })

  it('dropped with Ctrl on a point of another shape are tied to it', () => {
    const [x, y] = placesOf(document, 'collar')
    const [tx, ty] = placesOf(document, 'brim')
    const { after } = drag(withShapes(['collar'], ['collar-p0']), [x!, y!], [tx!, ty! + 2], { mod: true })
    const seam = [...after.objects.values()].find((object) => object.kind === 'seam')
    expect(seam).toMatchObject({
      ownerId: 'brim',
      borrowerId: 'collar',
      pairs: [{ owner: 'brim-p0', borrower: 'collar-p0' }],
    })
  })
})
