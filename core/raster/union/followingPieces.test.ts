import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { numberBetween } from '../../testing/numberBetween'
import { followingPieces } from './followingPieces'
import { unionBoundary } from './unionBoundary'

describe('what follows a piece of a boundary', () => {
  it('begins where it ends, and each follows at most one', () => {
    const place = fc.tuple(numberBetween(0, 64), numberBetween(0, 64))
    const polygon = fc.array(place, { minLength: 3, maxLength: 12 }).map((places) => Float64Array.from(places.flat()))
    fc.assert(
      fc.property(fc.array(polygon, { minLength: 1, maxLength: 3 }), (polygons) => {
        const pieces = unionBoundary(polygons)
        const following = [...followingPieces(pieces).entries()].filter(([, next]) => next >= 0)
        expect(new Set(following.map(([, next]) => next)).size).toBe(following.length)
        for (const [i, next] of following) {
          expect([pieces[4 * next], pieces[4 * next + 1]]).toEqual([pieces[4 * i + 2], pieces[4 * i + 3]])
        }
      }),
    )
  })

  it('is found round a closed outline whatever the order of its pieces', () => {
    const corners = [[0, 0], [10, 0], [12, 8], [5, 13], [-2, 8]] // prettier-ignore
    const order = [3, 0, 4, 1, 2]
    const pieces = Float64Array.from(order.flatMap((i) => [...corners[i]!, ...corners[(i + 1) % 5]!]))
    expect([...followingPieces(pieces)]).toEqual(order.map((i) => order.indexOf((i + 1) % 5)))
  })

  it('is not told of pieces with a loose end on either side', () => {
    expect([...followingPieces(Float64Array.of(0, 0, 1, 1, 1, 1, 2, 0, 2, 0, 3, 3))]).toEqual([-1, 2, -1])
  })
})
