import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Box } from '../../geometry'
import { outlineOfPolygon } from '../../spline'
import { numberBetween } from '../../testing'
import { identity } from '../../geometry'
import { CoverageAccumulator } from '../accumulate'
import { followingPieces, unionBoundary } from '../union'
import { rampAt, type EdgeProfile, type Falloff } from './edgeProfile'
import { insideOfCentres } from './insideOfCentres'
import { STEEPEST_RISE, widePieces } from './widePieces'
import { PlainFeather } from './plainFeather'
import { widePolygon, type WidePolygon } from './widePolygon'
import { variedFeather } from './variedFeather'

const SIZE = 72
const BOX: Box = { left: 0, top: 0, right: SIZE, bottom: SIZE }
const HARD: EdgeProfile = { innerFeather: 0, outerFeather: 0, grow: 0 }

/** A polygon whose corners are points of an outline with straight sides. */
const wide = (polygon: number[], widths: number[], edge = HARD): WidePolygon =>
  widePolygon(
    { outline: outlineOfPolygon(Float64Array.from(polygon), identity()), pointWidths: Float64Array.from(widths) },
    edge,
  )

function coverageOf(pieces: Float64Array): Float32Array {
  const accumulator = new CoverageAccumulator()
  accumulator.begin(BOX)
  accumulator.add(pieces)
  const alpha = new Float32Array(SIZE * SIZE)
  accumulator.finish({ box: BOX, alpha })
  return alpha
}

function variedMatte(polygons: WidePolygon[], edge: Pick<EdgeProfile, 'grow' | 'falloff'> = HARD): Float32Array {
  const pieces = unionBoundary(polygons.map(({ polygon }) => polygon))
  const out = new Float32Array(SIZE * SIZE)
  variedFeather(widePieces(pieces, polygons), coverageOf(pieces), edge, BOX, out)
  return out
}

/**
 * The definition, place by place, a fiftieth of a pixel apart: of the places of a piece the one whose ramp is highest, of the pieces the one that
 * gives most outside, least inside. The outlines that it is asked of are nowhere hard.
 */
function sampledMatte(polygons: WidePolygon[], { grow, falloff }: Pick<EdgeProfile, 'grow' | 'falloff'>): Float32Array {
  const boundary = unionBoundary(polygons.map(({ polygon }) => polygon))
  const { pieces, widths } = widePieces(boundary, polygons)
  const isInside = insideOfCentres(pieces, BOX)
  const out = Float32Array.from(isInside)
  for (let i = 0; i < pieces.length; i += 4) {
    const steps = Math.ceil(50 * Math.hypot(pieces[i + 2]! - pieces[i]!, pieces[i + 3]! - pieces[i + 1]!))
    const at = (values: Float64Array, n: number, k: number) => values[i + n]! + ((values[i + 2 + n]! - values[i + n]!) * k) / steps // prettier-ignore
    const along = (values: Float64Array, n: number) => Float64Array.from({ length: steps + 1 }, (_, k) => at(values, n, k)) // prettier-ignore
    const [qx, qy, inners, outers] = [along(pieces, 0), along(pieces, 1), along(widths, 0), along(widths, 1)]
    const reach = 17
    const [left, right] = [Math.min(pieces[i]!, pieces[i + 2]!) - reach, Math.max(pieces[i]!, pieces[i + 2]!) + reach]
    const [top, bottom] = [
      Math.min(pieces[i + 1]!, pieces[i + 3]!) - reach,
      Math.max(pieces[i + 1]!, pieces[i + 3]!) + reach,
    ]
    isInside.forEach((inside, pixel) => {
      const [x, y] = [(pixel % SIZE) + 0.5, Math.floor(pixel / SIZE) + 0.5]
      if (x < left || x > right || y < top || y > bottom) return
      let [best, alpha] = [0, inside as number]
      // Plain loops over plain numbers: these are hundreds of millions.
      for (let k = 0; k <= steps; k++) {
        const [dx, dy] = [x - qx[k]!, y - qy[k]!]
        const distance = Math.sqrt(dx * dx + dy * dy)
        const [inner, outer] = [inners[k]!, outers[k]!]
        const share = ((inside ? inner - grow : outer + grow) + 0.5 - distance) / (inner + outer + 1)
        if (share <= best) continue
        best = share
        alpha = Math.min(1, Math.max(0, rampAt((inside ? -distance : distance) - grow, inner, outer, falloff)))
      }
      out[pixel] = inside ? Math.min(out[pixel]!, alpha) : Math.max(out[pixel]!, alpha)
    })
  }
  return out
}

function worst(a: Float32Array, b: (x: number, y: number) => number): number {
  let largest = 0
  for (let y = 0; y < SIZE; y++) {
    for (let x = 0; x < SIZE; x++) largest = Math.max(largest, Math.abs(a[y * SIZE + x]! - b(x, y)))
  }
  return largest
}

const SQUARE = [20, 20, 52, 20, 52, 52, 20, 52]
/** Leans at an odd angle, has a sharp corner and a hollow one. */
const ARROW = [12.3, 20.1, 58.7, 33.4, 17.2, 55.8, 27.5, 36.6]

