import { describe, expect, it } from 'vitest'
import { constantChannel, outlineKeys, POINT, POINT_STRIDE, type Shape } from '../document'
import { documentOf, testPart, testShape, testShot, testSubject } from '../document/testDocuments'
import { sceneAt } from '../evaluation'
import type { Box } from '../geometry'
import { largestDifference } from '../testing'
import { renderMattes } from './renderMattes'

const WIDTH = 420
const HEIGHT = 300

function placed(shape: Shape, x: number, y: number): Shape {
  for (const { values } of outlineKeys(shape)) {
    for (let at = 0; at < values.length; at += POINT_STRIDE) {
      values[at + POINT.x]! += x
      values[at + POINT.y]! += y
    }
  }
  return shape
}

describe('a picture made in bands', () => {
  const soft = (shape: Shape, feather: number): Shape => ({ ...shape, channels: { ...shape.channels, outerFeather: constantChannel(feather), innerFeather: constantChannel(2) } }) // prettier-ignore
  const shapes = [0, 1, 2, 3, 4, 5].map((i) => {
    const shape = placed(testShape(`s${i}`, 'coat', [1001, 1006], 8, 40), (i % 3) * 90 - 210, Math.floor(i / 3) * 130 - 120)
    return i === 1 ? soft(shape, 14) : i === 5 ? { ...shape, channels: { ...shape.channels, focus: constantChannel(3) } } : shape
  }) // prettier-ignore
  const front = placed(testShape('near', 'arm', [1001, 1006], 8, 60), -120, -60)
  const document = documentOf([testShot, testSubject, testPart('arm', { depth: 0 }), testPart('coat', { depth: 1 }), front, ...shapes]) // prettier-ignore
  const rendered = (box: Box) =>
    renderMattes(sceneAt(document, 1003), [{ partId: 'coat', withHoldouts: true }], { box, motionBlur: true })![0]!

  it('is the same as at once, though each band leaves out the shapes that cannot reach it', () => {
    const whole = rendered({ left: 0, top: 0, right: WIDTH, bottom: HEIGHT })
    expect(whole.filter((alpha) => alpha > 0 && alpha < 1).length).toBeGreaterThan(1000)
    for (const edges of [[0, 37, 101, 102, HEIGHT], [0, 150, HEIGHT]]) {
      edges.slice(1).forEach((bottom, i) => {
        const top = edges[i]!
        const band = rendered({ left: 0, top, right: WIDTH, bottom })
        expect(largestDifference(band, whole.subarray(top * WIDTH, bottom * WIDTH))).toBeLessThan(2e-6)
      })
    } // prettier-ignore
  })
})
