import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { boundsOf, identity, multiply, signedArea, translation, type Box } from '../geometry'
import { flattenOutline, homogeneousOutline } from '../spline'
import { centredShutter, shutterTime } from '../timing'
import {
  CoverageAccumulator,
  fastestFeather,
  rampAt,
  renderMattes,
  unionBoundary,
  type BoundaryPieces,
  type EdgeProfile,
  type ScenePart,
} from './index'
import { largestDifference, numberBetween } from '../testing'

const box = { left: 0, top: 0, right: 40, bottom: 40 }

function coverage(polygons: Float64Array[], target = box): Float32Array {
  const accumulator = new CoverageAccumulator()
  accumulator.begin(target)
  accumulator.add(unionBoundary(polygons))
  const out = new Float32Array((target.right - target.left) * (target.bottom - target.top))
  accumulator.finish({ box: target, alpha: out })
  return out
}

/** Area of a convex or concave simple polygon inside one pixel: Sutherland & Hodgman clipping, then Green's theorem. */
function clippedArea(polygon: ArrayLike<number>, px: number, py: number): number {
  let points = Array.from(polygon)
  const planes: [number, number, number][] = [
    [1, 0, -px],
    [-1, 0, px + 1],
    [0, 1, -py],
    [0, -1, py + 1],
  ]
  for (const [a, b, c] of planes) {
    const next: number[] = []
    for (let i = 0; i < points.length; i += 2) {
      const j = (i + 2) % points.length
      const d0 = a * points[i]! + b * points[i + 1]! + c
      const d1 = a * points[j]! + b * points[j + 1]! + c
      if (d0 >= 0) next.push(points[i]!, points[i + 1]!)
      if (d0 >= 0 !== d1 >= 0) {
        const t = d0 / (d0 - d1)
        next.push(points[i]! + t * (points[j]! - points[i]!), points[i + 1]! + t * (points[j + 1]! - points[i + 1]!))
      }
    }
    points = next
  }
  return points.length ? Math.abs(signedArea(points)) : 0
}

const ROWS = 64

/** Share of a pixel that a polygon winds round: lengths between its crossings, exact along each of many rows. */
function woundShare(polygon: Float64Array, px: number, py: number): number {
  let sum = 0
  for (let row = 0; row < ROWS; row++) {
    const y = py + (row + 0.5) / ROWS
    const crossings: [x: number, way: number][] = []
    for (let i = 0; i < polygon.length; i += 2) {
      const j = (i + 2) % polygon.length
      const [y0, y1] = [polygon[i + 1]!, polygon[j + 1]!]
      if (y0 <= y === y1 <= y) continue
      crossings.push([polygon[i]! + ((y - y0) / (y1 - y0)) * (polygon[j]! - polygon[i]!), y1 > y0 ? 1 : -1])
    }
    crossings.sort((a, b) => a[0] - b[0])
    let winding = 0
    crossings.forEach(([x, way], n) => {
      winding += way
      if (winding === 0 || n + 1 === crossings.length) return
      sum += Math.max(0, Math.min(px + 1, crossings[n + 1]![0]) - Math.max(px, x)) / ROWS
    })
  }
  return sum
}

const inside = numberBetween(-8, 48)