const polygons = fc.array(fc.tuple(numberBetween(10, 62), numberBetween(10, 62)), { minLength: 3, maxLength: 6 })
const someWidths = fc.array(numberBetween(1, 14), { minLength: 12, maxLength: 12 })
const falloffs = fc.constantFrom<Falloff>('smooth', 'linear', 'early', 'late', [0.3, 1.7])

/** As wide inside as outside: where two stretches differ in that, each has its own alpha on its line, and a pixel's centre may lie on either side. */
const evenly = (widths: readonly number[]) => widths.flatMap((width) => [width, width])

describe('an edge whose width varies along the outline', () => {
  it('is the highest of the ramps of all its places', () => {
    fc.assert(
      fc.property(polygons, someWidths, numberBetween(-2, 2), falloffs, (places, widths, grow, falloff) => {
        const polygon = wide(places.flat(), widths.slice(0, 2 * places.length))
        const expected = sampledMatte([polygon], { grow, falloff })
        const found = variedMatte([polygon], { grow, falloff })
        // Places a fiftieth of a pixel apart miss the highest by little: the steepest ramp is one of a pixel's width.
        expect(worst(found, (x, y) => expected[y * SIZE + x]!)).toBeLessThan(2 / 255)
      }),
      { numRuns: 12, seed: 17, endOnFailure: true },
    )
  })

  it('of equal widths is that of one width', () => {
    fc.assert(
      fc.property(polygons, numberBetween(0, 12), numberBetween(0, 12), numberBetween(-3, 3), falloffs, (places, innerFeather, outerFeather, grow, falloff) => {
        const edge = { innerFeather, outerFeather, grow, falloff }
        const polygon = wide(places.flat(), places.flatMap(() => [innerFeather, outerFeather]))
        const pieces = unionBoundary([polygon.polygon])
        const plain = new PlainFeather()
        plain.begin(BOX)
        plain.add(pieces, coverageOf(pieces), edge, 1)
        const expected = new Float32Array(SIZE * SIZE)
        plain.finish({ box: BOX, alpha: expected })
        const steepest = 2 / Math.max(1, innerFeather + outerFeather)
        expect(worst(variedMatte([polygon], edge), (x, y) => expected[y * SIZE + x]!)).toBeLessThan(1e-5 * (1 + steepest))
      }),
      { numRuns: 60, seed: 18, endOnFailure: true },
    ) // prettier-ignore
  })

  it('of no width is the exact coverage, and so it is beside a hard stretch', () => {
    const hard = variedMatte([wide(ARROW, [0, 0, 0, 0, 0, 0, 0, 0])])
    const coverage = coverageOf(unionBoundary([Float64Array.from(ARROW)]))
    expect(worst(hard, (x, y) => coverage[y * SIZE + x]!)).toBeLessThan(1e-6)
    // Soft on the right, hard on the left: the left half is covered as ever.
    const half = variedMatte([wide(SQUARE, [0, 0, 6, 6, 6, 6, 0, 0])])
    const square = coverageOf(unionBoundary([Float64Array.from(SQUARE)]))
    expect(worst(half, (x, y) => (x < 21 && y > 22 && y < 50 ? square[y * SIZE + x]! : half[y * SIZE + x]!))).toBeLessThan(1e-6) // prettier-ignore
  })

  it('turned by 90 degrees gives the turned matte, mirrored the mirrored one', () => {
    fc.assert(
      fc.property(polygons, someWidths, (places, widths) => {
        const own = evenly(widths.slice(0, places.length))
        const upright = variedMatte([wide(places.flat(), own)])
        const turned = variedMatte([wide(places.flatMap(([x, y]) => [SIZE - y!, x!]), own)]) // prettier-ignore
        const across = variedMatte([wide(places.flatMap(([x, y]) => [SIZE - x!, y!]), own)]) // prettier-ignore
        expect(worst(turned, (x, y) => upright[(SIZE - 1 - x) * SIZE + y]!)).toBeLessThan(1e-5)
        expect(worst(across, (x, y) => upright[y * SIZE + SIZE - 1 - x]!)).toBeLessThan(1e-5)
      }),
      { numRuns: 40, seed: 19, endOnFailure: true },
    )
  })

  it('a straight side whose feather grows from one end to the other has straight contours (closed form)', () => {
    // Outer width w(t) = k t over a level line: its contours are the tangents of circles about t of radius (1 - s) k t, straight lines
    // from the narrow end at the angle whose sine is (1 - s) k.
    const [k, length] = [0.5, 60]
    const matte = variedMatte([wide([2, 70, 2, 40, 62, 40, 62, 70], [0, 0, 0, 0, 0, k * length, 0, k * length])])
    for (const s of [0.2, 0.5, 0.8]) {
      const angle = Math.asin((1 - s) * k)
      for (const along of [30, 40, 45]) {
        const x = Math.floor(along) + 0.5
        const height = (x - 2) * Math.tan(angle)
        // Alpha runs through the smooth step of s there, looked up between two pixels of the column.
        const y = 40 - height - 0.5
        const row = Math.floor(y)
        const between = (at: number) => matte[at * SIZE + Math.floor(x)]!
        const found = between(row) + (between(row + 1) - between(row)) * (y - row)
        expect(Math.abs(found - s * s * (3 - 2 * s))).toBeLessThan(1 / 255)
      }
    }
  })

  it('never jumps: two pixels beside each other differ by no more than the narrowest ramp between them', () => {
    fc.assert(
      fc.property(polygons, fc.array(numberBetween(4, 14), { minLength: 12, maxLength: 12 }), (places, widths) => {
        const matte = variedMatte([wide(places.flat(), evenly(widths.slice(0, places.length)), HARD)])
        // 4 px and more on both sides: s changes by at most 1 / 8 a pixel, alpha by 1.5 times that.
        let largest = 0
        for (let at = 0; at < matte.length - SIZE; at++) {
          if (at % SIZE < SIZE - 1) largest = Math.max(largest, Math.abs(matte[at + 1]! - matte[at]!))
          largest = Math.max(largest, Math.abs(matte[at + SIZE]! - matte[at]!))
        }
        expect(largest).toBeLessThan(1.5 / 8)
      }),
      { numRuns: 60, seed: 20, endOnFailure: true },
    )
  })

  it('of two shapes that are united each keeps its own widths', () => {
    const [a, b] = [wide([8, 20, 40, 20, 40, 50, 8, 50], [2, 2, 2, 2, 2, 2, 2, 2]), wide([30, 26, 64, 26, 64, 44, 30, 44], [6, 6, 6, 6, 6, 6, 6, 6])] // prettier-ignore
    const both = variedMatte([a, b])
    const [left, right] = [variedMatte([a]), variedMatte([b])]
    // Far from where they cross: as by themselves.
    for (const y of [30, 35, 40]) {
      for (let x = 0; x < 12; x++) expect(both[y * SIZE + x]).toBeCloseTo(left[y * SIZE + x]!, 5)
      for (let x = 56; x < 72; x++) expect(both[y * SIZE + x]).toBeCloseTo(right[y * SIZE + x]!, 5)
    }
  })
})

