import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Box } from '../../geometry'
import { largestDifference, numberBetween } from '../../testing'
import { CoverageAccumulator, exactShareOf, PlainFeather, rampAt, unionBoundary, wasmFeather, type EdgeProfile, type Falloff, type Feather } from '../index' // prettier-ignore

const SIZE = 64
const CENTRE = SIZE / 2

const FEATHERS: [string, Feather][] = [
  ['plain', new PlainFeather()],
  ['WebAssembly', wasmFeather()!],
]

function matteOf(
  polygons: Float64Array[],
  edge: EdgeProfile,
  feather: Feather,
  box: Box = { left: 0, top: 0, right: SIZE, bottom: SIZE },
): Float32Array {
  const pieces = unionBoundary(polygons)
  const accumulator = new CoverageAccumulator()
  accumulator.begin(box)
  accumulator.add(pieces)
  const size = (box.right - box.left) * (box.bottom - box.top)
  const coverage = new Float32Array(size)
  accumulator.finish({ box, alpha: coverage })
  const out = new Float32Array(size)
  feather.begin(box)
  feather.add(pieces, exactShareOf(edge) > 0 ? coverage : null, edge, 1)
  feather.finish({ box, alpha: out })
  return out
}

const mapped = (polygon: Float64Array, map: (x: number, y: number) => [number, number]) => {
  const out = new Float64Array(polygon.length)
  for (let i = 0; i < polygon.length; i += 2) out.set(map(polygon[i]!, polygon[i + 1]!), i)
  return out
}
/** x to y and y to -x about the middle of the picture: pixels fall on pixels. */
const quarterTurned = (x: number, y: number): [number, number] => [SIZE - y, x]
const mirrored = (x: number, y: number): [number, number] => [SIZE - x, y]

function rectangle(width: number, height: number, degrees = 0, [cx, cy] = [CENTRE, CENTRE]): Float64Array {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
  return mapped(Float64Array.of(-width, -height, width, -height, width, height, -width, height), (x, y) => [
    cx + (c * x - s * y) / 2,
    cy + (s * x + c * y) / 2,
  ])
}

const sum = (values: Float32Array) => values.reduce((a, b) => a + b, 0)

function worst(a: Float32Array, b: (x: number, y: number) => number): number {
  let largest = 0
  for (let y = 0; y < SIZE; y++) {
    for (let x = 0; x < SIZE; x++) largest = Math.max(largest, Math.abs(a[y * SIZE + x]! - b(x, y)))
  }
  return largest
}

const EDGES: EdgeProfile[] = [
  { innerFeather: 4, outerFeather: 4, grow: 0 },
  { innerFeather: 0, outerFeather: 6, grow: 0 },
  { innerFeather: 5, outerFeather: 0, grow: 2 },
  { innerFeather: 3, outerFeather: 5, grow: 0, falloff: 'linear' },
  { innerFeather: 6, outerFeather: 2, grow: 1, falloff: 'early' },
  { innerFeather: 2, outerFeather: 7, grow: -1, falloff: 'late' },
  { innerFeather: 6, outerFeather: 3, grow: 0, falloff: [0.4, 2.5] },
  { innerFeather: 0, outerFeather: 0, grow: 5 },
  { innerFeather: 0, outerFeather: 0, grow: -3 },
  { innerFeather: 0.5, outerFeather: 0.7, grow: 0.3 },
]
/** Upright rectangles, alone and as clusters whose level edges lie on one line, lie on each other, and cross. */
const SCENES: Float64Array[][] = [
  [rectangle(30, 20)],
  [rectangle(20.3, 31.7, 0, [30.1, 32.6])],
  [rectangle(20, 20, 0, [22, 30]), rectangle(20, 20, 0, [42, 30])],
  [rectangle(20, 20, 0, [26, 26]), rectangle(20, 20, 0, [36, 36])],
  [rectangle(30, 10, 0, [32, 25]), rectangle(14, 10, 0, [32, 35])],
  [Float64Array.of(14, 14, 50, 14, 50, 50, 38, 50, 38, 26, 26, 26, 26, 50, 14, 50)],
  // Runs over its own level edge and back.
  [Float64Array.of(14, 20, 50, 20, 50, 44, 32, 44, 32, 20, 24, 20, 24, 44, 14, 44)],
]

