import { describe, expect, it } from 'vitest'
import { renderMattes } from '../raster'
import { POINT_STRIDE, type Shape } from '../document'
import { documentOf, testPart, testShape, testShot, testSubject } from '../document/testDocuments'
import { sceneAt } from './scene'

const BOX = { left: 0, top: 0, right: 640, bottom: 400 }

/** A round shape about (300, 200) that goes 24 px to the right from 1001 to 1003. */
const round = testShape('round', 'part', [1001], 12, 60)
const first = round.channels.outline.keys[0]!
const moved = first.values.map((value, i) => (i % POINT_STRIDE === 0 ? value + 24 : value))
const running: Shape = { ...round, channels: { outline: { keys: [{ ...first, interpolation: 'linear' }, { ...first, time: 1003, values: moved }] } } } // prettier-ignore
const still: Shape = { ...round, channels: { outline: { keys: [{ ...first, values: first.values.map((value, i) => (i % POINT_STRIDE === 0 ? value + 12 : value)) }] } } } // prettier-ignore

const weighted = (weight: (point: number) => number): Shape => ({
  ...running,
  blurWeights: Object.fromEntries(running.pointIds.map((id, i) => [id, weight(i)])),
})

const matteOf = (shape: Shape) =>
  renderMattes(sceneAt(documentOf([testShot, testSubject, testPart('part'), shape]), 1002), [{ partId: 'part', withHoldouts: false }], { box: BOX, motionBlur: true })![0]! // prettier-ignore

/** Pixels of a row that are neither full nor empty, left and right of a column. */
function soft(matte: Float32Array, row: number, middle: number): [left: number, right: number] {
  const counts: [number, number] = [0, 0]
  for (let x = 0; x < 640; x++) {
    const alpha = matte[row * 640 + x]!
    if (alpha > 0.01 && alpha < 0.99) counts[x < middle ? 0 : 1]++
  }
  return counts
}

const worst = (a: Float32Array, b: Float32Array) =>
  a.reduce((most, value, i) => Math.max(most, Math.abs(value - b[i]!)), 0)

describe('how much of the motion a point takes part in', () => {
  it('all of it is the blurred shape, none of it the shape as it lies at mid-shutter', () => {
    expect(worst(matteOf(weighted(() => 1)), matteOf(running))).toBe(0)
    expect(worst(matteOf(weighted(() => 0)), matteOf(still))).toBeLessThan(1e-6)
    expect(worst(matteOf({ ...running, motionBlur: false }), matteOf(still))).toBeLessThan(1e-6)
    // Motion within 180 degrees: 6 px.
    expect(Math.min(...soft(matteOf(running), 200, 312))).toBeGreaterThanOrEqual(5)
  })

  it('half of it is half of the blur', () => {
    const [left, right] = soft(matteOf(weighted(() => 0.5)), 200, 312)
    for (const count of [left, right]) {
      expect(count).toBeGreaterThanOrEqual(2)
      expect(count).toBeLessThanOrEqual(5)
    }
  })

  it('the points on one side rest: that side is as sharp as if nothing moved, the other is blurred', () => {
    // Points count from the right, clockwise: those from a quarter to three quarters round lie on the left.
    const matte = matteOf(weighted((i) => (i >= 3 && i <= 9 ? 0 : 1)))
    const [left, right] = soft(matte, 200, 312)
    expect(left).toBeLessThanOrEqual(2)
    expect(right).toBeGreaterThanOrEqual(5)
  })
})
