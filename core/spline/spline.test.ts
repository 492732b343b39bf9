import { Bezier } from 'bezier-js'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { identity, windingNumber } from '../geometry'
import {
  cubicLength,
  cubicPoint,
  fitClosedStroke,
  flattenOutline,
  homogeneousOutline,
  leastSquaresCubic,
  nearestOnCubic,
  splitCubic,
} from './index'
import { numberBetween } from '../testing/numberBetween'

const coordinate = numberBetween(-500, 500)
const arbitraryCubic = fc.array(coordinate, { minLength: 8, maxLength: 8 })

describe('cubic segments', () => {
  it('least squares at the parameters of its own samples gives the cubic back', () => {
    const cubic = [10, 20, 30, 5, 80, 90, 120, 40]
    const parameters = Array.from({ length: 12 }, (_, i) => (i / 11) ** 1.3)
    const samples = parameters.flatMap((t) => Array.from(cubicPoint(cubic, t)))
    const direction = (x: number, y: number): [number, number] => [x / Math.hypot(x, y), y / Math.hypot(x, y)]
    const found = leastSquaresCubic(samples, parameters, direction(20, -15), direction(-40, 50), 1)
    cubic.forEach((value, i) => expect(found[i]).toBeCloseTo(value, 8))
  })

  it('subdivision gives the same curve (de Casteljau)', () => {
    fc.assert(
      fc.property(arbitraryCubic, numberBetween(0.01, 0.99), (c, t) => {
        const halves = splitCubic(c, t)
        for (const u of [0, 0.25, 0.7, 1]) {
          const first = cubicPoint(halves.subarray(0, 8), u)
          const whole = cubicPoint(c, u * t)
          expect(Math.hypot(first[0]! - whole[0]!, first[1]! - whole[1]!)).toBeLessThan(1e-9)
        }
      }),
    )
  })

  it('length and nearest point agree with bezier-js', () => {
    const c = [0, 0, 40, 120, 160, -60, 200, 80]
    const reference = new Bezier(c)
    expect(cubicLength(c)).toBeCloseTo(reference.length(), 3)
    for (const [x, y] of [
      [50, 90],
      [120, 0],
      [150, 20],
    ] as const) {
      expect(nearestOnCubic(c, x, y).distance).toBeLessThanOrEqual(reference.project({ x, y }).d! + 1e-6)
    }
  })
})

/** Circle of four cubics: the handle length is the known 4/3 tan(pi/8). */
function circlePoints(cx: number, cy: number, r: number): Float64Array {
  const k = (4 / 3) * Math.tan(Math.PI / 8) * r
  const rows = [
    [cx + r, cy, 0, -k, 0, k],
    [cx, cy + r, k, 0, -k, 0],
    [cx - r, cy, 0, k, 0, -k],
    [cx, cy - r, -k, 0, k, 0],
  ]
  return Float64Array.from(rows.flatMap((row) => [...row, 0, 0, 0, 0]))
}

/** So many cubics that they are the circle itself to a millionth of its radius (Goldapp 1991). */
function circleOfMany(cx: number, cy: number, r: number): Float64Array {
  const count = 16
  const k = (4 / 3) * Math.tan(Math.PI / (2 * count)) * r
  return Float64Array.from(
    Array.from({ length: count }, (_, i) => {
      const [c, s] = [Math.cos((2 * Math.PI * i) / count), Math.sin((2 * Math.PI * i) / count)]
      return [cx + r * c, cy + r * s, k * s, -k * c, -k * s, k * c, 0, 0, 0, 0]
    }).flat(),
  )
}

