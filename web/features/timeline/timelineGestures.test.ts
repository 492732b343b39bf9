import { describe, expect, it } from 'vitest'
import { findObject, outlineKeys, pivotKeys } from '@tender-lasso/core/document'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  withPatches,
} from '@tender-lasso/core/document/testDocuments'
import { NOTHING_SELECTED } from '../../store'
import { dragged, keysInBand, patchesOf, pressed, type TimelinePress, type TimelineScene } from './timelineGestures'
import { middleOfRow, ROWS_TOP, THUMBNAIL_HEIGHT, thumbnailSlots, xOfFrame } from './timelineLayout'
import { rowsOf } from './timelineRows'

const layout = { width: 1200, height: 300, nameWidth: 130, first: 1001, last: 1072, scroll: 0 }
const document = documentOf([
  testShot,
  testSubject,
  testPart('coat'),
  testShape('outline', 'coat', [1001, 1021, 1041]),
  testShape('collar', 'coat', [1011, 1041]),
])
const selection = { ...NOTHING_SELECTED, partId: 'coat' }
const rows = rowsOf(document, selection, { pinned: [], unfolded: ['coat'], search: '' })
const scene = (chosen: TimelineScene['chosen'] = [], frame = 1001): TimelineScene => ({
  document,
  layout,
  rows,
  chosen,
  frame,
})
const rowOf = (name: string) => rows.findIndex((row) => row.name === name)
const press = (frame: number, name: string, keys: Partial<TimelinePress> = {}): TimelinePress => ({
  x: xOfFrame(layout, frame),
  y: middleOfRow(layout, rowOf(name)),
  shift: false,
  alt: false,
  mod: false,
  ...keys,
})
const times = (id: string, after = document) => outlineKeys(findObject(after, 'shape', id)!).map((key) => key.time)
const drop = (from: ReturnType<typeof press>, toFrame: number, start = scene()) => {
  const { held, chosen } = pressed(start, from)
  const now = { ...start, chosen }
  return withPatches(document, patchesOf(now, dragged(now, held, xOfFrame(layout, toFrame), from.y)))
}

describe('rows of the timeline', () => {
  it('sum a Part up in one thread, and unfold to its shapes', () => {
    expect(rows.map(({ name }) => name)).toEqual(['coat', 'outline', 'collar'])
    const folded = rowsOf(document, selection, { pinned: [], unfolded: [], search: '' })
    expect(folded.map(({ name }) => name)).toEqual(['coat'])
    const withShape = rowsOf(document, { ...selection, shapeIds: ['collar'] }, { pinned: [], unfolded: [], search: '' })
    expect(withShape.map(({ name }) => name)).toEqual(['coat', 'collar'])
  })

  it('are of the pivot and the depth as well, whose knots move like others', () => {
    const pivot = [{ time: 1011, interpolation: 'linear' as const, values: Float64Array.of(3, 4) }]
    const depth = [{ time: 1021, interpolation: 'hold' as const, values: Float64Array.of(7) }]
    const channels = { pivot: { keys: pivot }, depth: { keys: depth } }
    const keyed = documentOf([testShot, testSubject, testPart('coat', { pin: { to: 'keys' }, channels })])
    const own = rowsOf(keyed, selection, { pinned: [], unfolded: ['coat'], search: '' })
    expect(own.map(({ name }) => name)).toEqual(['coat', 'pivot', 'depth'])
    const start: TimelineScene = { document: keyed, layout, rows: own, chosen: [], frame: 1001 }
    const from = { ...press(1011, 'coat'), y: middleOfRow(layout, 1) }
    const { held } = pressed(start, from)
    const after = withPatches(keyed, patchesOf(start, dragged(start, held, xOfFrame(layout, 1031), from.y)))
    expect(pivotKeys(findObject(after, 'part', 'coat')!)).toEqual([{ ...pivot[0], time: 1031 }])
  })

  it('stay when pinned, and come when they are looked for', () => {
    for (const rowsWanted of [
      { pinned: ['coat'], unfolded: [], search: '' },
      { pinned: [], unfolded: [], search: 'OA' },
    ])
      expect(rowsOf(document, NOTHING_SELECTED, rowsWanted)).toHaveLength(1)
    expect(rowsOf(document, NOTHING_SELECTED, { pinned: [], unfolded: [], search: '' })).toEqual([])
  })
})

