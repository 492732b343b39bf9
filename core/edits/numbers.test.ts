import { describe, expect, it } from 'vitest'
import { channelOf, findObject, patchesTakenBack, sameValue, type Key, type RotoDocument } from '../document'
import {
  documentOf,
  testBatch,
  testPart,
  testShape,
  testShot,
  testSubject,
  withPatches,
} from '../document/testDocuments'
import { numberAt } from '../evaluation'
import { HERE, KEY_HERE, type Keying, type Reach } from './change'
import { keysToggled } from './keysToggled'
import { numberChanged, type NumberChange } from './numbers'

const key = (time: number, value: number, interpolation: Key['interpolation'] = 'linear'): Key => ({
  time,
  interpolation,
  values: Float64Array.of(value),
})
const start = documentOf([
  testShot,
  testSubject,
  testPart('coat', { depth: 3 }),
  testShape('plain', 'coat', [1001]),
  (() => {
    const shape = testShape('keyed', 'coat', [1001])
    const keys = [key(1001, 2), key(1011, 6), key(1021, 10)]
    return { ...shape, channels: { ...shape.channels, outerFeather: { keys } } }
  })(),
])
const shape = (of: RotoDocument, id: string) => findObject(of, 'shape', id)!
const feather = (of: RotoDocument, id: string) => channelOf(shape(of, id), 'outerFeather')
const valuesOf = (of: RotoDocument, id = 'keyed') => feather(of, id).keys.map(({ time, values }) => [time, values[0]])
const after = (change: NumberChange, frame: number, how: Keying = KEY_HERE, id = 'keyed') =>
  withPatches(start, numberChanged(feather(start, id), 0, change, frame, how))
const reaching = (reach: Reach, makesKeys = true): Keying => ({ reach, makesKeys, onlyTouched: false })

describe('a number of a channel changed', () => {
  it('is one for all frames while nobody keys it, whatever the Reach', () => {
    for (const reach of [HERE, { kind: 'onward' as const }]) {
      const plain = after({ kind: 'set', by: 4 }, 1010, reaching(reach), 'plain')
      expect(feather(plain, 'plain').keys).toEqual([])
      expect([1001, 1072].map((frame) => numberAt(shape(plain, 'plain'), 'outerFeather', frame))).toEqual([4, 4])
    }
    expect(numberChanged(feather(start, 'plain'), 0, { kind: 'set', by: 0 }, 1010, KEY_HERE)).toEqual([])
  })

  it('keyed, gets a key on the frame, or another number in the one that is there', () => {
    expect(valuesOf(after({ kind: 'set', by: 9 }, 1006))).toEqual([[1001, 2], [1006, 9], [1011, 6], [1021, 10]]) // prettier-ignore
    expect(valuesOf(after({ kind: 'multiply', by: 1.5 }, 1011))).toEqual([[1001, 2], [1011, 9], [1021, 10]]) // prettier-ignore
    const none = numberChanged(feather(start, 'keyed'), 0, { kind: 'set', by: 9 }, 1006, reaching(HERE, false))
    expect(none).toEqual([])
  })

  it('reaches other keys: set, they become that; by as much or as many times, each from where it was', () => {
    const onward = reaching({ kind: 'onward' })
    expect(valuesOf(after({ kind: 'set', by: 4 }, 1011, onward))).toEqual([[1001, 2], [1011, 4], [1021, 4]]) // prettier-ignore
    expect(valuesOf(after({ kind: 'add', by: 2 }, 1011, onward))).toEqual([[1001, 2], [1011, 8], [1021, 12]]) // prettier-ignore
    const all = reaching({ kind: 'everywhere' })
    expect(valuesOf(after({ kind: 'multiply', by: 0.5 }, 1006, all))).toEqual([[1001, 1], [1011, 3], [1021, 5]]) // prettier-ignore
  })

  it('stays within its bounds, also where the way between two keys would lead beyond', () => {
    expect(valuesOf(after({ kind: 'add', by: -100 }, 1011))[1]).toEqual([1011, 0])
    expect(numberAt(shape(after({ kind: 'set', by: 5000 }, 1001, KEY_HERE, 'plain'), 'plain'), 'outerFeather', 1)).toBe(1000) // prettier-ignore
    const steep = shape(start, 'keyed')
    const keys = [key(1001, 0, 'smooth'), key(1002, 0, 'smooth'), key(1003, 50, 'smooth')]
    const dipping = { ...steep, channels: { ...steep.channels, outerFeather: { keys } } }
    for (let time = 1001; time < 1003; time += 0.05) {
      expect(numberAt(dipping, 'outerFeather', time)).toBeGreaterThanOrEqual(0)
    }
  })

  it('is shown as people read it: opacity in percent', () => {
    const opacity = (of: RotoDocument) => channelOf(shape(of, 'plain'), 'opacity')
    const half = withPatches(start, numberChanged(opacity(start), 0, { kind: 'set', by: 50 }, 1001, KEY_HERE))
    expect(numberAt(shape(half, 'plain'), 'opacity', 1001)).toBe(0.5)
    const more = withPatches(half, numberChanged(opacity(half), 0, { kind: 'add', by: 20 }, 1001, KEY_HERE))
    expect(numberAt(shape(more, 'plain'), 'opacity', 1001)).toBeCloseTo(0.7, 12)
  })
})

describe('keys by one click', () => {
  const toggled = (of: RotoDocument, ids: readonly string[], frame: number) =>
    withPatches(of, keysToggled(of, ids.map((id) => feather(of, id)), frame)) // prettier-ignore

  it('hold what is there, come for all together, and go again for all; the last leaves its number behind', () => {
    const four = after({ kind: 'set', by: 4 }, 1001, KEY_HERE, 'plain')
    const both = toggled(four, ['plain', 'keyed'], 1006)
    expect(valuesOf(both, 'plain')).toEqual([[1006, 4]])
    expect(valuesOf(both)).toEqual([[1001, 2], [1006, 4], [1011, 6], [1021, 10]]) // prettier-ignore
    const gone = toggled(both, ['plain', 'keyed'], 1006)
    expect(sameValue(gone.objects, four.objects)).toBe(true)
    expect(numberAt(shape(gone, 'plain'), 'outerFeather', 1050)).toBe(4)
    expect(valuesOf(gone)).toEqual(valuesOf(start))
  })

  it('can be taken back, and a key of depth goes back to the depth without it', () => {
    const depth = (of: RotoDocument) => channelOf(findObject(of, 'part', 'coat')!, 'depth')
    const batch = testBatch(keysToggled(start, [depth(start)], 1010))
    const keyed = withPatches(start, batch.patches)
    expect(depth(keyed).keys).toEqual([key(1010, 3, 'hold')])
    expect(findObject(withPatches(keyed, patchesTakenBack(batch)), 'part', 'coat')).toEqual(
      findObject(start, 'part', 'coat'),
    )
    expect(numberAt(findObject(keyed, 'part', 'coat')!, 'depth', 1001)).toBe(3)
  })
})