describe('outlines under a homography', () => {
  const tilted = Float64Array.of(1.1, 0.1, 20, -0.05, 0.9, 10, 8e-4, 5e-4, 0.7)

  it('are the mapped points of the plane curve, within the flattening tolerance', () => {
    const plane = flattenOutline(homogeneousOutline(circlePoints(300, 300, 120), 10, identity()), 1e-4)
    const mapped = flattenOutline(homogeneousOutline(circlePoints(300, 300, 120), 10, tilted), 0.02)
    let worst = 0
    for (let i = 0; i < plane.length; i += 2) {
      const w = tilted[6]! * plane[i]! + tilted[7]! * plane[i + 1]! + tilted[8]!
      const x = (tilted[0]! * plane[i]! + tilted[1]! * plane[i + 1]! + tilted[2]!) / w
      const y = (tilted[3]! * plane[i]! + tilted[4]! * plane[i + 1]! + tilted[5]!) / w
      let nearest = Infinity
      for (let j = 0; j < mapped.length; j += 2) {
        const k = (j + 2) % mapped.length
        const dx = mapped[k]! - mapped[j]!
        const dy = mapped[k + 1]! - mapped[j + 1]!
        const t = Math.min(1, Math.max(0, ((x - mapped[j]!) * dx + (y - mapped[j + 1]!) * dy) / (dx * dx + dy * dy)))
        nearest = Math.min(nearest, Math.hypot(x - mapped[j]! - t * dx, y - mapped[j + 1]! - t * dy))
      }
      worst = Math.max(worst, nearest)
    }
    expect(worst).toBeLessThan(0.021)
  })

  it('mapping only the control points would be off, so the rational form is needed', () => {
    const outline = homogeneousOutline(circlePoints(300, 300, 120), 10, tilted)
    const projected = Float64Array.from(outline)
    for (let i = 0; i < projected.length; i += 3) {
      projected[i]! /= projected[i + 2]!
      projected[i + 1]! /= projected[i + 2]!
      projected[i + 2] = 1
    }
    const right = flattenOutline(outline)
    const wrong = flattenOutline(projected)
    let worst = 0
    for (let i = 0; i < wrong.length; i += 2) {
      let nearest = Infinity
      for (let j = 0; j < right.length; j += 2) {
        nearest = Math.min(nearest, Math.hypot(wrong[i]! - right[j]!, wrong[i + 1]! - right[j + 1]!))
      }
      worst = Math.max(worst, nearest)
    }
    expect(worst).toBeGreaterThan(0.4)
  })

  it('chords lie as far outside of a circle as inside: no farther than three quarters of the tolerance, and the area is kept', () => {
    for (const tolerance of [0.02, 0.005]) {
      const radius = 90
      const polygon = flattenOutline(homogeneousOutline(circleOfMany(300, 300, radius), 10, identity()), tolerance)
      let [area, most] = [0, 0]
      for (let i = 0; i < polygon.length; i += 2) {
        const [x0, y0] = [polygon[i]! - 300, polygon[i + 1]! - 300]
        const [x1, y1] = [polygon[(i + 2) % polygon.length]! - 300, polygon[(i + 3) % polygon.length]! - 300]
        area += (x0 * y1 - x1 * y0) / 2
        for (const [x, y] of [[x0, y0], [(x0 + x1) / 2, (y0 + y1) / 2]]) most = Math.max(most, Math.abs(Math.hypot(x!, y!) - radius)) // prettier-ignore
      }
      expect(most).toBeLessThan(0.75 * tolerance + 1e-5)
      expect(most).toBeGreaterThan(0.1 * tolerance)
      const shift = (Math.abs(area) - Math.PI * radius ** 2) / (2 * Math.PI * radius)
      expect(Math.abs(shift)).toBeLessThan(0.25 * tolerance)
    }
  })

  it('no point of any outline is farther than 0.02 px from its flattened polygon, kinks and loops included', () => {
    const coordinate = numberBetween(-80, 80)
    fc.assert(
      fc.property(fc.array(coordinate, { minLength: 12, maxLength: 12 }), fc.boolean(), (numbers, isTilted) => {
        const points = new Float64Array(20)
        points.set(numbers.slice(0, 6), 0)
        points.set(numbers.slice(6), 10)
        const outline = homogeneousOutline(points, 10, isTilted ? tilted : identity())
        const polygon = flattenOutline(outline)
        for (let segment = 0; segment < 2; segment++) {
          const next = ((segment + 1) % 2) * 9
          const [p0, p1, p2, p3] = [segment * 9, segment * 9 + 3, segment * 9 + 6, next]
          for (let t = 0; t <= 1; t += 1 / 64) {
            const s = 1 - t
            const mix = (k: number) =>
              s ** 3 * outline[p0! + k]! +
              3 * s * s * t * outline[p1! + k]! +
              3 * s * t * t * outline[p2! + k]! +
              t ** 3 * outline[p3! + k]!
            const [x, y] = [mix(0) / mix(2), mix(1) / mix(2)]
            let nearest = Infinity
            for (let i = 0; i < polygon.length; i += 2) {
              const j = (i + 2) % polygon.length
              nearest = Math.min(
                nearest,
                distanceToSegment(x, y, polygon[i]!, polygon[i + 1]!, polygon[j]!, polygon[j + 1]!),
              )
            }
            expect(nearest).toBeLessThan(0.0201)
          }
        }
      }),
      { numRuns: 60 },
    )
  })

  it('pieces behind the vanishing line are left out and everything stays finite', () => {
    const beyond = Float64Array.of(1, 0, 0, 0, 1, 0, -0.004, 0, 1)
    const polygon = flattenOutline(homogeneousOutline(circlePoints(250, 100, 90), 10, beyond))
    expect(polygon.every(Number.isFinite)).toBe(true)
  })
})

