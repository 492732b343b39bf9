import { describe, expect, it } from 'vitest'
import { applyBatch, channelOf, findObject, firstOutputs, isConflict, NEW_OUTPUT_FIELDS, POINT_STRIDE, type Output, type Patch, type RotoDocument, type Shape } from '../document' // prettier-ignore
import { documentOf, testBatch, testPart, testShape, testShot, testSubject } from '../document/testDocuments'
import { constantSet, fieldSet, objectAdded } from '../edits'
import { renderMattes } from '../raster'
import { largestDifference } from '../testing'
import { hasHoldouts } from '../document'
import { coveredByAny, frameInputs, frameView, liveOutput } from './index'

const output: Output = { ...NEW_OUTPUT_FIELDS, id: 'out', name: 'Out', order: 0, holds: { what: 'parts', partIds: ['coat'] } } // prettier-ignore
const document = documentOf([
  testShot,
  testSubject,
  testPart('hat', { depth: 0 }),
  testPart('coat', { depth: 1 }),
  testPart('wall', { depth: 2 }),
  testShape('hatShape', 'hat', [1001, 1010, 1020], 6, 50),
  testShape('coatShape', 'coat', [1001, 1010, 1020, 1030, 1040], 8, 90),
  testShape('wallShape', 'wall', [1001], 4, 120),
])

const edited = (patches: Patch[], from: RotoDocument = document): RotoDocument => {
  const next = applyBatch(from, testBatch(patches))
  if (isConflict(next)) throw new Error(next.reason)
  return next
}
const inputsOn = (of: RotoDocument, frame: number, out = output) =>
  Buffer.from(frameInputs(frameView(of, out, frame), out)).toString('base64')
const framesThatDiffer = (a: RotoDocument, b: RotoDocument, out = output) =>
  Array.from({ length: 72 }, (_, i) => 1001 + i).filter((frame) => inputsOn(a, frame, out) !== inputsOn(b, frame, out))
const alphaOn = (of: RotoDocument, frame: number, out = output) => {
  const { scene, mattes } = frameView(of, out, frame)
  const box = { left: 150, top: 80, right: 470, bottom: 330 }
  const wanted = mattes.map(({ partId }) => ({ partId, withHoldouts: hasHoldouts(out) }))
  return renderMattes(scene, wanted, { box, motionBlur: out.motionBlur })!
}

