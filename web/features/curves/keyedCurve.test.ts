import { describe, expect, it } from 'vitest'
import { POINT_STRIDE, type Shape, outlineKeys, withOutlineKeys } from '@tender-lasso/core/document'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { pointChannels } from './keyedCurve'

/** What a matte is made of on a frame, as numbers. */
const outlinesOf = (shape: Shape) =>
  sceneAt(documentOf([testShot, testSubject, testPart('coat'), shape]), 1001).parts.flatMap(({ groups }) =>
    groups.flatMap((group) => [
      ...Object.values(group.edge),
      ...group.outlinesAt(0.5).flatMap((one) => Array.from(one)),
    ]),
  )

describe('curves of what points have', () => {
  it('are of numbers that the mattes are made from: each of them, changed, changes the matte', () => {
    const kinds: Partial<Shape>[] = [
      {},
      { curve: 'bspline' },
      { isClosed: false },
      { isClosed: false, curve: 'bspline' },
    ]
    for (const kind of kinds) {
      const shape: Shape = { ...testShape('outline', 'coat', [1001]), ...kind }
      for (let at = 0; at < outlineKeys(shape)[0]!.values.length; at += POINT_STRIDE)
        outlineKeys(shape)[0]!.values[at + 9] = 8
      for (const { name, index } of pointChannels(shape)) {
        const [key] = outlineKeys(shape)
        const values = key!.values.slice()
        values[POINT_STRIDE + index]! += 0.5
        expect(outlinesOf(withOutlineKeys(shape, [{ ...key!, values }])), name).not.toEqual(outlinesOf(shape))
      }
    }
  })
})
