import { describe, expect, it } from 'vitest'
import { edgeSpread, edgeSpreadByBox } from './edgeSpread'
import { SIGMAS } from './edgeGrid'
import { estimateShutter, movingEdgeAt } from './shutter'
import { softnessAtPoints } from './softnessAtPoints'
import type { EdgeMeasure } from './softness'
import { pictured, placeOf, type Edge } from './testEdges'

/** An edge that moves by `speed` pixels a frame, photographed with a shutter of so many degrees. */
function moving(speed: number, angle: number, edge: Omit<Edge, 'box'>, seed = 1) {
  const shown = { ...edge, box: (speed * angle) / 360 }
  return movingEdgeAt([pictured(shown, seed)], { ...placeOf(shown), sweep: speed })!
}

/** Edges of a moving thing: slow ones and fast ones, at all angles, with levels and grain of their own. */
const edgesOf = (angle: number, sigma: number, grain: number) =>
  Array.from({ length: 40 }, (_, i) =>
    moving(
      i % 4 === 0 ? 0.3 : 4 + ((i * 7) % 17),
      angle,
      { sigma, degrees: (i * 37) % 360, grain, off: ((i % 5) - 2) * 0.3, levels: i % 3 ? [0.7, 0.3] : [0.15, 0.5] },
      i + 1,
    ),
  )

describe('the shutter that the picture shows', () => {
  it.each([45, 90, 180, 270, 360])('of %d degrees is found, whatever the softness and the grain', (angle) => {
    for (const [sigma, grain] of [[0.6, 0], [1.5, 0], [0.8, 0.01], [2, 0.01]] as const) {
      const found = estimateShutter(edgesOf(angle, sigma, grain))!
      // 15 degrees at 180 is owed; of short shutters softness and sweep are harder to tell apart.
      expect(Math.abs(found.angle - angle)).toBeLessThan(Math.max(0.05 * angle, 12))
      expect(found.votes.length).toBeGreaterThan(20)
    } // prettier-ignore
  })

  it('is not led astray by edges that do not move as they are said to', () => {
    const edges = edgesOf(180, 1, 0.005)
    // A quarter of the fast ones stands still in the picture.
    const astray = edges.map((edge, i) => (i % 4 === 1 ? moving(edge.place.sweep, 0, { sigma: 1, degrees: i * 31 }, i) : edge)) // prettier-ignore
    const found = estimateShutter(astray)!
    expect(Math.abs(found.angle - 180)).toBeLessThan(12)
    expect(found.votes.filter(({ weight, angle }) => angle < 60 && weight > 0.5)).toEqual([])
  })

  it('is not told by slow edges, by faint ones, or by fewer than five', () => {
    const slow = Array.from({ length: 20 }, (_, i) => moving(2, 180, { sigma: 1, degrees: i * 18 }, i))
    expect(estimateShutter(slow)).toBeNull()
    const faint = Array.from({ length: 20 }, (_, i) => moving(10, 180, { sigma: 1, degrees: i * 18, levels: [0.5, 0.505], grain: 0.01 }, i)) // prettier-ignore
    expect(estimateShutter(faint)).toBeNull()
    expect(estimateShutter(edgesOf(180, 1, 0).slice(0, 5))).toBeNull()
    expect(estimateShutter([])).toBeNull()
  })

  it('the box is a derivative that is told right', () => {
    for (const [x, sigma, box] of [[0.4, 1.1, 3], [-1.5, 2, 5], [2, 0.6, 8]] as const) {
      const h = 1e-5
      const byBox = (edgeSpread(x, sigma, box + h)[0] - edgeSpread(x, sigma, box - h)[0]) / (2 * h)
      expect(edgeSpreadByBox(x, sigma, box)[2]).toBeCloseTo(byBox, 3)
    } // prettier-ignore
  })
})

describe('softness at the points of an outline', () => {
  /** One standard error is a tenth of a pixel. */
  const costsAbout = (sigma: number) => SIGMAS.map((seen) => ((seen - Math.hypot(sigma, SIGMAS[0]!)) / 0.1) ** 2)
  const clear = (at: number, sigma: number): EdgeMeasure => ({ place: { ...placeOf({ sigma, degrees: 0 }), at }, fit: { sigma, sigmaError: 0.1, place: sigma / 10, inside: 1, outside: 0, costs: costsAbout(sigma) }, profile: [], unclear: null }) // prettier-ignore
  const blind = (at: number): EdgeMeasure => ({
    place: { ...placeOf({ sigma: 1, degrees: 0 }), at },
    fit: null,
    unclear: 'faint',
  })

  it('is the middle of the clear places nearer to it than to its neighbours', () => {
    const measures = [clear(0.1, 1), clear(3.9, 1.2), clear(0.2, 9), clear(1.1, 2), clear(0.8, 2.2), blind(2.1), clear(2.9, 4), clear(3.1, 4)] // prettier-ignore
    const points = softnessAtPoints(measures, 4)!
    // One that says something else is not heard.
    expect(points[0]!.isClear).toBe(true)
    expect(points[0]!.sigma).toBeCloseTo(1.1, 1)
    expect(points[1]!.sigma).toBeCloseTo(2.1, 1)
    expect(points[3]!.sigma).toBeCloseTo(4, 1)
    // Between point 1 and point 3 nothing is clear: halfway.
    expect(points[2]!.isClear).toBe(false)
    expect(points[2]!.sigma).toBeCloseTo((points[1]!.sigma + points[3]!.sigma) / 2, 9)
    expect(points[2]!.place).toBeCloseTo(0.305, 9)
  })

  it('goes round about, is everywhere that of a single clear point, and nothing where none is', () => {
    const one = softnessAtPoints([clear(2, 1.5), clear(2.2, 1.5)], 6)!
    expect(new Set(one.map(({ sigma }) => sigma)).size).toBe(1)
    expect(one[0]!.sigma).toBeCloseTo(1.5, 1)
    expect(one.map(({ isClear }) => isClear)).toEqual([false, false, true, false, false, false])
    expect(softnessAtPoints([blind(1), blind(2)], 6)).toBeNull()
  })
})