const RAMPS: Record<string, (s: number) => number> = {
  smooth: (s) => s * s * (3 - 2 * s),
  linear: (s) => s,
  early: (s) => s * s,
  late: (s) => 1 - (1 - s) ** 2,
  '0.4,2.5': (s) => hermite(s, 0.4, 2.5),
}

/** The cubic from 0 to 1 with these slopes at its ends, by Hermite's base functions. */
const hermite = (s: number, m0: number, m1: number) =>
  (s ** 3 - 2 * s ** 2 + s) * m0 + (-2 * s ** 3 + 3 * s ** 2) + (s ** 3 - s ** 2) * m1

describe.each(FEATHERS)('%s: a soft or grown edge looks the same whichever way it lies', (_, feather) => {
  it('a scene turned by 90 degrees gives the turned matte, mirrored the mirrored one', () => {
    for (const scene of SCENES) {
      for (const edge of EDGES) {
        const upright = matteOf(scene, edge, feather)
        const turned = matteOf(scene.map((polygon) => mapped(polygon, quarterTurned)), edge, feather) // prettier-ignore
        expect(worst(turned, (x, y) => upright[(SIZE - 1 - x) * SIZE + y]!)).toBeLessThan(1e-6)
        const across = matteOf(scene.map((polygon) => mapped(polygon, mirrored)), edge, feather) // prettier-ignore
        expect(worst(across, (x, y) => upright[y * SIZE + SIZE - 1 - x]!)).toBeLessThan(1e-6)
      }
    }
  })

  it('so do any polygons', () => {
    const places = fc.array(fc.integer({ min: 10, max: 54 }), { minLength: 6, maxLength: 12 })
    fc.assert(
      fc.property(places, places, fc.constantFrom(...EDGES), (a, b, edge) => {
        // Whole numbers: many edges are level, upright, or lie on each other.
        const scene = [a, b].map((all) => Float64Array.from(all.slice(0, all.length & ~1)))
        const upright = matteOf(scene, edge, feather)
        const turned = matteOf(scene.map((polygon) => mapped(polygon, quarterTurned)), edge, feather) // prettier-ignore
        expect(worst(turned, (x, y) => upright[(SIZE - 1 - x) * SIZE + y]!)).toBeLessThan(2e-6)
      }),
      { numRuns: 150, seed: 14 },
    )
  })

  it('at any angle it is the ramp of the distance to the rectangle, averaged over the pixel (closed form)', () => {
    const grid = 8
    for (let degrees = 0; degrees < 180; degrees += 7.5) {
      for (const edge of EDGES.slice(0, 7)) {
        const matte = matteOf([rectangle(34, 26, degrees)], edge, feather)
        const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
        const width = edge.innerFeather + edge.outerFeather
        const ramp = RAMPS[String(edge.falloff ?? 'smooth')]!
        // Without the pixel's own width: the grid averages over it.
        const along = (x: number, y: number) => {
          const [dx, dy] = [Math.abs(c * x + s * y) - 17, Math.abs(-s * x + c * y) - 13]
          const distance = Math.hypot(Math.max(0, dx), Math.max(0, dy)) + Math.min(0, Math.max(dx, dy))
          return (edge.outerFeather + edge.grow - distance) / width
        }
        const exact = (px: number, py: number) => {
          const middle = along(px + 0.5 - CENTRE, py + 0.5 - CENTRE)
          // No corner of a pixel is farther from its middle than its side is long.
          if (middle < -1 / width || middle > 1 + 1 / width) return middle < 0 ? 0 : 1
          let total = 0
          for (let i = 0; i < grid * grid; i++) {
            const t = along(px + ((i % grid) + 0.5) / grid - CENTRE, py + (Math.floor(i / grid) + 0.5) / grid - CENTRE)
            total += t <= 0 ? 0 : t >= 1 ? 1 : ramp(t)
          }
          return total / grid ** 2
        }
        // On the medial axis inside and beside the corners a pixel sees two edges at once; elsewhere 1/255 is owed.
        const isClear = (px: number, py: number) => {
          const [x, y] = [px + 0.5 - CENTRE, py + 0.5 - CENTRE]
          const [dx, dy] = [Math.abs(c * x + s * y) - 17, Math.abs(-s * x + c * y) - 13]
          return Math.abs(dx - dy) > 1.5 && Math.hypot(dx, dy) > 3
        }
        expect(worst(matte, (x, y) => (isClear(x, y) ? exact(x, y) : matte[y * SIZE + x]!))).toBeLessThan(1 / 255)
      }
    }
  })

  it('level edges feather and grow: the middle columns of a rectangle run like its middle rows', () => {
    const matte = matteOf([rectangle(30, 30)], { innerFeather: 4, outerFeather: 4, grow: 0 }, feather)
    for (let i = 0; i < SIZE; i++) {
      expect(matte[i * SIZE + 32]).toBeCloseTo(matte[32 * SIZE + i]!, 6)
      expect(matte[i * SIZE + 32]).toBeCloseTo(rampAt(Math.abs(i + 0.5 - 32) - 15, 4, 4), 5)
    }
    // Steiner's formula: a convex region grown by r gains its outline times r and a disc.
    const grown = matteOf([rectangle(30, 20)], { innerFeather: 0, outerFeather: 0, grow: 5 }, feather)
    expect(Math.abs(sum(grown) - (600 + 100 * 5 + Math.PI * 25))).toBeLessThan(0.5)
  })

  it('moved by half a pixel either way the sum of alpha stays', () => {
    const band = (at: number) => Float64Array.of(-20, at, 84, at, 84, at + 20, -20, at + 20)
    for (const edge of EDGES) {
      const sums = [20, 20.5, 20.27].map((at) => sum(matteOf([band(at)], edge, feather)))
      // Straight edges owe it exactly: 128 px of outline, each pixel of it to 1e-4.
      for (const one of sums) expect(Math.abs(one - sums[0]!)).toBeLessThan(0.0128)
      for (const degrees of [0, 90, 33]) {
        const places = [[0, 0], [0.5, 0], [0, 0.5], [0.5, 0.5], [0.27, 0.81]] // prettier-ignore
        const moved = places.map(([x, y]) =>
          sum(matteOf([rectangle(30, 21, degrees, [CENTRE + x!, CENTRE + y!])], edge, feather)),
        )
        // The distance is looked at once a pixel: where two edges meet, a quarter of a pixel a corner at most.
        for (const one of moved) expect(Math.abs(one - moved[0]!)).toBeLessThanOrEqual(1.001)
      }
    }
  })
})

