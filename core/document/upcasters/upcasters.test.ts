import { describe, expect, it } from 'vitest'
import {
  batchFromJson,
  channelOf,
  EMPTY_DOCUMENT,
  findObject,
  patchesTakenBack,
  sameValue,
  SCHEMA_VERSION,
  type RotoDocument,
} from '../index'
import { depthOn, motionSamplesOf, partShutter, worldAt } from '../../evaluation'
import { testBatch, withPatches } from '../testDocuments'
import { liftedBatch, liftedObject } from './index'

/** Objects as schema version 2 wrote them. */
const shot = {
  kind: 'shot',
  id: 'shot',
  width: 1280,
  height: 720,
  pixelAspect: 1,
  range: [1001, 1072],
  rate: { numerator: 24, denominator: 1 },
  shutter: { angle: 180, phase: -90 },
}
const subject = { kind: 'subject', id: 'man', name: 'man', hue: 1, order: 0 }
const part = {
  kind: 'part',
  id: 'coat',
  subjectId: 'man',
  parentId: null,
  name: 'coat',
  shade: 0,
  depth: 3,
  depthKeys: [],
  pivot: [10, 20],
  mover: null,
  carriers: [],
  pin: null,
  keys: [{ time: 1001, interpolation: 'smooth', values: [0, 0, 0, 0, 0] }],
  holdsOut: true,
  staysInFront: false,
  visible: true,
  locked: false,
  life: null,
  shutter: null,
}
const shape = {
  kind: 'shape',
  id: 'outline',
  partId: 'coat',
  name: 'outline',
  order: 0,
  pointIds: ['a', 'b'],
  corners: [false, false],
  edge: { innerFeather: 1, outerFeather: 2, grow: 0 },
  opacity: 1,
  visible: true,
  keys: [{ time: 1001, interpolation: 'smooth', values: new Array(20).fill(1) }],
}
const track = {
  kind: 'track',
  id: 'board',
  name: 'board',
  surface: 'plane',
  model: 'position',
  order: 0,
  referenceFrame: 1001,
  outlines: [[0, 0, 9, 0, 9, 9]],
  search: [-40, -40, 40, 40],
  leaveOut: [],
  references: [],
  patternUpdate: { when: 'first', below: 0.9 },
  look: { channel: 'luma', blur: 0, sharpen: 0, localContrast: false, texture: 'all', density: 1 },
  minimumMatch: 0.7,
  mostReturnError: null,
  pivot: [4, 4],
  pixelAspect: 1,
  blocks: [],
  bridges: [],
  offset: [],
  smoothing: null,
  hue: null,
  notes: '',
  locked: false,
  visible: true,
  archived: false,
  madeFrom: null,
}

const batchOf = (patches: unknown[]) => batchFromJson({ ...testBatch([]), schemaVersion: 2, patches })
const begun = [shot, subject, part, shape, track].map((object) => ({ kind: 'object', id: object.id, before: null, after: object })) // prettier-ignore
const start = withPatches(EMPTY_DOCUMENT, batchOf(begun).patches)

/** The document after a property was changed as version 2 wrote it, having looked that undo leads back. */
function afterField(of: RotoDocument, id: string, field: string, before: unknown, after: unknown): RotoDocument {
  const batch = batchOf([{ kind: 'field', id, field, before, after }])
  const changed = withPatches(of, batch.patches)
  const back = withPatches(changed, patchesTakenBack(batch))
  for (const [name, object] of of.objects)
    expect(sameValue(back.objects.get(name), object), `${field} taken back`).toBe(true)
  return changed
}

const coat = (of: RotoDocument) => findObject(of, 'part', 'coat')!
const board = (of: RotoDocument) => findObject(of, 'track', 'board')!

