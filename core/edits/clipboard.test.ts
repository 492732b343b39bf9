import { rationalPoint } from '../spline'
import { describe, expect, it } from 'vitest'
import { translation } from '../geometry'
import { allOf, findObject, POINT, POINT_STRIDE, type Key, type RotoDocument, outlineKeys, toJson } from '../document'
import { formChanged, KEY_HERE } from './change'
import {
  clipboardContent,
  clipboardText,
  selectionCopied,
  keysPasted,
  partsPasted,
  pointsPasted,
  shapesPasted,
  type ClipboardContent,
} from './clipboard'
import { controlPlacesAt, outlineAt, patchesForSamples, shapesOf, unmeasuredSample } from '../evaluation'
import { movedOnPlate } from './plateSpaceEdits'
import { moverAttached } from './movers'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  testTrack,
  withPatches,
} from '../document/testDocuments'

/** A coat on a track that goes 5 px a frame, a hat on nothing. */
const start = scene()

function scene(): RotoDocument {
  const bare = documentOf([
    testShot,
    testSubject,
    testPart('coat'),
    testPart('hat'),
    testPart('brim', { parentId: 'hat' }),
    testShape('outline', 'coat', [1001, 1021]),
    testShape('crown', 'hat', [1001]),
    testShape('edge', 'brim', [1001]),
    testTrack('board'),
  ])
  const samples = Array.from({ length: 40 }, (_, f) => unmeasuredSample(1001 + f, 'tracked', translation(5 * f, 2 * f)))
  const tracked = withPatches(bare, patchesForSamples(findObject(bare, 'track', 'board')!, samples))
  return withPatches(tracked, moverAttached(tracked, findObject(tracked, 'part', 'coat')!, 'board', 1001))
}

const nothing = { keys: [], pointIds: new Set<string>(), shapeIds: [], partId: null }
/** Through the text of the clipboard, as it goes from one page to another. */
function carried<Kind extends ClipboardContent['kind']>(content: ClipboardContent | null, kind: Kind) {
  const back = content && clipboardContent(clipboardText(content))
  if (back?.kind !== kind) throw new Error(`not ${kind}`)
  return back as Extract<ClipboardContent, { kind: Kind }>
}
const placeOf = (document: RotoDocument, shapeId: string, time: number) =>
  rationalPoint(outlineAt(document, findObject(document, 'shape', shapeId)!, time), 2, 0.3)