describe('the nearest piece, of the few that can be', () => {
  it('is that of all pieces looked at by every pixel, whatever the widths and the box', () => {
    const place = fc.tuple(numberBetween(-40, 240), numberBetween(-40, 200))
    const polygon = fc.array(place, { minLength: 3, maxLength: 40 }).map((places) => Float64Array.from(places.flat()))
    const widths = fc.record({
      innerFeather: numberBetween(0, 90),
      outerFeather: numberBetween(0, 90),
      grow: numberBetween(-20, 20),
      falloff: fc.constantFrom<Falloff>('smooth', 'linear', 'early', 'late', [0, 0.5], [2.9, 0.1]),
    })
    fc.assert(
      fc.property(
        fc.array(polygon, { minLength: 1, maxLength: 3 }),
        widths,
        fc.integer({ min: 1, max: 210 }),
        fc.integer({ min: 1, max: 130 }),
        fc.integer({ min: -30, max: 60 }),
        (polygons, edge, width, height, left) => {
          const box = { left, top: -left, right: left + width, bottom: height - left }
          const expected = matteOf(polygons, edge, new PlainFeather(), box)
          const found = matteOf(polygons, edge, wasmFeather()!, box)
          // What 32-bit floats owe: some thousandths of a ten thousandth of a pixel, times the steepest ramp.
          const steepest = 2 / Math.max(1, edge.innerFeather + edge.outerFeather)
          expect(largestDifference(found, expected)).toBeLessThan(1e-4 * steepest + 2e-5)
        },
      ),
      { numRuns: 60, seed: 16 },
    )
  })

  it('has memory for a picture after a larger one, and no piece at all gives nothing', () => {
    const edge = { innerFeather: 4, outerFeather: 4, grow: 0 }
    const wide = { left: 0, top: 0, right: 700, bottom: 600 }
    expect(sum(matteOf([], edge, wasmFeather()!, wide))).toBe(0)
    expect(sum(matteOf([rectangle(2000, 2000)], edge, wasmFeather()!, wide))).toBe(700 * 600)
  })
})
