import { describe, expect, it } from 'vitest'
import { constantChannel } from '../document'
import { documentOf, testPart, testShape, testShot, testSubject } from '../document/testDocuments'
import { renderMattes } from '../raster'
import { sceneAt } from './scene'
import { vanishedHalfWidth } from './vanishing'

const BOX = { left: 0, top: 0, right: 640, bottom: 400 }

describe('a shape that its edge leaves nothing of', () => {
  it.each([
    [{ grow: -30 }, false],
    [{ grow: -59 }, false],
    [{ grow: -62 }, true],
    [{ innerFeather: 200 }, false],
    [{ innerFeather: 40, grow: -70 }, true],
    [{ outerFeather: 30, grow: -80 }, false],
    [{ outerFeather: 30, grow: -95 }, true],
    [{}, false],
  ])('%o: %s', (edge: Record<string, number>, isGone) => {
    const channels = Object.fromEntries(Object.entries(edge).map(([name, value]) => [name, constantChannel(value)]))
    const round = testShape('round', 'part', [1001], 12, 60)
    const shape = { ...round, channels: { ...round.channels, ...channels } }
    const document = documentOf([testShot, testSubject, testPart('part'), shape])
    const halfWidth = vanishedHalfWidth(document, shape, 1001)
    if (isGone) expect(Math.abs(halfWidth! - 60)).toBeLessThan(1)
    else expect(halfWidth).toBeNull()
    // As the matte has it.
    const [matte] = renderMattes(sceneAt(document, 1001), [{ partId: 'part', withHoldouts: false }], { box: BOX, motionBlur: false })! // prettier-ignore
    expect(matte!.every((alpha) => alpha < 1 / 255)).toBe(isGone)
  })
})