describe('what version 2 wrote', () => {
  it('is lifted to the version of today', () => {
    expect(liftedBatch({ schemaVersion: 1, patches: [] })).toEqual({ schemaVersion: SCHEMA_VERSION, patches: [] })
    expect(batchOf(begun).schemaVersion).toBe(SCHEMA_VERSION)
    // What is of today already is left alone.
    const now = testBatch([])
    expect(liftedBatch(now)).toBe(now)
    const lifted = liftedObject(shape, 2)
    expect(liftedObject(lifted, SCHEMA_VERSION)).toBe(lifted)
  })

  it('settings were properties', () => {
    const edge = (outerFeather: number) => ({ innerFeather: 1, outerFeather, grow: 0 })
    let now = afterField(start, 'outline', 'edge', edge(2), edge(9))
    now = afterField(now, 'outline', 'opacity', 1, 0.25)
    now = afterField(now, 'coat', 'depth', 3, -1)
    expect(['innerFeather', 'outerFeather', 'opacity'].map((name) => channelOf(findObject(now, 'shape', 'outline')!, name).constant![0])).toEqual([1, 9, 0.25]) // prettier-ignore
    expect(depthOn(coat(now), 1001)).toBe(-1)
  })

  it('a Part had a shutter of its own or none', () => {
    const own = afterField(start, 'coat', 'shutter', null, { angle: 90, phase: -45 })
    expect(partShutter(own, coat(own), 1001)).toEqual({ angle: 90, phase: -45 })
    const wider = afterField(own, 'coat', 'shutter', { angle: 90, phase: -45 }, { angle: 360, phase: -180 })
    expect(partShutter(wider, coat(wider), 1001)).toEqual({ angle: 360, phase: -180 })
    const without = afterField(wider, 'coat', 'shutter', { angle: 360, phase: -180 }, null)
    expect(partShutter(without, coat(without), 1001)).toEqual({ angle: 180, phase: -90 })
    const shots = afterField(start, 'shot', 'shutter', { angle: 180, phase: -90 }, { angle: 45, phase: -22.5 })
    expect(partShutter(shots, coat(shots), 1001)).toEqual({ angle: 45, phase: -22.5 })
  })

  it('depth had keys beside it, and a pivot its own', () => {
    const [one, two] = [[{ frame: 1010, depth: 7 }], [{ frame: 1010, depth: 8 }, { frame: 1020, depth: 1 }]] // prettier-ignore
    const once = afterField(start, 'coat', 'depthKeys', [], one)
    const twice = afterField(once, 'coat', 'depthKeys', one, two)
    expect([1001, 1010, 1025].map((frame) => depthOn(coat(twice), frame))).toEqual([3, 8, 1])
    const keys = (y: number) => ({
      to: 'keys',
      keys: [
        { frame: 1001, place: [0, 0] },
        { frame: 1011, place: [10, y] },
      ],
    })
    const held = afterField(start, 'coat', 'pin', null, keys(20))
    // The pivot (10, 20) is at (5, 10) halfway.
    expect(Array.from(worldAt(held, coat(held), 1006))).toEqual([1, 0, -5, 0, 1, -10, 0, 0, 1])
    const moved = afterField(held, 'coat', 'pin', keys(20), keys(40))
    expect(worldAt(moved, coat(moved), 1006)[5]).toBe(0)
    const free = afterField(moved, 'coat', 'pin', keys(40), null)
    expect(coat(free).channels.pivot).toBeUndefined()
  })

  it('keys of a pose and of an outline named no channel', () => {
    const key = { time: 1011, interpolation: 'smooth', values: [1, 2, 0, 0, 0] }
    const batch = batchOf([
      { kind: 'key', id: 'coat', time: 1011, before: null, after: key },
      { kind: 'values', id: 'outline', times: [1001], indices: [0], before: [1], after: [6] },
    ])
    const now = withPatches(start, batch.patches)
    expect(channelOf(coat(now)).keys.map(({ time }) => time)).toEqual([1001, 1011])
    expect(channelOf(findObject(now, 'shape', 'outline')!).keys[0]!.values[0]).toBe(6)
  })

  it('a track had an Offset, and outlines among its leave-outs', () => {
    const offset = [{ frame: 1001, x: 2, y: 0 }]
    const moved = afterField(start, 'board', 'offset', [], offset)
    expect(channelOf(board(moved), 'offset').keys.map(({ values }) => Array.from(values))).toEqual([[2, 0]])
    expect(motionSamplesOf(board(moved)).present).toHaveLength(motionSamplesOf(board(start)).present.length)
    const outline = (x: number) => [x, 0, x + 9, 0, x + 9, 9]
    const riding = { kind: 'outline', rides: true, keys: [{ frame: 1001, outline: outline(0) }] }
    const keyed = { kind: 'outline', rides: false, keys: [{ frame: 1001, outline: outline(0) }, { frame: 1011, outline: outline(10) }] } // prettier-ignore
    const left = afterField(start, 'board', 'leaveOut', [], [riding, { kind: 'part', partId: 'coat' }, keyed])
    expect(board(left).leaveOut.map(({ kind }) => kind)).toEqual(['outline', 'part', 'outline'])
    const without = afterField(left, 'board', 'leaveOut', [riding, { kind: 'part', partId: 'coat' }, keyed], [keyed])
    expect(Object.keys(board(without).channels)).toEqual(['leaveOut:0'])
    expect(channelOf(board(without), 'leaveOut:0').keys).toHaveLength(2)
  })

  it('properties had other names, also in groups of points that a track moves', () => {
    const turning = afterField(start, 'outline', 'between', 'coordinates', 'turning')
    expect(findObject(turning, 'shape', 'outline')!.interpolateBy).toBe('turning')
    const blurred = { ...track.look, blur: 2 }
    const seen = afterField(start, 'board', 'look', track.look, blurred)
    expect(board(seen).preprocessing).toEqual(blurred)
    const group = { pointIds: ['a'], mover: null, carriers: [] }
    const moved = afterField(start, 'outline', 'movedPoints', [], [group])
    expect(findObject(moved, 'shape', 'outline')!.movedPoints).toEqual([{ pointIds: ['a'], mover: null, frozenMovers: [] }]) // prettier-ignore
  })

  it('nonsense is left for the schema to refuse', () => {
    for (const batch of [null, 7, {}, { schemaVersion: 2 }, { schemaVersion: 2, patches: 'none' }])
      expect(liftedBatch(batch)).toBe(batch)
    for (const object of [
      { ...shape, keys: 'none' },
      { ...part, depth: 'near' },
      { ...track, leaveOut: [{ kind: 'outline', rides: false, keys: [] }] },
    ])
      // prettier-ignore
      expect(() => batchOf([{ kind: 'object', id: object.id, before: null, after: object }])).toThrow()
  })
})

