import { describe, expect, it } from 'vitest'
import { channelOf, constantChannel, type Key, type Part, type Shape, type Track } from '../document'
import { documentOf, testPart, testShape, testShot, testSubject, testTrack } from '../document/testDocuments'
import { channelValuesAt, numberAt } from './channelValues'
import { partShutter } from './evaluate'
import { sceneAt } from './scene'

const key = (time: number, interpolation: Key['interpolation'], ...values: number[]): Key => ({
  time,
  interpolation,
  values: Float64Array.from(values),
})
const track = (channels: Track['channels']): Track => ({ ...testTrack('board'), channels })
const at = (object: Part | Shape | Track, name: string, frames: readonly number[]) =>
  frames.map((frame) => Array.from(channelValuesAt(channelOf(object, name), frame) ?? []))

describe('numbers of a channel at a time', () => {
  it('without keys are its constant, and without that its initial ones', () => {
    expect(at(testShape('outline', 'coat', [1001]), 'opacity', [1, 9])).toEqual([[1], [1]])
    expect(at({ ...testShape('outline', 'coat', [1001]), channels: { outline: { keys: [] }, opacity: constantChannel(0.3) } }, 'opacity', [7])).toEqual([[0.3]]) // prettier-ignore
    expect(channelValuesAt(channelOf(testPart('coat'), 'pivot'), 1001)).toBeNull()
  })

  it('of an Offset go straight between keys and are held outside', () => {
    const offset = track({ offset: { keys: [key(10, 'linear', 1, 2), key(20, 'linear', 11, -2)] } })
    expect(at(offset, 'offset', [5, 10, 15, 20, 99])).toEqual([[1, 2], [1, 2], [6, 0], [11, -2], [11, -2]]) // prettier-ignore
  })

  it('of a depth are held from key to key, and before the first its constant', () => {
    const part = testPart('coat', { channels: { depth: { constant: Float64Array.of(4), keys: [key(10, 'hold', -1), key(20, 'hold', 7)] } } }) // prettier-ignore
    expect([9, 10, 19, 20, 99].map((frame) => numberAt(part, 'depth', frame))).toEqual([4, -1, -1, 7, 7])
  })

  it('of an outline with other numbers of points on two keys are the earlier ones until the later', () => {
    const [three, four] = [[0, 0, 9, 0, 9, 9], [0, 0, 9, 0, 9, 9, 0, 9]] // prettier-ignore
    const leaving = track({ 'leaveOut:a': { keys: [key(10, 'linear', ...three!), key(20, 'linear', ...four!)] } })
    expect(at(leaving, 'leaveOut:a', [5, 15, 20])).toEqual([three, three, four])
  })
})

describe('settings that change over time', () => {
  const withChannels = (channels: Omit<Shape['channels'], 'outline'>): Shape => {
    const shape = testShape('outline', 'coat', [1001])
    return { ...shape, channels: { ...shape.channels, ...channels } }
  }
  const feather = { keys: [key(1001, 'linear', 0), key(1011, 'linear', 20)] }

  it('are those of the frame in its matte', () => {
    const shape = withChannels({ outerFeather: feather, opacity: { keys: [key(1001, 'linear', 1), key(1011, 'linear', 0)] } }) // prettier-ignore
    const document = documentOf([testShot, testSubject, testPart('coat'), shape])
    const groups = [1001, 1006, 1011].map((frame) => sceneAt(document, frame, 2).parts[0]!.groups[0]!)
    expect(groups.map(({ edge }) => edge.outerFeather)).toEqual([0, 20, 40])
    expect(groups.map(({ opacity }) => opacity)).toEqual([1, 0.5, 0])
  })

  it('put shapes into one group only on frames on which they are alike', () => {
    const other = { ...withChannels({ outerFeather: constantChannel(10) }), id: 'other' }
    const document = documentOf([testShot, testSubject, testPart('coat'), withChannels({ outerFeather: feather }), other]) // prettier-ignore
    expect([1003, 1006].map((frame) => sceneAt(document, frame).parts[0]!.groups.length)).toEqual([2, 1])
  })

  it("a Part's shutter is the shot's of that frame until it has its own", () => {
    const shot = { ...testShot, channels: { shutterAngle: { keys: [key(1001, 'linear', 0), key(1011, 'linear', 360)] } } } // prettier-ignore
    const own = testPart('hat', { hasOwnShutter: true, channels: { shutterAngle: constantChannel(90) } })
    const document = documentOf([shot, testSubject, testPart('coat'), own])
    expect(partShutter(document, testPart('coat'), 1006)).toEqual({ angle: 180, phase: -90 })
    expect(partShutter(document, own, 1006)).toEqual({ angle: 90, phase: -90 })
  })
})
