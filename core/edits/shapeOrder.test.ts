import { describe, expect, it } from 'vitest'
import { documentOf, testPart, testShape, withPatches } from '../document/testDocuments'
import { shapesOf } from '../evaluation'
import { shapeReordered } from './shapeOrder'

describe('the order of the shapes of a Part', () => {
  const names = ['low', 'middle', 'top']
  const document = documentOf([testPart('part'), ...names.map((id, order) => ({ ...testShape(id, 'part', [1001]), order: 3 * order }))]) // prettier-ignore

  it('has a shape where it was put, counted from the top, and the others as they were', () => {
    for (const id of names) {
      for (const index of [0, 1, 2]) {
        const after = shapesOf(withPatches(document, shapeReordered(document, id, index)), 'part').toReversed()
        expect(after[index]!.id).toBe(id)
        const others = names.filter((name) => name !== id)
        expect(after.filter((shape) => shape.id !== id).map((shape) => shape.id)).toEqual(others.toReversed())
      }
    }
  })

  it('needs no edit where nothing changes', () => {
    const settled = withPatches(document, shapeReordered(document, 'top', 0))
    expect(shapeReordered(settled, 'middle', 1)).toEqual([])
    expect(shapeReordered(settled, 'gone', 1)).toEqual([])
  })
})