describe('what a frame is made from', () => {
  it('is the same bytes for the same document, however it came about', () => {
    const copy = documentOf([...document.objects.values()].reverse().map((object) => structuredClone(object)))
    expect(framesThatDiffer(document, copy)).toEqual([])
  })

  it('differs just where a moved key changes the pixels', () => {
    const straight = structuredClone(findObject(document, 'shape', 'coatShape')!)
    for (const key of straight.channels.outline!.keys) key.interpolation = 'linear'
    const shifted = structuredClone(straight)
    const key = shifted.channels.outline!.keys.find(({ time }) => time === 1020)!
    for (let i = 0; i < key.values.length; i += POINT_STRIDE) key.values[i]! += 0.37
    const withShape = (shape: Shape) =>
      documentOf([...document.objects.values()].map((object) => (object.id === shape.id ? shape : object)))
    const [before, after] = [withShape(straight), withShape(shifted)]
    const differ = framesThatDiffer(before, after)
    // Between the neighbouring keys; on 1010 and 1030 the shutter reaches in by a quarter of a frame.
    expect(differ).toEqual(Array.from({ length: 21 }, (_, i) => 1010 + i))
    for (let frame = 1001; frame <= 1045; frame++) {
      const [then, now] = [before, after].map((of) => Buffer.from(alphaOn(of, frame)[0]!.buffer))
      expect(then!.equals(now!), String(frame)).toBe(!differ.includes(frame))
    }
  })

  it('hangs on what stands in front of a matte and cuts it, and on nothing else', () => {
    const shiftedOf = (partId: string) => edited([fieldSet(findObject(document, 'shape', `${partId}Shape`)!, 'visible', false)].flat()) // prettier-ignore
    expect(framesThatDiffer(document, shiftedOf('hat'))).toHaveLength(72)
    expect(framesThatDiffer(document, shiftedOf('wall'))).toEqual([])
    const uncut = { ...output, withHoldouts: false }
    expect(framesThatDiffer(document, shiftedOf('hat'), uncut)).toEqual([])
    // One that does not cut does not count; one that is brought behind neither.
    const spared = edited([fieldSet(findObject(document, 'part', 'hat')!, 'holdsOut', false)].flat())
    const hidden = edited([fieldSet(findObject(spared, 'shape', 'hatShape')!, 'visible', false)].flat(), spared)
    expect(framesThatDiffer(spared, hidden)).toEqual([])
  })

  it('hangs on how fast something behind goes that touches it, since all that touch are rendered at the same sub-times', () => {
    const wall = structuredClone(findObject(document, 'shape', 'wallShape')!)
    const [key] = wall.channels.outline!.keys
    const later = structuredClone(key!)
    later.time = 1020
    for (let i = 0; i < later.values.length; i += POINT_STRIDE) later.values[i]! += 400
    wall.channels.outline!.keys.push(later)
    const running = documentOf([...document.objects.values()].map((object) => (object.id === wall.id ? wall : object)))
    const differ = framesThatDiffer(document, running)
    expect(differ).toContain(1006)
    expect(differ).not.toContain(1060)
    for (const frame of [1002, 1006, 1012, 1020, 1030, 1060]) {
      if (differ.includes(frame)) continue
      const [then, now] = [document, running].map((of) => Buffer.from(alphaOn(of, frame)[0]!.buffer))
      expect(then!.equals(now!), String(frame)).toBe(true)
    }
    expect(Buffer.from(alphaOn(document, 1006)[0]!.buffer).equals(Buffer.from(alphaOn(running, 1006)[0]!.buffer))).toBe(false) // prettier-ignore
  })

  it('hangs on softness, shutter and settings, but for what an output leaves out', () => {
    const coat = findObject(document, 'shape', 'coatShape')!
    const soft = edited(constantSet(channelOf(coat, 'outerFeather'), [3]))
    expect(framesThatDiffer(document, soft)).toHaveLength(72)
    expect(framesThatDiffer(document, soft, { ...output, feather: false })).toEqual([])
    // Half as long about the same middle.
    const shot = findObject(document, 'shot', 'shot')!
    const shutter = edited([
      ...constantSet(channelOf(shot, 'shutterAngle'), [90]),
      ...constantSet(channelOf(shot, 'shutterPhase'), [-45]),
    ])
    expect(framesThatDiffer(document, shutter)).not.toEqual([])
    expect(framesThatDiffer(document, shutter, { ...output, motionBlur: false })).toEqual([])
    for (const other of [{ scale: 0.5 as const }, { format: 'exr-float' as const }, { layout: 'rgb' as const }]) {
      expect(inputsOn(document, 1005)).not.toBe(inputsOn(document, 1005, { ...output, ...other }))
    }
  })

  it('hangs on names of the mattes, which are names of channels', () => {
    const named = edited([fieldSet(findObject(document, 'part', 'coat')!, 'name', 'cloak')].flat())
    expect(framesThatDiffer(document, named)).toHaveLength(72)
    const added = edited([objectAdded(testPart('far', { depth: 9 }))])
    expect(framesThatDiffer(document, added)).toEqual([])
  })
})

describe('a live output', () => {
  it('is one file a frame', () => {
    const [mattes, channels, ids] = firstOutputs(() => 'id') as [Output, Output, Output]
    expect(liveOutput(mattes, 'exr')).toMatchObject({ layout: 'channels', format: 'exr-half', window: 'data' })
    expect(liveOutput({ ...channels, format: 'exr-float' }, 'exr')).toMatchObject({ layout: 'channels', format: 'exr-float' }) // prettier-ignore
    expect(liveOutput(ids, 'exr')).toBe(ids)
    for (const one of [mattes, channels, ids]) expect(liveOutput(one, 'png')).toMatchObject({ layout: 'one', format: 'png16', window: 'full' }) // prettier-ignore
  })

  it('as a picture shows what its mattes cover: held out they add up, otherwise the largest counts', () => {
    const all = { ...output, holds: { what: 'everything' as const } }
    const cut = alphaOn(document, 1005, all)
    const uncut = alphaOn(document, 1005, { ...all, withHoldouts: false })
    const length = cut[0]!.length
    const [shared, largest] = [coveredByAny(cut, true, length), coveredByAny(uncut, false, length)]
    // The union of what overlaps is the same by both ways, but where two edges cross inside a pixel.
    const awayFromEdges = (_: number, i: number) => uncut.every((alpha) => alpha[i] === 0 || alpha[i] === 1)
    expect(largestDifference(shared.filter(awayFromEdges), largest.filter(awayFromEdges))).toBeLessThan(1e-6)
    expect(shared.filter((alpha) => alpha > 0.5).length).toBeGreaterThan(10_000)
    expect(coveredByAny([], true, 3)).toEqual(new Float32Array(3))
  })
})
