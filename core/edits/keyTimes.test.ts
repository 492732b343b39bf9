import { describe, expect, it } from 'vitest'
import { clipboardContent, clipboardText, selectionCopied, keysPasted } from './clipboard'
import {
  channelAt,
  depthKeys,
  findObject,
  keyedChannels,
  outlineKeys,
  patchesTakenBack,
  pivotKeys,
  poseKeys,
  sameValue,
  type Key,
  type RotoDocument,
} from '../document'
import { keysCarried, keysDeleted, keysMoved, keysPutDown } from './keyTimes'
import {
  documentOf,
  testBatch,
  testPart,
  testShape,
  testShot,
  testSubject,
  withPatches,
} from '../document/testDocuments'

const key = (time: number, interpolation: Key['interpolation'], ...values: number[]): Key => ({
  time,
  interpolation,
  values: Float64Array.from(values),
})
const PIVOT = { id: 'arm', channel: 'pivot' }
const DEPTH = { id: 'arm', channel: 'depth' }
const document = documentOf([
  testShot,
  testSubject,
  testPart('arm', {
    pin: { to: 'keys' },
    channels: {
      pivot: { keys: [key(1001, 'linear', 10, 20), key(1011, 'linear', 30, 25), key(1031, 'linear', 35, 60)] },
      depth: { constant: Float64Array.of(4), keys: [key(1020, 'hold', -2)] },
      pose: { keys: [key(1005, 'smooth', 0, 0, 0, 0, 0)] },
    },
  }),
  testPart('bare'),
  testShape('sleeve', 'arm', [1001, 1021]),
])
const arm = (of: RotoDocument) => findObject(of, 'part', 'arm')!
const pivotFrames = (of: RotoDocument) => pivotKeys(arm(of)).map(({ time }) => time)

describe('keys of channels', () => {
  it('are those of the pose first, then of whatever else of an object is keyed', () => {
    expect(keyedChannels(arm(document)).map(({ channel, keys }) => [channel, keys.length])).toEqual([
      ['pose', 1],
      ['pivot', 3],
      ['depth', 1],
    ])
    expect(keyedChannels(findObject(document, 'part', 'bare')!)).toEqual([])
    expect(channelAt(document, { id: 'sleeve', channel: 'outline' })!.keys).toHaveLength(2)
    expect([channelAt(document, { ...PIVOT, id: 'gone' }), channelAt(document, { id: 'arm', channel: 'outline' })]).toEqual([null, null]) // prettier-ignore
  })

  it('move together, each key by as much, and undo takes it back', () => {
    const chosen = [
      { ...PIVOT, time: 1011 },
      { ...DEPTH, time: 1020 },
      { id: 'arm', channel: 'pose', time: 1005 },
      { id: 'sleeve', channel: 'outline', time: 1021 },
    ]
    const batch = testBatch(keysMoved(document, chosen, (time) => time + 4))
    const after = withPatches(document, batch.patches)
    expect(pivotFrames(after)).toEqual([1001, 1015, 1031])
    expect(pivotKeys(arm(after))[1]).toEqual(key(1015, 'linear', 30, 25))
    expect(depthKeys(arm(after))).toEqual([key(1024, 'hold', -2)])
    expect(poseKeys(arm(after))[0]!.time).toBe(1009)
    expect(outlineKeys(findObject(after, 'shape', 'sleeve')!)[1]!.time).toBe(1025)
    expect(sameValue(arm(withPatches(after, patchesTakenBack(batch))), arm(document))).toBe(true)
    // MotionSource by nothing they are no edit.
    expect(keysMoved(document, chosen, (time) => time)).toEqual([])
  })

  it('of a pivot keep one key; depth goes back to what the Part has without', () => {
    const all = pivotFrames(document).map((time) => ({ ...PIVOT, time }))
    expect(pivotFrames(withPatches(document, keysDeleted(document, all)))).toEqual([1001])
    const after = arm(withPatches(document, keysDeleted(document, [{ ...DEPTH, time: 1020 }])))
    expect(depthKeys(after)).toEqual([])
    expect(Array.from(after.channels.depth!.constant!)).toEqual([4])
  })

  it('are copied within a Part and onto another that has them', () => {
    const chosen = [
      { ...PIVOT, time: 1001 },
      { ...PIVOT, time: 1011 },
    ]
    const twice = withPatches(document, keysPutDown(document, keysCarried(document, chosen), 1041))
    expect(pivotKeys(arm(twice)).slice(3)).toEqual([key(1041, 'linear', 10, 20), key(1051, 'linear', 30, 25)])
    const selected = { keys: [...chosen, { ...DEPTH, time: 1020 }], pointIds: new Set<string>(), shapeIds: [], partId: null } // prettier-ignore
    const text = clipboardText(selectionCopied(document, selected, 1001)!)
    const content = clipboardContent(text)
    expect(content?.kind).toBe('keys')
    // The other Part has no keys for its pivot: only the depth arrives.
    const after = findObject(withPatches(document, keysPasted(document, content as never, 'bare', 1030).patches), 'part', 'bare')! // prettier-ignore
    expect(depthKeys(after)).toEqual([key(1049, 'hold', -2)])
    expect([pivotKeys(after), after.pin]).toEqual([[], null])
  })
})