describe('freehand fitting (Schneider, Graphics Gems 1990)', () => {
  it('turns a noisy circle of 200 samples into few segments within the tolerance', () => {
    const stroke: number[] = []
    for (let i = 0; i < 200; i++) {
      const a = (i / 200) * 2 * Math.PI
      const wobble = Math.sin(i * 12.9898) * 0.4
      stroke.push(300 + (100 + wobble) * Math.cos(a), 200 + (100 + wobble) * Math.sin(a))
    }
    const { segments, corners } = fitClosedStroke(stroke, 1.5)
    expect(segments.length).toBeLessThanOrEqual(8)
    expect(corners.some(Boolean)).toBe(false)
    segments.forEach((s, i) => {
      const next = segments[(i + 1) % segments.length]!
      expect(Math.hypot(s[6]! - next[0]!, s[7]! - next[1]!)).toBeLessThan(1e-9)
      for (const u of [0.25, 0.5, 0.75]) {
        const [x, y] = cubicPoint(s, u)
        expect(Math.abs(Math.hypot(x! - 300, y! - 200) - 100)).toBeLessThan(2.2)
      }
    })
  })

  it('finds the four corners of a drawn square', () => {
    const stroke: number[] = []
    for (const [x0, y0, x1, y1] of [
      [0, 0, 100, 0],
      [100, 0, 100, 100],
      [100, 100, 0, 100],
      [0, 100, 0, 0],
    ] as const) {
      for (let i = 0; i < 25; i++) stroke.push(x0 + ((x1 - x0) * i) / 25, y0 + ((y1 - y0) * i) / 25)
    }
    const { segments, corners } = fitClosedStroke(stroke, 1)
    expect(segments).toHaveLength(4)
    expect(corners).toEqual([true, true, true, true])
    const polygon = segments.flatMap((s) => [s[0]!, s[1]!])
    expect(windingNumber(polygon, 50, 50)).not.toBe(0)
  })
})

describe('a freehand stroke of a fast hand', () => {
  const corner = fc.tuple(numberBetween(40, 160), numberBetween(0, 0.8))
  const TOLERANCE = 1

  it('is followed between its samples as well, however far they lie apart', () => {
    fc.assert(
      fc.property(fc.array(corner, { minLength: 4, maxLength: 24 }), (corners) => {
        // A star round the middle, so that it does not cross itself.
        const stroke = corners.flatMap(([radius, share], i) => {
          const angle = (2 * Math.PI * (i + share)) / corners.length
          return [200 + radius * Math.cos(angle), 200 + radius * Math.sin(angle)]
        })
        const { segments } = fitClosedStroke(stroke, TOLERANCE)
        for (const segment of segments) {
          for (let u = 0; u <= 1; u += 0.05) {
            const [x, y] = cubicPoint(segment, u)
            const away = Math.min(...corners.map((_, i) => {
              const [a, b] = [2 * i, 2 * ((i + 1) % corners.length)]
              return distanceToSegment(x!, y!, stroke[a]!, stroke[a + 1]!, stroke[b]!, stroke[b + 1]!)
            })) // prettier-ignore
            expect(away).toBeLessThan(2 * TOLERANCE)
          }
        }
      }),
    )
  })
})

/** Distance in the plane from (x, y) to the segment (ax, ay) - (bx, by). */
function distanceToSegment(x: number, y: number, ax: number, ay: number, bx: number, by: number): number {
  const dx = bx - ax
  const dy = by - ay
  const lengthSquared = dx * dx + dy * dy
  let t = lengthSquared > 0 ? ((x - ax) * dx + (y - ay) * dy) / lengthSquared : 0
  t = t < 0 ? 0 : t > 1 ? 1 : t
  return Math.hypot(x - ax - t * dx, y - ay - t * dy)
}
