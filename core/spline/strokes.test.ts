import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { identity, windingNumber } from '../geometry'
import { renderMattes } from '../raster'
import { bsplineAsBezier, cubicPoint, homogeneousOutline, outlineOfPolygon, ribbonPolygons, stepsFor } from './index'
import { numberBetween } from '../testing/numberBetween'

const LAYOUT = { stride: 7, tension: 6 }
const polygonOf = (places: readonly number[], tension = 0) => {
  const out = new Float64Array((places.length / 2) * 7)
  for (let i = 0; i < places.length / 2; i++) out.set([places[2 * i]!, places[2 * i + 1]!, 9, 9, 9, 9, tension], i * 7)
  return out
}
/** Segment i of what bsplineAsBezier gives. */
function segment(points: Float64Array, i: number): number[] {
  const [a, b] = [7 * i, 7 * ((i + 1) % (points.length / 7))]
  const [x0, y0, x3, y3] = [points[a]!, points[a + 1]!, points[b]!, points[b + 1]!]
  return [x0, y0, x0 + points[a + 4]!, y0 + points[a + 5]!, x3 + points[b + 2]!, y3 + points[b + 3]!, x3, y3]
}
const places = fc.array(numberBetween(-200, 200), { minLength: 12, maxLength: 12 })

describe('B-splines as Bezier segments', () => {
  it('pass where the uniform cubic weights say: 1/6, 4/6, 1/6 at knots, 1/48, 23/48, 23/48, 1/48 halfway', () => {
    // checks.md, curves: uniform cubic B-spline weights; those halfway are the basis function at 1/2 and 3/2.
    fc.assert(
      fc.property(places, (p) => {
        const curve = bsplineAsBezier(polygonOf(p), LAYOUT, true)
        const at = (i: number, axis: number) => p[2 * ((i + 6) % 6) + axis]!
        let off = 0
        for (let i = 0; i < 6; i++) {
          const [start, half] = [cubicPoint(segment(curve, i), 0), cubicPoint(segment(curve, i), 0.5)]
          for (const axis of [0, 1]) {
            const knot = (at(i - 1, axis) + 4 * at(i, axis) + at(i + 1, axis)) / 6
            const middle = (at(i - 1, axis) + 23 * at(i, axis) + 23 * at(i + 1, axis) + at(i + 2, axis)) / 48
            off = Math.max(off, Math.abs(start[axis]! - knot), Math.abs(half[axis]! - middle))
          }
        }
        expect(off).toBeLessThan(1e-9)
      }),
    )
  })

  it('are smooth at any tension below 1, and touch the control point with a corner at 1', () => {
    fc.assert(
      fc.property(places, numberBetween(0, 0.99), (p, tension) => {
        const curve = bsplineAsBezier(polygonOf(p, tension), LAYOUT, true)
        let kink = 0
        for (let at = 0; at < curve.length; at += 7) {
          kink = Math.max(kink, Math.abs(curve[at + 2]! + curve[at + 4]!), Math.abs(curve[at + 3]! + curve[at + 5]!))
        }
        expect(kink).toBeLessThan(1e-9)
        const sharp = bsplineAsBezier(polygonOf(p, 1), LAYOUT, true)
        const off = Math.hypot(sharp[0]! - p[0]!, sharp[1]! - p[1]!) + Math.hypot(sharp[2]!, sharp[3]!)
        expect(off).toBe(0)
      }),
    )
  })

  it('begin and end in the first and the last control point when open', () => {
    const curve = bsplineAsBezier(polygonOf([0, 0, 50, 80, 120, 30, 200, 90]), LAYOUT, false)
    expect([curve[0], curve[1], curve[21], curve[22]]).toEqual([0, 0, 200, 90])
  })
})

