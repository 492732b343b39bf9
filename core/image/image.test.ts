import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { windingNumber } from '../geometry'
import {
  blurred,
  cornerStrength,
  gradientSquares,
  grainOf,
  grownMask,
  halfWidthAcross,
  halvedMask,
  localContrast,
  polygonMask,
  sharpened,
  type LumaImage,
} from './index'
import { numberBetween } from '../testing/numberBetween'

const box = { left: 10, top: 5, width: 40, height: 30 }

const arbitraryPolygon = fc
  .array(fc.tuple(numberBetween(0, 60), numberBetween(0, 40)), {
    minLength: 3,
    maxLength: 9,
  })
  .map((points) => points.flat())

const pictureOf = (valueAt: (x: number, y: number) => number, width = 60, height = 50) => ({
  left: 0,
  top: 0,
  width,
  height,
  data: Float32Array.from({ length: width * height }, (_, i) => valueAt(i % width, Math.floor(i / width))),
})

/** Chance between -0.5 and 0.5 from a fixed seed (Park & Miller 1988). */
function chance(seed: number) {
  let state = seed * 7919 + 1
  return () => (state = (state * 48271) % 2147483647) / 2147483647 - 0.5
}

describe('masks of polygons', () => {
  it('hold the pixels whose centre has a winding number, for any polygon', () => {
    fc.assert(
      fc.property(arbitraryPolygon, arbitraryPolygon, (a, b) => {
        const any = polygonMask([a, b], box, 'any')
        const evenOdd = polygonMask([a, b], box, 'even-odd')
        let wrong = 0
        for (let y = 0; y < box.height; y++) {
          for (let x = 0; x < box.width; x++) {
            const [px, py] = [box.left + x + 0.5, box.top + y + 0.5]
            const inA = windingNumber(a, px, py)
            const inB = windingNumber(b, px, py)
            if ((any.data[y * box.width + x] === 1) !== (inA !== 0 || inB !== 0)) wrong++
            if ((evenOdd.data[y * box.width + x] === 1) !== ((inA + inB) % 2 !== 0)) wrong++
          }
        }
        expect(wrong).toBe(0)
      }),
      { endOnFailure: true },
    )
  })

  it('an outline within another is a hole; halving loses nothing that hides; growing goes by squares', () => {
    const outer = [12, 8, 40, 8, 40, 30, 12, 30]
    const inner = [20, 14, 30, 14, 30, 24, 20, 24]
    const ring = polygonMask([outer, inner], box, 'even-odd')
    expect(ring.data.reduce((sum, v) => sum + v, 0)).toBe(28 * 22 - 10 * 10)
    const speck = { width: 8, height: 6, data: new Uint8Array(48) }
    speck.data[3 * 8 + 5] = 1
    expect(halvedMask(speck).data[1 * 4 + 2]).toBe(1)
    expect(grownMask(speck, 1).data.reduce((sum, v) => sum + v, 0)).toBe(9)
    expect(grownMask(speck, 1).data[2 * 8 + 4]).toBe(1)
  })
})