describe('coverage', () => {
  it('equals the polygon clipped to each pixel, for any triangle', () => {
    fc.assert(
      fc.property(fc.array(inside, { minLength: 6, maxLength: 6 }), (points) => {
        const polygon = Float64Array.from(points)
        const expected = Float64Array.from({ length: 1600 }, (_, i) => clippedArea(polygon, i % 40, Math.floor(i / 40)))
        expect(largestDifference(coverage([polygon]), expected)).toBeLessThan(5e-4)
      }),
      { numRuns: 60 },
    )
  })

  it('resolves outlines that cross themselves: covered is what they wind round, row by row', () => {
    fc.assert(
      fc.property(fc.array(inside, { minLength: 10, maxLength: 14 }), (points) => {
        if (points.length % 2) points.pop()
        const polygon = Float64Array.from(points)
        const expected = Float64Array.from({ length: 1600 }, (_, i) => woundShare(polygon, i % 40, Math.floor(i / 40)))
        // Rows are a 64th apart, and each edge may begin, end or lie level between two of them.
        const owed = (points.length / 2 + 1) / ROWS
        expect(largestDifference(coverage([polygon]), expected)).toBeLessThan(owed)
      }),
      { numRuns: 25 },
    )
  })

  it('two shapes that abut leave no line; two that overlap inside one pixel are not counted twice', () => {
    const left = Float64Array.of(5, 5, 20.3, 5, 20.3, 35, 5, 35)
    const right = Float64Array.of(20.3, 5, 35, 5, 35, 35, 20.3, 35)
    expect(coverage([left, right])[10 * 40 + 20]).toBeCloseTo(1, 6)
    const other = Float64Array.of(20.1, 5, 20.6, 5, 20.6, 35, 20.1, 35)
    expect(coverage([left, other])[10 * 40 + 20]).toBeCloseTo(0.6, 6)
  })

  it('a double ring wound the same way stays full', () => {
    const ring = Float64Array.of(5, 5, 35, 5, 35, 35, 5, 35)
    const inner = Float64Array.of(10, 10, 30, 10, 30, 30, 10, 30)
    const out = coverage([ring, inner])
    expect(out[20 * 40 + 20]).toBeCloseTo(1, 6)
    expect(out[10 * 40 + 10]).toBeCloseTo(1, 6)
  })

  it('the area of a circle is pi r^2 (closed form), a thin sliver keeps its area', () => {
    const circle = new Float64Array(2 * 720)
    for (let i = 0; i < 720; i++) {
      circle[2 * i] = 20.3 + 12 * Math.cos((i * Math.PI) / 360)
      circle[2 * i + 1] = 19.8 + 12 * Math.sin((i * Math.PI) / 360)
    }
    expect(coverage([circle]).reduce((a, b) => a + b)).toBeCloseTo(Math.PI * 144, 1)
    const sliver = Float64Array.of(3, 3, 37, 20, 37, 20.02)
    expect(coverage([sliver]).reduce((a, b) => a + b)).toBeCloseTo(0.34, 3)
  })
})

describe('edges that are all but level or upright', () => {
  it('neither overflow nor lose area', () => {
    const level = Float64Array.of(5, 10, 30, 10 + 1e-300, 30, 20, 5, 20 - 1e-12)
    const crossing = Float64Array.of(2, 15, 38, 15 + 4e-320, 20, 30, 18, 2)
    const upright = Float64Array.of(-5e-324, 3, 20, 8, 5e-324, 30)
    for (const polygons of [[level], [crossing], [upright], [level, crossing, upright]]) {
      expect(coverage(polygons).every(Number.isFinite)).toBe(true)
    }
    expect(coverage([level]).reduce((a, b) => a + b)).toBeCloseTo(250, 3)
  })
})

function softAlpha(pieces: BoundaryPieces, whole: Float32Array, box: Box, edge: EdgeProfile): Float32Array {
  const out = new Float32Array(whole.length)
  fastestFeather().begin(box)
  fastestFeather().add(pieces, whole, edge, 1)
  fastestFeather().finish({ box, alpha: out })
  return out
}

describe('an accumulator that broke off', () => {
  it('begins with nothing of what it was given', () => {
    const accumulator = new CoverageAccumulator()
    accumulator.begin(box)
    accumulator.add(unionBoundary([Float64Array.of(3, 3, 20, 4, 9, 30)]))
    const alpha = new Float32Array(40 * 40).fill(1)
    accumulator.begin(box)
    accumulator.finish({ box, alpha })
    expect(Math.max(...alpha)).toBe(0)
  })
})

describe('feather by distance', () => {
  const square = Float64Array.of(10.3, 10.2, 30.4, 10.2, 30.4, 29.7, 10.3, 29.7)

  function feathered(edge: EdgeProfile): Float32Array {
    const pieces = unionBoundary([square])
    return softAlpha(pieces, coverage([square]), box, edge)
  }

  it('a width that goes to nothing gives the exact coverage within 1/255', () => {
    const exact = coverage([square])
    const thin = feathered({ innerFeather: 0, outerFeather: 1e-3, grow: 0 })
    expect(largestDifference(thin, exact)).toBeLessThan(1 / 255)
  })

  it('falls steadily with distance, and 1 - alpha of the mirrored widths is the same ramp', () => {
    for (const [inner, outer] of [
      [4, 0],
      [0, 6],
      [3, 5],
    ] as const) {
      for (let d = -10; d < 10; d += 0.1) {
        expect(rampAt(d, inner, outer)).toBeGreaterThanOrEqual(rampAt(d + 0.1, inner, outer) - 1e-12)
        expect(rampAt(d, inner, outer)).toBeCloseTo(1 - rampAt(-d, outer, inner), 10)
      }
    }
  })

  it('grow moves a straight edge by its pixels', () => {
    const grown = feathered({ innerFeather: 0, outerFeather: 0, grow: 2 })
    const row = 20 * 40
    // The right edge at 30.4 moves to 32.4: pixel 32 is covered by 0.4.
    expect(grown[row + 31]).toBeCloseTo(1, 5)
    expect(grown[row + 32]).toBeCloseTo(0.4, 5)
    expect(grown[row + 33]).toBeCloseTo(0, 5)
  })
})