describe('widths between points', () => {
  it('run linearly along the arc', () => {
    const { widths } = wide(SQUARE, [0, 2, 0, 6, 0, 6, 0, 2])
    // Straight sides are flattened without corners between: those of the points.
    expect(Array.from(widths)).toEqual([0, 2, 0, 6, 0, 6, 0, 2])
    const curve = Float64Array.of(10, 10, 1, 10, 30, 1, 40, 50, 1, 60, 50, 1, 50, 50, 1, 20, 30, 1)
    const bent = widePolygon({ outline: curve, pointWidths: Float64Array.of(0, 0, 8, 8) }, HARD)
    const corners = bent.polygon.length / 2
    const lengths = Array.from({ length: corners }, (_, i) => {
      const next = (i + 1) % corners
      return Math.hypot(bent.polygon[2 * next]! - bent.polygon[2 * i]!, bent.polygon[2 * next + 1]! - bent.polygon[2 * i + 1]!) // prettier-ignore
    })
    // The same rise a pixel all the way to the second point.
    const second = Array.from({ length: corners }, (_, i) => i).reduce((a, b) => (bent.widths[2 * b]! > bent.widths[2 * a]! ? b : a)) // prettier-ignore
    const whole = lengths.slice(0, second).reduce((a, b) => a + b, 0)
    let along = 0
    for (let i = 0; i < second; i++) {
      expect(bent.widths[2 * i]).toBeCloseTo((8 * along) / whole, 9)
      along += lengths[i]!
    }
  })

  it('never rise faster than they may along the boundary, and never fall below none', () => {
    fc.assert(
      fc.property(polygons, fc.array(numberBetween(-20, 40), { minLength: 12, maxLength: 12 }), (places, own) => {
        const edge = { innerFeather: 3, outerFeather: 1, grow: 0 }
        const polygon = wide(places.flat(), own.slice(0, 2 * places.length), edge)
        const { pieces, widths } = widePieces(unionBoundary([polygon.polygon]), [polygon])
        const next = followingPieces(pieces)
        for (let i = 0; i < pieces.length; i += 4) {
          const length = Math.hypot(pieces[i + 2]! - pieces[i]!, pieces[i + 3]! - pieces[i + 1]!)
          for (const side of [0, 1]) {
            expect(widths[i + side]).toBeGreaterThanOrEqual(0)
            expect(Math.abs(widths[i + 2 + side]! - widths[i + side]!)).toBeLessThanOrEqual(
              STEEPEST_RISE * length + 1e-9,
            )
            if (next[i / 4]! >= 0) expect(widths[4 * next[i / 4]! + side]).toBeCloseTo(widths[i + 2 + side]!, 9)
          }
        }
      }),
      { numRuns: 100, seed: 21, endOnFailure: true },
    )
  })
})