describe('the clipboard', () => {
  it('takes the smallest thing that is selected: keys, points, shapes, then the Part', () => {
    const all = {
      keys: [{ id: 'outline', channel: 'outline', time: 1021 }],
      pointIds: new Set(['outline-p1']),
      shapeIds: ['outline'],
      partId: 'coat',
    }
    const kinds = [
      all,
      { ...all, keys: [] },
      { ...all, keys: [], pointIds: new Set<string>() },
      { ...nothing, partId: 'coat' },
    ]
    expect(kinds.map((selected) => selectionCopied(start, selected, 1001)?.kind)).toEqual([
      'keys',
      'points',
      'shapes',
      'parts',
    ])
    expect(selectionCopied(start, nothing, 1001)).toBeNull()
  })

  it('a shape put into a Part that is moved otherwise lies where it lay on each of its keys', () => {
    const content = carried(selectionCopied(start, { ...nothing, shapeIds: ['outline'] }, 1001), 'shapes')
    const { patches, shapeIds } = shapesPasted(start, content, findObject(start, 'part', 'hat')!)
    const after = withPatches(start, patches)
    for (const time of [1001, 1021]) {
      const [a, b] = [placeOf(after, 'outline', time), placeOf(after, shapeIds[0]!, time)]
      expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThan(1e-6)
    }
    expect(findObject(after, 'shape', shapeIds[0]!)!.pointIds.some((id) => id.startsWith('outline'))).toBe(false)
  })

  it('points lie on another frame where they lay on the plate, and only they', () => {
    const shape = findObject(start, 'shape', 'outline')!
    const content = carried(
      selectionCopied(start, { ...nothing, shapeIds: ['outline'], pointIds: new Set(['outline-p2']) }, 1001),
      'points',
    )
    const patches = pointsPasted(start, content, { shapeIds: [], pointIds: new Set() }, 1015, KEY_HERE)!
    const after = withPatches(start, patches)
    const [then, now] = [
      controlPlacesAt(start, shape, 1001),
      controlPlacesAt(after, findObject(after, 'shape', 'outline')!, 1015),
    ]
    expect([now[4], now[5]]).toEqual([expect.closeTo(then[4]!, 6), expect.closeTo(then[5]!, 6)])
    expect(now[6]! - controlPlacesAt(start, shape, 1015)[6]!).toBeCloseTo(0, 9)
    // Of another shot: onto as many selected points, or not at all.
    const other = { ...content, points: content.points.map((point) => ({ ...point, id: 'elsewhere' })) }
    expect(pointsPasted(start, other, { shapeIds: ['crown'], pointIds: new Set() }, 1015, KEY_HERE)).toBeNull()
    expect(
      pointsPasted(start, other, { shapeIds: ['crown'], pointIds: new Set(['crown-p0']) }, 1015, KEY_HERE),
    ).toHaveLength(1)
  })

  it('keys of one shape go onto another of as many points', () => {
    const moved = withPatches(
      start,
      formChanged(
        findObject(start, 'shape', 'outline')!,
        1011,
        movedOnPlate(start, findObject(start, 'shape', 'outline')!, 1011, () => 1, translation(20, 0)),
      ),
    )
    const content = carried(
      selectionCopied(moved, { ...nothing, keys: [{ id: 'outline', channel: 'outline', time: 1011 }] }, 1001),
      'keys',
    )
    const after = withPatches(moved, keysPasted(moved, content, 'crown', 1030).patches)
    expect(outlineKeys(findObject(after, 'shape', 'crown')!).map((key) => key.time)).toEqual([1001, 1030])
    expect(outlineKeys(findObject(after, 'shape', 'crown')!)[1]!.values).toEqual(
      outlineKeys(findObject(moved, 'shape', 'outline')!)[1]!.values,
    )
  })

  it('a Part comes with what it carries; a Mover whose track is not there is let go', () => {
    const content = carried(selectionCopied(start, { ...nothing, partId: 'hat' }, 1001), 'parts')
    const { patches, partId } = partsPasted(start, content, testSubject.id, 1001)
    const after = withPatches(start, patches)
    const child = allOf(after, 'part').find((part) => part.parentId === partId)!
    expect([child.name, shapesOf(after, child.id)[0]?.name]).toEqual(['brim', 'edge'])
    const coat = carried(selectionCopied(start, { ...nothing, partId: 'coat' }, 1001), 'parts')
    const elsewhere = documentOf([testShot, testSubject])
    const pasted = withPatches(elsewhere, partsPasted(elsewhere, coat, testSubject.id, 1001).patches)
    expect(allOf(pasted, 'part')[0]!.mover).toBeNull()
  })

  it('of version 3, before points had a focus of their own, is still understood', () => {
    const outline = findObject(start, 'shape', 'outline')!
    const bare = (values: ArrayLike<number>) => Array.from(values).filter((_, i) => i % POINT_STRIDE !== POINT.focus)
    const keyOf = ({ values, ...key }: Key) => ({ ...key, values: bare(values) })
    const [key] = outlineKeys(outline)
    const understood = (content: object) => clipboardContent(JSON.stringify({ tenderLasso: 3, content }))
    const pose = { time: 1001, interpolation: 'smooth', values: [1, 2, 0, 0, 0] }
    const carriedKeys = [
      { id: 'outline', channel: 'outline', after: 0, key: keyOf(key!) },
      { id: 'coat', channel: 'pose', after: 0, key: pose },
    ]
    const keys = understood({ kind: 'keys', carried: carriedKeys })
    if (keys?.kind !== 'keys') throw new Error('no keys')
    expect(toJson(keys.carried.map((one) => one.key.values))).toBe(toJson([key!.values, pose.values]))
    const point = key!.values.slice(0, POINT_STRIDE)
    const points = understood({ kind: 'points', points: [{ id: 'outline-p0', values: bare(point) }] })
    expect(toJson(points)).toBe(toJson({ kind: 'points', points: [{ id: 'outline-p0', values: point }] }))
    const former = { ...outline, channels: { outline: { keys: outlineKeys(outline).map(keyOf) } } }
    const shapes = understood({ kind: 'shapes', shapes: [former] })
    if (shapes?.kind !== 'shapes') throw new Error('no shapes')
    expect(toJson(shapes.shapes[0]!.channels)).toBe(toJson(outline.channels))
  })

  it('other texts and broken ones are nothing of a shot', () => {
    for (const text of ['', 'hello', '{}', '{"tenderLasso":1,"content":{"kind":"shapes","shapes":[{}]}}']) {
      expect(clipboardContent(text)).toBeNull()
    }
  })
})