describe('filters', () => {
  it('a blur keeps slopes as they are and takes the variance out of grain as its kernel says', () => {
    const slope = pictureOf((x, y) => 0.1 + 0.004 * x + 0.002 * y)
    const soft = blurred(slope, 1.5)
    expect(soft.data[25 * 60 + 30]).toBeCloseTo(slope.data[25 * 60 + 30]!, 6)
    const random = chance(3)
    const grain = pictureOf(() => random(), 200, 150)
    const variance = (data: Float32Array) => data.reduce((sum, v) => sum + v * v, 0) / data.length
    // Sum of the squared weights of a Gaussian in the plane: 1 / (4 pi sigma^2).
    const kept = variance(blurred(grain, 2).data) / variance(grain.data)
    expect(kept / (1 / (4 * Math.PI * 4))).toBeCloseTo(1, 1)
  })

  it('sharpening leaves flat and slope, and steepens an edge', () => {
    const edge = blurred(
      pictureOf((x) => (x < 30 ? 0.2 : 0.8)),
      2,
    )
    const sharp = sharpened(edge, 1)
    const step = (data: Float32Array) => data[25 * 60 + 30]! - data[25 * 60 + 29]!
    // A Gaussian edge is as steep as 1 / sigma; sharpening adds the edge and takes its blur by 1.2 more away.
    expect(step(sharp.data) / step(edge.data)).toBeCloseTo(2 - 2 / Math.hypot(2, 1.2), 1)
    expect(sharp.data[25 * 60 + 5]).toBeCloseTo(0.2, 5)
  })

  it('even contrast makes a dim half and a bright half alike', () => {
    const random = chance(9)
    const texture = pictureOf(() => random(), 120, 60)
    const lit = { ...texture, data: texture.data.map((v, i) => (i % 120 < 60 ? 0.1 + 0.1 * v : 0.6 + 0.5 * v)) }
    const even = localContrast(lit)
    const spread = (from: number, to: number) => {
      const values = Array.from(even.data).filter((_, i) => i % 120 >= from && i % 120 < to)
      const mean = values.reduce((a, b) => a + b) / values.length
      return Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length)
    }
    expect(spread(5, 25) / spread(95, 115)).toBeCloseTo(1, 1)
  })
})

describe('structure', () => {
  it('knows flat, edge and corner apart (Shi & Tomasi 1994)', () => {
    const image = blurred(
      pictureOf((x, y) => (x < 30 && y < 25 ? 0.8 : 0.2)),
      1,
    )
    const [edge, corner] = [gradientSquares(image), cornerStrength(image)]
    const at = (x: number, y: number) => y * 60 + x
    expect(edge[at(30, 10)]).toBeGreaterThan(0.005)
    expect(corner[at(30, 10)]).toBeLessThan(0.02 * corner[at(29, 24)]!)
    expect(edge[at(50, 40)]).toBe(0)
  })

  it('tells the grain of a picture, whatever slopes and steps it has (Immerkær 1996)', () => {
    const random = chance(21)
    const sigma = 0.02
    const normal = () => sigma * (random() + random() + random() + random()) * Math.sqrt(3)
    const image = pictureOf((x, y) => 0.2 + 0.003 * x + (y > 60 ? 0.3 : 0) + normal(), 160, 120)
    expect(grainOf(image) / sigma).toBeCloseTo(1, 1)
  })
})

describe('the width of what lies across a place', () => {
  /** A bar through (60, 50), turned, bright over a dark ground, with edges as soft as a lens makes them. */
  const barOf = (angle: number, half: number, shift = 0): LumaImage => {
    const [width, height] = [120, 100]
    const [nx, ny] = [Math.cos(angle), Math.sin(angle)]
    const data = Float32Array.from({ length: width * height }, (_, at) => {
      const across = ((at % width) + 0.5 - 60) * nx + (Math.floor(at / width) + 0.5 - 50) * ny - shift
      return 0.2 + 0.5 / (1 + Math.exp((Math.abs(across) - half) / 0.6))
    })
    return { left: 0, top: 0, width, height, data }
  }

  it('is the distance of its edges, at any angle, within a pixel; the mean where the place is not in the middle', () => {
    for (const angle of [0, 0.4, Math.PI / 2, 2.2]) {
      const across = [Math.cos(angle), Math.sin(angle)] as const
      expect(Math.abs(halfWidthAcross(barOf(angle, 18), [60, 50], across, 12)! - 18)).toBeLessThan(1)
      expect(Math.abs(halfWidthAcross(barOf(angle, 18, 3), [60, 50], across, 12)! - 18)).toBeLessThan(1)
    }
  })

  it('is not told where an edge is missing, out of the picture, or much nearer on one side', () => {
    const flat = { ...barOf(0, 18), data: new Float32Array(120 * 100).fill(0.4) }
    expect(halfWidthAcross(flat, [60, 50], [1, 0], 12)).toBeNull()
    expect(halfWidthAcross(barOf(0, 18), [4, 50], [1, 0], 12)).toBeNull()
    expect(halfWidthAcross(barOf(0, 18, 12), [60, 50], [1, 0], 12)).toBeNull()
  })
})
