import { describe, expect, it } from 'vitest'
import { flattenByArea, flattenOutline, homogeneousOutline, type HomogeneousOutline } from '../spline'
import { POINT_STRIDE } from '../document'
import { roundOutline } from '../document/testDocuments'
import { CoverageAccumulator } from './accumulate'
import { MAPS, SIZE, wildOutline } from './testOutlines'
import { unionBoundary } from './union'

const ERROR = 1 / 510
const box = { left: 0, top: 0, right: SIZE, bottom: SIZE }

function coverage(polygon: Float64Array): Float32Array {
  const accumulator = new CoverageAccumulator()
  const alpha = new Float32Array(SIZE * SIZE)
  accumulator.begin(box)
  accumulator.add(unionBoundary([polygon]))
  accumulator.finish({ box, alpha })
  return alpha
}

/** Largest difference of any pixel from chords that are as good as the curve, and the sum of all. */
function compared(outline: HomogeneousOutline) {
  const [few, many] = [coverage(flattenByArea(outline, ERROR)), coverage(flattenOutline(outline, 1e-5))]
  let [worst, sum] = [0, 0]
  for (let i = 0; i < few.length; i++) {
    worst = Math.max(worst, Math.abs(few[i]! - many[i]!))
    sum += few[i]! - many[i]!
  }
  return { worst, sum }
}

describe('what a hard edge covers', () => {
  const asItIs = [1, 0, 0, 0, 1, 0, 0, 0, 1]
  const maps = { 'as it is': asItIs, ...MAPS }
  for (const [how, map] of Object.entries(maps)) {
    it(`differs by no more than half a level of eight bits where its chords are few, ${how}`, () => {
      for (const radius of [3, 11, 60, 150]) {
        for (const points of [4, 13]) {
          const round = roundOutline(points, radius, 190.3, 187.8)
          const { worst, sum } = compared(homogeneousOutline(round, POINT_STRIDE, Float64Array.from(map)))
          expect(worst).toBeLessThanOrEqual(ERROR)
          expect(Math.abs(sum)).toBeLessThan(0.02 * ERROR * 2 * Math.PI * radius + 1e-3)
        }
      }
    })
  }

  it('differs by few levels where it winds wildly, and on the whole by nothing', () => {
    const { worst, sum } = compared(homogeneousOutline(wildOutline(), POINT_STRIDE, Float64Array.from(asItIs)))
    // Up to four edges through one pixel.
    expect(worst).toBeLessThanOrEqual(4 * ERROR)
    expect(Math.abs(sum)).toBeLessThan(ERROR)
  })
})
