import { describe, expect, it } from 'vitest'
import { edgeSpread } from '../../measures'
import { renderMattes, type EdgeGroup, type Scene } from '../index'
import { FocusField, PlainBlur, wasmBlur, type FocusedOutline } from './index'

const PLAIN = { innerFeather: 0, outerFeather: 0, grow: 0 }
const SIZE = 240
const box = { left: 0, top: 0, right: SIZE, bottom: SIZE }

type Place = readonly [number, number]

/** Homogeneous cubics along straight sides. */
function polygon(places: readonly Place[]): Float64Array {
  return Float64Array.from(
    places.flatMap(([x, y], i) => {
      const [nx, ny] = places[(i + 1) % places.length]!
      return [0, 1 / 3, 2 / 3].flatMap((t) => [x + (nx - x) * t, y + (ny - y) * t, 1])
    }),
  )
}

interface Given {
  places: readonly Place[]
  sigmas?: readonly number[]
  focus?: number
  operation?: EdgeGroup['operation']
}

function groupOf({ places, sigmas, focus, operation }: Given, sweep = 0): EdgeGroup {
  const at = (u: number) => polygon(places.map(([x, y]) => [x + (u - 0.5) * sweep, y]))
  return {
    operation,
    edge: PLAIN,
    opacity: 1,
    focus,
    outlinesAt: (u) => [at(u)],
    ...(sigmas && { focusedOutlines: () => [{ outline: at(0.5), sigmas: Float64Array.from(sigmas) }] }),
  }
}

function matteOf(groups: readonly EdgeGroup[], motionBlur = false): Float32Array {
  const scene: Scene = { parts: [{ id: 'part', holdsOut: true, groups: [...groups] }] }
  return renderMattes(scene, [{ partId: 'part', withHoldouts: true }], { box, motionBlur })![0]!
}

const largestDifference = (a: Float32Array, b: Float32Array) =>
  a.reduce((most, value, i) => Math.max(most, Math.abs(value - b[i]!)), 0)

const SHAPE: readonly Place[] = [[70.3, 60.6], [170.2, 74.1], [160.4, 180.7], [62.8, 150.2]] // prettier-ignore
const SIGMAS = [0.4, 4.5, 2, 8]

describe('a hard level edge out of focus', () => {
  it.each([1, 1.5, 2, 2.5, 4])(
    'by sigma %d is the mean of the blurred step over each pixel (error function), wherever it lies, and turned',
    (sigma) => {
      // Between two places of the edge at which alpha is right it runs straight: h^2 / 8 of the Gaussian's steepest slope. Beyond three sigma there is none: 0.00135.
      const apart = sigma < 2.3 ? 0.5 : 1
      const bound = (0.242 * apart ** 2) / (8 * sigma ** 2) + 0.00135
      for (const off of [0, 0.2, 0.35, 0.5, 0.75]) {
        const places: Place[] = [[120 + off, -300], [600, -300], [600, 540], [120 + off, 540]] // prettier-ignore
        const upright = matteOf([groupOf({ places, focus: sigma })])
        const level = matteOf([groupOf({ places: places.map(([x, y]) => [y, x] as const), focus: sigma })])
        for (let x = 100; x < 140; x++) {
          const looks = 40
          let mean = 0
          for (let k = 0; k < looks; k++) mean += edgeSpread(x + (k + 0.5) / looks - 120 - off, sigma, 0)[0] / looks
          expect(Math.abs(upright[120 * SIZE + x]! - mean), `${off}, pixel ${x}`).toBeLessThan(bound)
          expect(Math.abs(level[x * SIZE + 120]! - upright[120 * SIZE + x]!)).toBeLessThan(2e-6)
        }
      }
    },
  )
})