describe('what version 3 wrote', () => {
  /** A key whose numbers tell their point and their place in it, as `stride` numbers a point. */
  const keyOf = (time: number, stride: number) => ({
    time,
    interpolation: 'smooth',
    values: [0, 1].flatMap((p) => Array.from({ length: stride }, (_, n) => (n < 10 ? 100 * p + n : 0))),
    tangents: [0, 1].flatMap((p) => Array.from({ length: 4 * stride }, (_, n) => (n < 40 ? 1000 * p + n : 0))),
  })
  /** Lifting from version 2 leads to today: the outline is that of version 3. */
  const former = { ...(liftedObject(shape, 2) as object), channels: { outline: { keys: [keyOf(1001, 10)] } } }
  const batch = (patches: unknown[]) => batchFromJson({ ...testBatch([]), schemaVersion: 3, patches })
  const outlineOf = (of: RotoDocument) => channelOf(findObject(of, 'shape', 'outline')!).keys
  const asLists = (keys: readonly { values: Float64Array; tangents?: Float64Array }[]) =>
    keys.map(({ values, tangents }) => ({ values: Array.from(values), tangents: Array.from(tangents!) }))
  const expected = ({ values, tangents } = keyOf(1001, 11)) => ({ values, tangents })

  it('has a point of an outline without focus of its own; keys, tangents and single numbers keep their places', () => {
    const begun3 = [shot, subject, part].map((object) => ({ kind: 'object', id: object.id, before: null, after: liftedObject(object, 2) })) // prettier-ignore
    const start3 = withPatches(
      EMPTY_DOCUMENT,
      batch([...begun3, { kind: 'object', id: 'outline', before: null, after: former }]).patches,
    )
    expect(asLists(outlineOf(start3))).toEqual([expected()])
    const keyed = batch([
      { kind: 'key', id: 'outline', time: 1011, before: null, after: keyOf(1011, 10) },
      { kind: 'key', id: 'coat', time: 1011, before: null, after: { time: 1011, interpolation: 'smooth', values: [1, 2, 0, 0, 0] } }, // prettier-ignore
      { kind: 'values', id: 'outline', channel: 'outline', times: [1001], indices: [3, 10, 19], before: [3, 100, 109], after: [-3, -100, -109] }, // prettier-ignore
      { kind: 'values', id: 'coat', times: [1011], indices: [4], before: [0], after: [0.5] },
    ])
    const now = withPatches(start3, keyed.patches)
    expect(asLists(outlineOf(now).slice(1))).toEqual([expected()])
    expect([3, 10, 11, 20, 21].map((n) => outlineOf(now)[0]!.values[n])).toEqual([-3, 0, -100, -109, 0])
    expect(channelOf(coat(now)).keys.at(-1)!.values[4]).toBe(0.5)
    const back = withPatches(now, patchesTakenBack(keyed))
    expect(sameValue(back.objects.get('outline'), start3.objects.get('outline'))).toBe(true)
  })
})