/** Square with straight tangents, moving with `velocity` px a frame in x, at mid-exposure where its points are. */
function movingSquare(id: string, x0: number, x1: number, velocity: number, holdsOut: boolean): ScenePart {
  const corners = [x0, 5, x1, 5, x1, 35, x0, 35]
  const points = new Float64Array(40)
  for (let i = 0; i < 4; i++) points.set(corners.slice(2 * i, 2 * i + 2), i * 10)
  const shutter = centredShutter(180)
  const outlinesAt = (u: number) => [
    homogeneousOutline(points, 10, multiply(translation(velocity * shutterTime(0, shutter, u), 0), identity())),
  ]
  return { id, holdsOut, groups: [{ edge: { innerFeather: 0, outerFeather: 0, grow: 0 }, opacity: 1, outlinesAt }] }
}

describe('strips', () => {
  it('show no seam: a picture of many strips equals the same shape in one buffer, plain and feathered', () => {
    const wide = { left: 0, top: 0, right: 600, bottom: 540 }
    const points = new Float64Array(40)
    ;[30.3, 20.4, 570.2, 90.7, 540.9, 515.1, 60.6, 500.8].forEach(
      (value, i) => (points[(i >> 1) * 10 + (i & 1)] = value),
    )
    const outline = homogeneousOutline(points, 10, identity())
    const pieces = unionBoundary([flattenOutline(outline)])
    const whole = coverage([flattenOutline(outline)], wide)
    for (const edge of [
      { innerFeather: 0, outerFeather: 0, grow: 0 },
      { innerFeather: 6, outerFeather: 9, grow: 1 },
    ]) {
      const expected = edge.outerFeather ? softAlpha(pieces, whole, wide, edge) : whole
      const part = { id: 'a', holdsOut: false, groups: [{ edge, opacity: 1, outlinesAt: () => [outline] }] }
      const options = { box: wide, motionBlur: false }
      const [alpha] = renderMattes({ parts: [part] }, [{ partId: 'a', withHoldouts: false }], options)!
      let worst = 0
      for (let i = 0; i < expected.length; i++) worst = Math.max(worst, Math.abs(alpha![i]! - expected[i]!))
      expect(worst).toBeLessThan(1e-5)
    }
  })
})

describe('motion blur', () => {
  it('an edge at v px/frame and shutter angle a gives a linear ramp of v a / 360 px, centred on the edge', () => {
    const velocity = 16
    const [alpha] = renderMattes(
      { parts: [movingSquare('a', 20, 60, velocity, true)] },
      [{ partId: 'a', withHoldouts: false }],
      {
        box,
        motionBlur: true,
      },
    )!
    const row = alpha!.subarray(20 * 40, 21 * 40)
    const rampStart = 20 - velocity / 4
    for (let x = 0; x < 40; x++) {
      const expected = Math.min(1, Math.max(0, (x + 0.5 - rampStart) / 8))
      expect(Math.abs(row[x]! - expected)).toBeLessThan(0.02)
    }
    // Signed boundary bias: the area tells where the half level lies.
    const edge = 40 - row.reduce((a, b) => a + b)
    expect(Math.abs(edge - 20)).toBeLessThan(0.02)
  })

  it('occlusion is resolved in each sub-time: Parts that move together and abut add up to one', () => {
    const scene = { parts: [movingSquare('front', 20, 60, 16, true), movingSquare('behind', -20, 60, 16, false)] }
    const [front, behind] = renderMattes(
      scene,
      [
        { partId: 'front', withHoldouts: true },
        { partId: 'behind', withHoldouts: true },
      ],
      { box, motionBlur: true },
    )!
    for (let x = 0; x < 40; x++) expect(front![800 + x]! + behind![800 + x]!).toBeCloseTo(1, 5)
  })

  it('the box of a polygon bounds what it covers', () => {
    expect(boundsOf([3, 4, 10, 1, 5, 9])).toEqual({ left: 3, top: 1, right: 10, bottom: 9 })
  })
})