describe('focus that differs from point to point', () => {
  it.each([0.3, 1, 2.5, 3.3, 3.6, 7, 12])('equal at all points is that of the shape: sigma %d', (sigma) => {
    const varied = matteOf([groupOf({ places: SHAPE, sigmas: SIGMAS.map(() => sigma) })])
    const even = matteOf([groupOf({ places: SHAPE, focus: sigma })])
    // Both are cut off at three sigma, the wide ones at other places.
    expect(largestDifference(varied, even)).toBeLessThan(sigma > 3.4 ? 4e-3 : 1e-3)
  })

  it('none is the exact coverage', () => {
    const plain = matteOf([groupOf({ places: SHAPE })])
    expect(largestDifference(matteOf([groupOf({ places: SHAPE, sigmas: [0, 0, 0, 0] })]), plain)).toBeLessThan(1e-6)
  })

  it('runs linearly along a straight edge: its profile everywhere that of the blurred step (error function)', () => {
    // Sharp above, soft below; other edges are out of sight.
    const places: readonly Place[] = [[120.3, -300], [600, -300], [600, 540], [120.3, 540]] // prettier-ignore
    const matte = matteOf([groupOf({ places, sigmas: [0.5, 0.5, 12.5, 12.5] })])
    let most = 0
    for (const y of [20, 60, 119, 180, 220]) {
      const sigma = 0.5 + (12 * (y + 0.5 + 300)) / 840
      for (let x = 60; x < 180; x++) {
        // A pixel is a box of its own; along the edge sigma changes by 1/70 a pixel, and with it the ends of what is averaged.
        const [expected] = edgeSpread(x + 0.5 - 120.3, Math.hypot(sigma, Math.sqrt(1 / 12)), 0)
        most = Math.max(most, Math.abs(matte[y * SIZE + x]! - expected))
      }
    }
    expect(most).toBeLessThan(0.01)
  })

  it('turned by 90 degrees and mirrored, the matte is turned and mirrored', () => {
    const upright = matteOf([groupOf({ places: SHAPE, sigmas: SIGMAS })])
    const turned = matteOf([groupOf({ places: SHAPE.map(([x, y]) => [SIZE - y, x]), sigmas: SIGMAS })])
    const mirrored = matteOf([groupOf({ places: SHAPE.map(([x, y]) => [SIZE - x, y]), sigmas: SIGMAS })])
    let worst = 0
    for (let y = 0; y < SIZE; y++) {
      for (let x = 0; x < SIZE; x++) {
        const here = upright[y * SIZE + x]!
        worst = Math.max(worst, Math.abs(here - turned[x * SIZE + SIZE - 1 - y]!))
        worst = Math.max(worst, Math.abs(here - mirrored[y * SIZE + SIZE - 1 - x]!))
      }
    }
    expect(worst).toBeLessThan(2e-6)
  })

  it('is the same in layers as alone, and while it moves keeps all of its area', () => {
    const alone = matteOf([groupOf({ places: SHAPE, sigmas: SIGMAS })])
    const away: readonly Place[] = [[10, 10], [11, 10], [11, 11]] // prettier-ignore
    const layered = matteOf([groupOf({ places: SHAPE, sigmas: SIGMAS }), groupOf({ places: away })])
    let worst = 0
    for (let y = 20; y < SIZE; y++)
      for (let x = 20; x < SIZE; x++) worst = Math.max(worst, Math.abs(alone[y * SIZE + x]! - layered[y * SIZE + x]!))
    expect(worst).toBeLessThan(1e-6)
    const moving = matteOf([groupOf({ places: SHAPE, sigmas: SIGMAS }, 14)], true)
    const sum = (matte: Float32Array) => matte.reduce((total, alpha) => total + alpha, 0)
    expect(Math.abs(sum(moving) / sum(alone) - 1)).toBeLessThan(2e-3)
  })

  it('never jumps: neighbouring pixels differ by no more than the narrowest blur allows', () => {
    const matte = matteOf([groupOf({ places: SHAPE, sigmas: [1.2, 4.5, 2, 8] })])
    // The steepest slope of a step blurred by sigma is 1 / (sigma sqrt(2 pi)).
    const steepest = 1.05 / (1.2 * Math.sqrt(2 * Math.PI))
    let most = 0
    for (let i = 1; i < matte.length; i++) most = Math.max(most, Math.abs(matte[i]! - matte[i - 1]!))
    expect(most).toBeLessThan(steepest)
  })
})

