import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Box } from '../../geometry'
import { numberBetween } from '../../testing'
import { CoverageAccumulator, type Accumulator } from '../accumulate'
import { sizeOf } from '../fittedMatte'
import { unionBoundary } from '../union'
import { PlainPlanes, wasmPlanes, type Plane, type Planes } from './index'

/** What additions in 32 bits may differ by when they are made in another order. */
const ROUNDING = 2e-6

const wasm = wasmPlanes()!
const place = fc.tuple(numberBetween(-20, 90), numberBetween(-20, 90))
const polygon = fc.array(place, { minLength: 3, maxLength: 9 }).map((places) => Float64Array.from(places.flat()))
const boxes = fc
  .tuple(fc.nat(20), fc.nat(20), fc.integer({ min: 1, max: 70 }), fc.integer({ min: 1, max: 70 }))
  .map(([left, top, width, height]): Box => ({ left, top, right: left + width, bottom: top + height }))

function coverage(accumulator: Accumulator, polygons: readonly Float64Array[], box: Box, alpha: Float32Array) {
  accumulator.begin(box)
  for (const one of polygons) accumulator.add(unionBoundary([one]), 1 / polygons.length)
  accumulator.finish({ box, alpha })
  return alpha
}

function expectSame(own: Float32Array, reference: Float32Array, size: number) {
  let worst = 0
  for (let i = 0; i < size; i++) worst = Math.max(worst, Math.abs(own[i]! - reference[i]!))
  expect(worst).toBeLessThanOrEqual(ROUNDING)
}

describe('coverage by WebAssembly', () => {
  it('is that of the reference, whether it is kept in the planes or elsewhere', () => {
    fc.assert(
      fc.property(fc.array(polygon, { minLength: 1, maxLength: 3 }), boxes, (polygons, box) => {
        const reference = coverage(new CoverageAccumulator(), polygons, box, new Float32Array(sizeOf(box)))
        expectSame(coverage(wasm.accumulator, polygons, box, new Float32Array(sizeOf(box))), reference, reference.length) // prettier-ignore
        wasm.taken = 0
        const plane = wasm.take(sizeOf(box)).fill(7)
        expectSame(coverage(wasm.accumulator, polygons, box, plane), reference, reference.length)
      }),
    )
  })

  it('goes to its place in a larger matte and leaves the rest as it is', () => {
    const box = { left: 5, top: 7, right: 39, bottom: 44 }
    const whole = { left: 2, top: 3, right: 50, bottom: 60 }
    const pieces = unionBoundary([Float64Array.of(-10, 10, 60, 12, 20, 70)])
    const results = [new CoverageAccumulator(), wasm.accumulator].map((accumulator) => {
      const alpha = new Float32Array(sizeOf(whole)).fill(3)
      accumulator.begin(box)
      accumulator.add(pieces)
      accumulator.finish({ box: whole, alpha })
      return alpha
    })
    expect(results[0]).toContain(3)
    expectSame(results[1]!, results[0]!, sizeOf(whole))
  })

  it('begins anew after it broke off', () => {
    const box = { left: 0, top: 0, right: 30, bottom: 30 }
    wasm.accumulator.begin(box)
    wasm.accumulator.add(unionBoundary([Float64Array.of(1, 1, 29, 3, 12, 28)]))
    const alpha = new Float32Array(900)
    wasm.accumulator.begin(box)
    wasm.accumulator.finish({ box, alpha })
    expect(Math.max(...alpha)).toBe(0)
  })

  it('is left to the reference where a picture is larger than its room', () => {
    const box = { left: 0, top: 0, right: 20000, bottom: 900 }
    const alpha = coverage(wasm.accumulator, [Float64Array.of(19000, 100, 19800, 100, 19800, 800, 19000, 800)], box, new Float32Array(sizeOf(box))) // prettier-ignore
    expect([alpha[400 * 20000 + 18999], alpha[400 * 20000 + 19400]]).toEqual([0, 1])
    const small = { left: 0, top: 0, right: 4, bottom: 4 }
    expect([...coverage(wasm.accumulator, [Float64Array.of(0, 0, 4, 0, 4, 4, 0, 4)], small, new Float32Array(16))]).toEqual(Array(16).fill(1)) // prettier-ignore
  })
})

describe('arithmetic of planes', () => {
  const rows = { top: 0, bottom: 5 }
  const columns = fc.tuple(fc.nat(12), fc.integer({ min: 1, max: 30 })).map(([left, width]): Box => ({ ...rows, left, right: left + width })) // prettier-ignore
  const seeded = (planes: Planes, box: Box, seed: number): Plane => {
    const values = planes.take(sizeOf(box))
    for (let i = 0; i < sizeOf(box); i++) values[i] = Math.abs(Math.sin(seed + i * 1.7))
    return { box, values }
  }

  it('is that of the reference, wherever two boxes share columns and where they share none', () => {
    fc.assert(
      fc.property(columns, columns, columns, (a, b, c) => {
        const [reference, own] = [new PlainPlanes(), wasm].map((planes) => {
          planes.taken = 0
          const [part, near, nearest] = [seeded(planes, a, 1), seeded(planes, b, 2), seeded(planes, c, 3)]
          const sum = seeded(planes, a, 4).values
          const visible = planes.take(sizeOf(a))
          planes.cut(part, near, visible)
          planes.cut({ box: a, values: visible }, nearest, visible)
          planes.addCut(sum, { box: a, values: visible }, nearest, 0.3)
          planes.addShare(sum, part.values, sizeOf(a), 0.7)
          return { sum: sum.slice(0, sizeOf(a)), visible: visible.slice(0, sizeOf(a)) }
        })
        expectSame(own!.sum, reference!.sum, sizeOf(a))
        expectSame(own!.visible, reference!.visible, sizeOf(a))
      }),
    )
  })

  it('goes on where the room for planes ends', () => {
    wasm.taken = 0
    const most = wasm.take(24 * 2 ** 20)
    const box = { ...rows, left: 0, right: 8 }
    const [one, other] = [seeded(wasm, box, 1), seeded(wasm, box, 2)]
    expect(one.values.buffer).not.toBe(most.buffer)
    const out = wasm.take(sizeOf(box))
    wasm.cut(one, other, out)
    out.forEach((value, i) => expect(value).toBeCloseTo(one.values[i]! * (1 - other.values[i]!), 6))
    wasm.taken = 0
    expect(wasm.take(8).buffer).toBe(most.buffer)
  })
})
