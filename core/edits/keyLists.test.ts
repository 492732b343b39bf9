import { describe, expect, it } from 'vitest'
import { clipboardContent, clipboardText, copied, keysPasted } from './clipboard'
import { depthKeysId, keyListOf, keyListsOfPart, pivotKeysId } from './keyLists'
import { find, patchesTakenBack, sameValue, type RotoDocument } from '../document'
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

const PIVOT = pivotKeysId('arm')
const DEPTH = depthKeysId('arm')
const document = documentOf([
  testShot,
  testSubject,
  testPart('arm', {
    pin: { to: 'keys', keys: [{ frame: 1001, place: [10, 20] }, { frame: 1011, place: [30, 25] }, { frame: 1031, place: [35, 60] }] },
    depthKeys: [{ frame: 1020, depth: -2 }],
    keys: [{ time: 1005, interpolation: 'smooth', values: new Float64Array(5) }],
  }),
  testPart('bare'),
  testShape('sleeve', 'arm', [1001, 1021]),
]) // prettier-ignore
const arm = (of: RotoDocument) => find(of, 'part', 'arm')!
const pivotFrames = (of: RotoDocument) => keyListOf(of, PIVOT)!.keys.map(({ time }) => time)

describe('lists of keys', () => {
  it('are of the pose, the pivot and the depth of a Part, where it has such keys', () => {
    expect(keyListsOfPart(arm(document)).map(({ id, keys }) => [id, keys.length])).toEqual([
      ['arm', 1],
      [PIVOT, 3],
      [DEPTH, 1],
    ])
    expect(keyListsOfPart(find(document, 'part', 'bare')!)).toEqual([])
    expect(keyListOf(document, 'sleeve')!.keys).toHaveLength(2)
    expect([keyListOf(document, 'gone'), keyListOf(document, pivotKeysId('bare'))]).toEqual([null, null])
  })

  it('move together, each key by as much, and undo takes it back', () => {
    const chosen = [
      { id: PIVOT, time: 1011 },
      { id: DEPTH, time: 1020 },
      { id: 'arm', time: 1005 },
      { id: 'sleeve', time: 1021 },
    ]
    const batch = testBatch(keysMoved(document, chosen, (time) => time + 4))
    const after = withPatches(document, batch.patches)
    expect(pivotFrames(after)).toEqual([1001, 1015, 1031])
    expect(arm(after).pin).toMatchObject({ keys: [{}, { frame: 1015, place: [30, 25] }, {}] })
    expect(arm(after).depthKeys).toEqual([{ frame: 1024, depth: -2 }])
    expect(arm(after).keys[0]!.time).toBe(1009)
    expect(find(after, 'shape', 'sleeve')!.keys[1]!.time).toBe(1025)
    expect(sameValue(arm(withPatches(after, patchesTakenBack(batch))), arm(document))).toBe(true)
    // Moved by nothing they are no edit.
    expect(keysMoved(document, chosen, (time) => time)).toEqual([])
  })

  it('of a pivot keep one key; depth goes back to what the Part has without', () => {
    const all = pivotFrames(document).map((time) => ({ id: PIVOT, time }))
    expect(pivotFrames(withPatches(document, keysDeleted(document, all)))).toEqual([1001])
    expect(arm(withPatches(document, keysDeleted(document, [{ id: DEPTH, time: 1020 }]))).depthKeys).toEqual([])
  })

  it('are copied within a Part and onto another that has them', () => {
    const chosen = [
      { id: PIVOT, time: 1001 },
      { id: PIVOT, time: 1011 },
    ]
    const twice = withPatches(document, keysPutDown(document, keysCarried(document, chosen), 1041))
    expect(arm(twice).pin).toMatchObject({ keys: [{}, {}, {}, { frame: 1041, place: [10, 20] }, { frame: 1051, place: [30, 25] }] }) // prettier-ignore
    const selected = { keys: [...chosen, { id: DEPTH, time: 1020 }], pointIds: new Set<string>(), shapeIds: [], partId: null } // prettier-ignore
    const text = clipboardText(copied(document, selected, 1001)!)
    const content = clipboardContent(text)
    expect(content?.kind).toBe('keys')
    // The other Part has no keys for its pivot: only the depth arrives.
    const after = withPatches(document, keysPasted(document, content as never, 'bare', 1030).patches)
    expect(find(after, 'part', 'bare')).toMatchObject({ depthKeys: [{ frame: 1049, depth: -2 }], pin: null })
  })
})