describe('knots under the hand', () => {
  it('one of a shape moves by itself; one of the Part takes all that share its frame', () => {
    const one = drop(press(1021, 'outline'), 1030)
    expect([times('outline', one), times('collar', one)]).toEqual([[1001, 1030, 1041], [1011, 1041]]) // prettier-ignore
    const all = drop(press(1041, 'coat'), 1050)
    expect([times('outline', all), times('collar', all)]).toEqual([[1001, 1021, 1050], [1011, 1050]]) // prettier-ignore
  })

  it('of a locked Part stay where they are', () => {
    const coat = findObject(document, 'part', 'coat')!
    const locked = { objects: new Map(document.objects).set('coat', { ...coat, locked: true }) }
    const start = { ...scene(), document: locked }
    const { held, chosen } = pressed(start, press(1021, 'outline'))
    expect(
      patchesOf({ ...start, chosen }, dragged(start, held, xOfFrame(layout, 1030), press(1021, 'outline').y)),
    ).toEqual([])
  })

  it('Alt stretches the chosen ones about the present frame, Ctrl leaves them and puts copies down', () => {
    const chosen = [1021, 1041].map((time) => ({ id: 'outline', channel: 'outline', time }))
    expect(times('outline', drop(press(1041, 'outline', { alt: true }), 1061, scene(chosen, 1021)))).toEqual([
      1001, 1021, 1061,
    ])
    expect(times('outline', drop(press(1021, 'outline', { mod: true }), 1050, scene(chosen)))).toEqual([
      1001, 1021, 1041, 1050, 1070,
    ])
  })

  it('catch on keys that stay, on bookmarks and on the present frame from a few pixels', () => {
    const start = { ...scene([], 1035), document: documentOf([...document.objects.values(), { kind: 'bookmark', id: 'b', name: 'turn', range: [1028, 1028] }]) } as TimelineScene // prettier-ignore
    const { held } = pressed(start, press(1021, 'outline'))
    for (const frame of [1011, 1028, 1035]) {
      const at = dragged(start, held, xOfFrame(layout, frame) + 4, press(1021, 'outline').y)
      expect(at.kind === 'knots' && at.to, String(frame)).toBe(frame)
    }
  })

  it('Shift adds and takes away; a band over rows chooses what it covers', () => {
    const { chosen } = pressed(
      scene([{ id: 'outline', channel: 'outline', time: 1001 }]),
      press(1021, 'outline', { shift: true }),
    )
    expect(chosen).toHaveLength(2)
    expect(pressed(scene(chosen), press(1021, 'outline', { shift: true })).chosen).toEqual([
      { id: 'outline', channel: 'outline', time: 1001 },
    ])
    const { held } = pressed(scene(), { ...press(1015, 'outline'), x: xOfFrame(layout, 1015) })
    expect(held.kind).toBe('band')
    const band = dragged(scene(), held, xOfFrame(layout, 1045), middleOfRow(layout, rowOf('collar')))
    if (band.kind !== 'band') throw new Error('not a band')
    expect(keysInBand(scene(), band)).toEqual([
      { id: 'outline', channel: 'outline', time: 1021 },
      { id: 'outline', channel: 'outline', time: 1041 },
      { id: 'collar', channel: 'outline', time: 1041 },
    ])
  })

  it('the ends of a thread are those of the life of what it is of', () => {
    const end = { ...press(1072, 'collar'), x: xOfFrame(layout, 1072.5) }
    const { held } = pressed(scene(), end)
    const patches = patchesOf(scene(), dragged(scene(), held, xOfFrame(layout, 1060.5), end.y))
    expect(findObject(withPatches(document, patches), 'shape', 'collar')!.life).toEqual([1001, 1060])
    expect(pressed(scene(), { ...end, y: ROWS_TOP - 20 }).held.kind).toBe('scrub')
  })
})

describe('thumbnails', () => {
  it('stand at equal distances, as many as fit, each of the frame under its middle', () => {
    for (const last of [1001, 1005, 1068, 1400]) {
      const slots = thumbnailSlots({ ...layout, last }, 4 / 3)
      const steps = slots.slice(1).map(({ x }, i) => x - slots[i]!.x)
      for (const step of steps) {
        expect(step).toBeCloseTo(steps[0]!, 9)
        expect(step).toBeGreaterThanOrEqual(slots[0]!.width + 2)
      }
      expect(slots[0]!.width).toBeCloseTo((THUMBNAIL_HEIGHT * 4) / 3, 9)
      for (const { frame, x, width } of slots) {
        expect(Math.abs(xOfFrame({ ...layout, last }, frame) - (x + width / 2))).toBeLessThanOrEqual(
          0.5 * (xOfFrame({ ...layout, last }, 1002) - xOfFrame({ ...layout, last }, 1001)) + 1e-9,
        )
      }
    }
  })
})
