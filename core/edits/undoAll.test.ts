import { describe, expect, it } from 'vitest'
import { translation } from '../geometry'
import { interpolateBySet, closedSet, cornersRounded, directionReversed, firstPointSet, roundnessSet } from './form'
import { formChanged, HERE, KEY_HERE } from './change'
import { cornersSet } from './points'
import { curveKindSet } from './curveKind'
import { objectsDeleted, partReordered } from './objects'
import {
  findObject,
  patchesTakenBack,
  sameValue,
  type Part,
  type Patch,
  type RotoDocument,
  type Shape,
  channelOf,
} from '../document'
import { interpolationSet, keyAdded, keyDeleted, valuesKeyed } from './keys'
import { keysDeleted, keysMoved, keysPutDown, keysCarried, keysReversed } from './keyTimes'
import { limbCopied } from './limbCopy'
import { movedOnPlate, tangentsMade } from './plateSpaceEdits'
import { partReparented } from './reparent'
import { pinSet } from './movers'
import { pivotPlaced, poseChanged, poseTurned } from './pose'
import { pointInsertedInto, pointsRemovedFrom, seamBroken, seamTied } from './seams'
import { tangentsFlattened } from './channelCurves'
import {
  documentOf,
  testBatch,
  testPart,
  testShape,
  testShot,
  testSubject,
  withPatches,
} from '../document/testDocuments'

/** A Part with a pose that carries another; two shapes with several keys, tied along two points. */
const start = scene()

function scene(): RotoDocument {
  const bare = documentOf([
    testShot,
    testSubject,
    testPart('arm', { pivot: [300, 200] }),
    testPart('hand', { parentId: 'arm', pivot: [340, 200], depth: 1 }),
    testShape('sleeve', 'arm', [1001, 1021, 1041], 8),
    testShape('palm', 'hand', [1001, 1031], 8, 40),
  ])
  const posed = withPatches(bare, poseChanged(bare, findObject(bare, 'part', 'arm')!, 1030, poseTurned(0.4)))
  const [sleeve, palm] = [findObject(posed, 'shape', 'sleeve')!, findObject(posed, 'shape', 'palm')!]
  const { patches } = seamTied(posed, sleeve, ['sleeve-p0', 'sleeve-p1'], palm, ['palm-p3', 'palm-p4'], 1001)
  return withPatches(posed, patches)
}

const shape = (document: RotoDocument): Shape => findObject(document, 'shape', 'sleeve')!
const part = (document: RotoDocument): Part => findObject(document, 'part', 'arm')!
const chosen = [1021, 1041].map((time) => ({ id: 'sleeve', channel: 'outline', time }))
const points = new Set(['sleeve-p2', 'sleeve-p3'])
const moved = (document: RotoDocument) => movedOnPlate(document, shape(document), 1011, () => 1, translation(7, 3))

const EDITS: Record<string, (document: RotoDocument) => Patch[]> = {
  'move, Here': (d) => formChanged(shape(d), 1011, moved(d)),
  'move, Onward': (d) => formChanged(shape(d), 1011, moved(d), { ...KEY_HERE, reach: { kind: 'onward' } }),
  'move, Span': (d) => formChanged(shape(d), 1011, moved(d), { ...KEY_HERE, reach: { kind: 'span', from: 1001, to: 1021, falloff: 9, ends: [1001, 1021] } }),
  'move, only points touched': (d) => formChanged(shape(d), 1011, moved(d), { reach: HERE, makesKeys: true, onlyTouched: true }),
  'tangents': (d) => formChanged(shape(d), 1021, tangentsMade(shape(d), points, 'none')),
  'corners': (d) => cornersSet(shape(d), points, true),
  'round corners': (d) => cornersRounded(shape(d), points, 6).patches,
  'roundness': (d) => roundnessSet(shape(d), 0.5),
  'reverse': (d) => directionReversed(shape(d)),
  'first point': (d) => firstPointSet(shape(d), 'sleeve-p3'),
  'open': (d) => closedSet(shape(d), false, 8),
  'B-spline': (d) => curveKindSet(findObject(d, 'shape', 'palm')!, 'bspline').patches,
  'turning': (d) => interpolateBySet(shape(d), 'turning'),
  'insert on the Seam': (d) => pointInsertedInto(d, shape(d), 0, 0.5).patches,
  'remove on the Seam': (d) => pointsRemovedFrom(d, shape(d), new Set(['sleeve-p0'])).patches,
  'break the Seam': (d) => seamBroken(d, [...d.objects.values()].find((object) => object.kind === 'seam')!),
  'key': (d) => keyAdded(channelOf(shape(d)), 1015),
  'delete a key': (d) => keyDeleted(channelOf(shape(d)), 1021),
  'ease': (d) => interpolationSet(channelOf(shape(d)), [1001, 1021], 'ease'),
  'move keys': (d) => keysMoved(d, chosen, (time) => time + 5),
  'reverse keys': (d) => keysReversed(d, chosen),
  'delete keys': (d) => keysDeleted(d, chosen),
  'copy keys': (d) => keysPutDown(d, keysCarried(d, chosen), 1050, (id) => id, 2),
  'turn a Part': (d) => poseChanged(d, part(d), 1050, poseTurned(0.3, 1.2)),
  'pivot': (d) => pivotPlaced(d, part(d), 1010, 280, 190),
  'pin': (d) => pinSet(d, findObject(d, 'part', 'hand')!, 1010, 'parent'),
  'carried by none': (d) => partReparented(d, findObject(d, 'part', 'hand')!, null, 1010)!,
  'flatten a curve': (d) => tangentsFlattened(channelOf(part(d)), [1030], 2),
  'mirrored limb': (d) => limbCopied(d, part(d), { isMirrored: true, delay: 4 }).patches,
  'depth': (d) => partReordered(d, 'hand', 0, 1001),
  'depth key': (d) => valuesKeyed(channelOf(part(d), 'depth'), 1020, Float64Array.of(7)),
  'delete a Part': (d) => objectsDeleted(d, ['hand']),
} // prettier-ignore

describe('undo', () => {
  it.each(Object.entries(EDITS))('takes back "%s" to the identical document', (_name, edit) => {
    const batch = testBatch(edit(start))
    const after = withPatches(start, batch.patches)
    expect(sameDocument(after, start)).toBe(false)
    expect(sameDocument(withPatches(after, patchesTakenBack(batch)), start)).toBe(true)
  })

  it('takes back all of them, made one after the other, to the identical document', () => {
    let now = start
    const made = Object.entries(EDITS).flatMap(([name, edit]) => {
      // Some have nothing to act on any more once others are done.
      const patches = name === 'break the Seam' ? [] : edit(now)
      if (patches.length === 0) return []
      const batch = testBatch(patches)
      now = withPatches(now, patches)
      return [batch]
    })
    expect(made.length).toBeGreaterThan(25)
    for (const batch of made.reverse()) now = withPatches(now, patchesTakenBack(batch))
    expect(sameDocument(now, start)).toBe(true)
  })
})

function sameDocument(a: RotoDocument, b: RotoDocument): boolean {
  const ids = [...a.objects.keys()]
  return a.objects.size === b.objects.size && ids.every((id) => sameValue(a.objects.get(id), b.objects.get(id)))
}
