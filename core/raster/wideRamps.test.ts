import { describe, expect, it } from 'vitest'
import { POINT_STRIDE } from '../document'
import { roundOutline } from '../document/testDocuments'
import { flattenOutline, homogeneousOutline, type HomogeneousOutline } from '../spline'
import { fastestFeather, rampAt, renderMattes, unionBoundary, type EdgeProfile } from './index'
import { MAPS, SIZE, wildOutline } from './testOutlines'

const HALF_A_LEVEL = 1 / 510
const box = { left: 0, top: 0, right: SIZE, bottom: SIZE }

/** The matte as it is rendered, by chords as few as its ramp allows. */
function rendered(outline: HomogeneousOutline, edge: EdgeProfile): Float32Array {
  const group = { edge, opacity: 1, outlinesAt: () => [outline] }
  const [alpha] = renderMattes({ parts: [{ id: 'one', holdsOut: false, groups: [group] }] }, [{ partId: 'one', withHoldouts: false }], { box, motionBlur: false })! // prettier-ignore
  return alpha!
}

/** By chords that are as good as the curve. */
function exact(outline: HomogeneousOutline, edge: EdgeProfile): Float32Array {
  const alpha = new Float32Array(SIZE * SIZE)
  const feather = fastestFeather()
  feather.begin(box)
  feather.add(unionBoundary([flattenOutline(outline, 1e-4)]), null, edge, 1)
  feather.finish({ box, alpha })
  return alpha
}

const worstOf = (a: Float32Array, b: ArrayLike<number>) =>
  a.reduce((worst, value, i) => Math.max(worst, Math.abs(value - b[i]!)), 0)

const EDGES: EdgeProfile[] = [
  { innerFeather: 20, outerFeather: 20, grow: 0 },
  { innerFeather: 10, outerFeather: 80, grow: 3 },
  { innerFeather: 60, outerFeather: 60, grow: -5, falloff: 'late' },
  // As steep as a falloff can be at one end.
  { innerFeather: 60, outerFeather: 60, grow: 0, falloff: [3, 0] },
]

describe('a ramp so wide that few chords do', () => {
  it('is that of the distance to a circle, averaged over the pixel (closed form), within half a level of eight bits', () => {
    const [x0, y0, radius] = [190.3, 187.8, 80]
    const outline = homogeneousOutline(roundOutline(13, radius, x0, y0), POINT_STRIDE, Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1)) // prettier-ignore
    for (const { innerFeather, outerFeather, grow, falloff } of EDGES) {
      const closed = Float64Array.from({ length: SIZE * SIZE }, (_, i) => {
        const distance = Math.hypot((i % SIZE) + 0.5 - x0, Math.floor(i / SIZE) + 0.5 - y0) - radius
        return rampAt(distance - grow, innerFeather, outerFeather, falloff)
      })
      expect(worstOf(rendered(outline, { innerFeather, outerFeather, grow, falloff }), closed)).toBeLessThanOrEqual(HALF_A_LEVEL) // prettier-ignore
    }
  })

  for (const [how, map] of Object.entries(MAPS)) {
    it(`is no further from that of as many chords as anybody wants, round a wild outline ${how}`, () => {
      const outline = homogeneousOutline(wildOutline(), POINT_STRIDE, Float64Array.from(map))
      for (const edge of EDGES) {
        expect(worstOf(rendered(outline, edge), exact(outline, edge))).toBeLessThanOrEqual(HALF_A_LEVEL)
      }
    })
  }
})