describe('the field of sigmas', () => {
  const outlines: FocusedOutline[] = [{ outline: polygon(SHAPE), sigmas: Float64Array.from(SIGMAS) }]
  const field = new FocusField(outlines)

  it('is on the line what the line has, and lies everywhere between its least and its most', () => {
    for (const [i, [x, y]] of SHAPE.entries()) {
      const [nx, ny] = SHAPE[(i + 1) % 4]!
      for (const share of [0.25, 0.5, 0.75]) {
        const own = SIGMAS[i]! + (SIGMAS[(i + 1) % 4]! - SIGMAS[i]!) * share
        expect(Math.abs(field.sigmaAt(x + (nx - x) * share, y + (ny - y) * share) - own)).toBeLessThan(0.02)
      }
    }
    expect([field.least, field.most]).toEqual([0.4, 8])
    expect(field.sigmaAt(-4000, 3000)).toBeGreaterThan(0.4)
  })

  it('is the mean weighted by one over the third power of the distance, as adding up many places gives it', () => {
    for (const [x, y] of [[100, 100], [40, 90], [175, 75], [120, 240]] as const) {
      let [sum, weight] = [0, 0]
      for (const [i, [ax, ay]] of SHAPE.entries()) {
        const [bx, by] = SHAPE[(i + 1) % 4]!
        const length = Math.hypot(bx - ax, by - ay)
        for (let k = 0.5; k < 4000; k++) {
          const share = k / 4000
          const d2 = (ax + (bx - ax) * share - x) ** 2 + (ay + (by - ay) * share - y) ** 2 + 0.25
          sum += ((SIGMAS[i]! + (SIGMAS[(i + 1) % 4]! - SIGMAS[i]!) * share) * length) / d2 ** 1.5
          weight += length / d2 ** 1.5
        }
      }
      expect(field.sigmaAt(x, y)).toBeCloseTo(sum / weight, 4)
    }
  }) // prettier-ignore
})

describe('the blurs of a picture', () => {
  it('in WebAssembly are those in TypeScript, at any place, sigma and size', () => {
    // Odd sizes, and of a picture that is loaded into the room of a larger one.
    for (const [width, height] of [[131, 97], [64, 64], [73, 150]] as const) {
      const around = { left: -20, top: 7, right: width - 20, bottom: height + 7 }
      const alpha = Float32Array.from({ length: width * height }, (_, i) => Math.abs(Math.sin(i * 12.9898) * 43758.5453) % 1) // prettier-ignore
      const blurs = [new PlainBlur(), wasmBlur()!] as const
      for (const blur of blurs) blur.load(alpha, around)
      for (const sigma of [0.01, 0.3, 0.8, 2, 3.4, 3.5, 6.5]) {
        const middle = [Math.floor(width / 2) - 20, Math.floor(height / 2) + 7] as const
        const [plain, fast] = blurs.map((blur) => blur.at(...middle, sigma))
        expect(fast).toBeCloseTo(plain!, 5)
        const reach = Math.ceil(3 * sigma)
        const box = { left: around.left + reach, top: around.top + reach, right: around.right - reach, bottom: around.bottom - reach } // prettier-ignore
        const size = (box.right - box.left) * (box.bottom - box.top)
        const [a, b] = blurs.map((blur) => {
          const out = new Float32Array(size)
          blur.evenly(sigma, box, out)
          return out
        })
        expect(largestDifference(a!, b!)).toBeLessThan(2e-6)
      }
    } // prettier-ignore
  })
})