describe('strokes', () => {
  const alphaOf = (polygons: readonly Float64Array[]) => {
    const outlines = polygons.map((polygon) => outlineOfPolygon(polygon, identity()))
    const edge = { innerFeather: 0, outerFeather: 0, grow: 0 }
    const scene = { parts: [{ id: 'p', holdsOut: true, groups: [{ edge, opacity: 1, outlinesAt: () => outlines }] }] }
    const box = { left: 0, top: 0, right: 220, bottom: 120 }
    return renderMattes(scene, [{ partId: 'p', withHoldouts: false }], { box, motionBlur: false })![0]!
  }
  const area = (alpha: Float32Array) => alpha.reduce((sum, a) => sum + a, 0)

  it('have the area of a trapezium and two half discs where they are straight (closed form)', () => {
    const cubic = Float64Array.of(40, 60, 80, 60, 120, 60, 160, 60)
    const alpha = alphaOf(ribbonPolygons([{ cubic, widthFrom: 20, widthTo: 40 }], [8]))
    // Trapezium, then a half disc of each end; a disc's other half lies in the trapezium but for the slivers of its slope.
    const exact = (120 * 30) + (Math.PI / 2) * (10 ** 2 + 20 ** 2) // prettier-ignore
    expect(Math.abs(area(alpha) - exact) / exact).toBeLessThan(0.005)
  })

  it('are a ring of even width round a bend, and have no hole where the bend is tighter than the stroke', () => {
    const bend = Float64Array.of(60, 100, 60, 20, 160, 20, 160, 100)
    const steps = [stepsFor(bend, 0.02)]
    const wide = ribbonPolygons([{ cubic: bend, widthFrom: 90, widthTo: 90 }], steps)
    const alpha = alphaOf(wide)
    const p = cubicPoint(bend, 0.5)
    for (let k = -44; k <= 20; k += 4) {
      expect(alpha[Math.floor(p[1]! + k) * 220 + Math.floor(p[0]!)] ?? 1, `${k} px across`).toBeCloseTo(1, 5)
    }
    const thin = ribbonPolygons([{ cubic: bend, widthFrom: 6, widthTo: 6 }], steps)
    let least = Infinity
    for (let k = 0; k <= 50; k++) {
      const [x, y] = cubicPoint(bend, k / 50)
      if (!thin.some((polygon) => windingNumber(polygon, x!, y!) !== 0)) least = 0
    }
    expect(least).toBe(Infinity)
  })

  it('stay within the tolerance of their curve with the steps that are asked for', () => {
    fc.assert(
      fc.property(fc.array(numberBetween(0, 60), { minLength: 8, maxLength: 8 }), (cubic) => {
        const steps = stepsFor(cubic, 0.02)
        let worst = 0
        for (let k = 0; k < steps; k++) {
          const [a, b, m] = [k, k + 1, k + 0.5].map((n) => cubicPoint(cubic, n / steps))
          worst = Math.max(worst, Math.hypot((a![0]! + b![0]!) / 2 - m![0]!, (a![1]! + b![1]!) / 2 - m![1]!))
        }
        expect(worst).toBeLessThanOrEqual(0.0201)
      }),
    )
  })

  it('have sides that are straight under a perspective map', () => {
    const map = Float64Array.of(1, 0.1, 5, 0.05, 1, 3, 1e-4, 2e-4, 1)
    const square = Float64Array.of(0, 0, 100, 0, 100, 100, 0, 100)
    const outline = outlineOfPolygon(square, map)
    const direct = homogeneousOutline(Float64Array.from([0, 0, 0, 0, 0, 0, 100, 0, 0, 0, 0, 0]), 6, map)
    expect([outline[0], outline[1], outline[2]]).toEqual([direct[0], direct[1], direct[2]])
    const [ax, ay, aw] = [outline[0]!, outline[1]!, outline[2]!]
    const [bx, by, bw] = [outline[9]!, outline[10]!, outline[11]!]
    const [hx, hy, hw] = [outline[3]!, outline[4]!, outline[5]!]
    const cross = (hx / hw - ax / aw) * (by / bw - ay / aw) - (hy / hw - ay / aw) * (bx / bw - ax / aw)
    expect(Math.abs(cross)).toBeLessThan(1e-9)
  })
})
