import { edgeSpread, normalDistribution } from '@tender-lasso/core/measures'
import { renderMattes, type EdgeProfile, type Scene } from '@tender-lasso/core/raster'
import { outlineOfPolygon, SEGMENT_STRIDE, type HomogeneousOutline } from '@tender-lasso/core/spline'
import type { Benchmark } from './benchmark'

/** Side of the pictures, pixels; their middle lies off the pixels' grid. */
const SIZE = 128
const MIDDLE = [63.8, 64.3] as const
/** Looks of the closed form within a pixel, along each axis: where it is smooth, and where it jumps. */
const LOOKS = 4
const LOOKS_AT_JUMP = 20
/** Where no moments are averaged, as many leave less than a tenth of 1/255. */
const LOOKS_AT_STILL_JUMP = 60
/** Looks over the open shutter. */
const MOMENTS = 32

/** One scene: what is drawn, and the alpha that it has at a place and a moment of the shutter, u from -1/2 to 1/2. */
interface Case {
  name: string
  edge: EdgeProfile
  focus?: number
  isMoving: boolean
  outlineAt(u: number): HomogeneousOutline
  alphaAt(x: number, y: number, u: number): number
  /** Length of the outline, by which a sum of errors becomes a shift of the edge. */
  perimeter: number
  /** Places where the mean over a pixel is no longer that across one straight edge: corners and what is as near to two edges. */
  isCorner?(x: number, y: number): boolean
}

const IDENTITY = Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1)

/** Pixels outside of the edge from full to empty, s^2 (3 - 2s). */
const ramp = (distance: number, { innerFeather, outerFeather, grow }: EdgeProfile) => {
  const width = innerFeather + outerFeather
  // A hard edge covers each look by its share, as if straight across it.
  if (width === 0) return Math.min(1, Math.max(0, 0.5 - (distance - grow) * LOOKS_AT_JUMP))
  const s = (outerFeather + grow - distance) / width
  return s <= 0 ? 0 : s >= 1 ? 1 : s * s * (3 - 2 * s)
}

/** A circle as 24 cubics: 1e-7 of its radius off (Goldapp 1991). */
function circle(cx: number, cy: number, radius: number): HomogeneousOutline {
  const count = 24
  const handle = (4 / 3) * Math.tan(Math.PI / (2 * count)) * radius
  const out = new Float64Array(count * SEGMENT_STRIDE)
  for (let i = 0; i < count; i++) {
    const [a, b] = [(2 * Math.PI * i) / count, (2 * Math.PI * (i + 1)) / count]
    const at = (angle: number, along: number) => [cx + radius * Math.cos(angle) - along * Math.sin(angle), cy + radius * Math.sin(angle) + along * Math.cos(angle), 1] // prettier-ignore
    out.set([...at(a, 0), ...at(a, handle), ...at(b, -handle)], i * SEGMENT_STRIDE)
  }
  return out
}

const EDGES: EdgeProfile[] = [
  { innerFeather: 0, outerFeather: 0, grow: 0 },
  { innerFeather: 3, outerFeather: 5, grow: 0 },
  { innerFeather: 0, outerFeather: 8, grow: 1 },
  { innerFeather: 20, outerFeather: 40, grow: 0 },
]

function discs(): Case[] {
  const motions = [
    ['still', 0, 0, 0],
    ['moving', 11, 4, 0],
    ['growing', 0, 0, 6],
  ] as const
  return EDGES.flatMap((edge) =>
    motions.map(([name, vx, vy, growth]): Case => {
      const radiusAt = (u: number) => 34 + growth * u
      return {
        name: `disc ${name}, feather ${edge.innerFeather} ${edge.outerFeather}`,
        edge,
        isMoving: vx !== 0 || growth !== 0,
        perimeter: 2 * Math.PI * 34,
        outlineAt: (u) => circle(MIDDLE[0] + vx * u, MIDDLE[1] + vy * u, radiusAt(u)),
        alphaAt: (x, y, u) => ramp(Math.hypot(x - MIDDLE[0] - vx * u, y - MIDDLE[1] - vy * u) - radiusAt(u), edge),
      }
    }),
  )
}

/** Rectangles and thin bars at every angle, still, moving across, and turning. */
function rectangles(): Case[] {
  const forms = [
    ['rectangle', 30, 20],
    ['bar', 44, 3],
  ] as const
  const cases: Case[] = []
  for (const [name, halfWidth, halfHeight] of forms) {
    for (let degrees = 0; degrees < 180; degrees += 15) {
      for (const [motion, vx, turn] of [['still', 0, 0], ['moving', 9, 0], ['turning', 0, 8]] as const) {
        const edge = EDGES[(degrees / 15) % EDGES.length]!
        const angleAt = (u: number) => ((degrees + turn * u) * Math.PI) / 180
        /** A place in the rectangle's own directions, and how far it lies outside of it. */
        const own = (x: number, y: number, u: number) => {
          const [c, s] = [Math.cos(angleAt(u)), Math.sin(angleAt(u))]
          const [dx, dy] = [x - MIDDLE[0] - vx * u, y - MIDDLE[1]]
          return [Math.abs(c * dx + s * dy) - halfWidth, Math.abs(-s * dx + c * dy) - halfHeight] as const
        }
        cases.push({
          name: `${name} at ${degrees}, ${motion}, feather ${edge.innerFeather} ${edge.outerFeather}`,
          edge,
          isMoving: motion !== 'still',
          perimeter: 4 * (halfWidth + halfHeight),
          outlineAt(u) {
            const [c, s] = [Math.cos(angleAt(u)), Math.sin(angleAt(u))]
            const corners = [[-1, -1], [1, -1], [1, 1], [-1, 1]].flatMap(([i, j]) => [
              MIDDLE[0] + vx * u + c * i! * halfWidth - s * j! * halfHeight,
              MIDDLE[1] + s * i! * halfWidth + c * j! * halfHeight,
            ])
            return outlineOfPolygon(Float64Array.from(corners), IDENTITY)
          },
          alphaAt(x, y, u) {
            const [dx, dy] = own(x, y, u)
            return ramp(Math.hypot(Math.max(0, dx), Math.max(0, dy)) + Math.min(0, Math.max(dx, dy)), edge)
          },
          isCorner(x, y) {
            // A hard edge is exact in its corners as well.
            if (edge.innerFeather + edge.outerFeather === 0) return false
            return [-0.5, 0, 0.5].some((u) => {
              const [dx, dy] = own(x, y, u)
              return Math.abs(dx - dy) < 2 || Math.hypot(dx, dy) < 4 || (halfHeight < 5 && dy < 1)
            })
          },
        })
      } // prettier-ignore
    }
  }
  return cases
}

/** Hard bands at every angle under a Gaussian: the difference of two blurred steps, swept across. */
function outOfFocus(): Case[] {
  const cases: Case[] = []
  for (const sigma of [1.5, 3]) {
    for (let degrees = 0; degrees < 180; degrees += 15) {
      for (const sweep of [0, 7]) {
        const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
        const half = 18.3
        cases.push({
          name: `band at ${degrees} out of focus by ${sigma}, swept by ${sweep}`,
          edge: EDGES[0]!,
          focus: sigma,
          isMoving: sweep > 0,
          perimeter: 2 * SIZE,
          outlineAt(u) {
            const corners = [[-1, -1], [1, -1], [1, 1], [-1, 1]].flatMap(([i, j]) => {
              const [along, across] = [i! * 400, j! * half + sweep * u]
              return [MIDDLE[0] + c * along - s * across, MIDDLE[1] + s * along + c * across]
            }) // prettier-ignore
            return outlineOfPolygon(Float64Array.from(corners), IDENTITY)
          },
          alphaAt(x, y) {
            const across = -s * (x - MIDDLE[0]) + c * (y - MIDDLE[1])
            if (sweep === 0)
              return normalDistribution((across + half) / sigma) - normalDistribution((across - half) / sigma)
            return edgeSpread(across + half, sigma, sweep)[0] - edgeSpread(across - half, sigma, sweep)[0]
          },
        })
      }
    }
  }
  return cases
}

const isPlain = ({ innerFeather, outerFeather }: EdgeProfile) => innerFeather + outerFeather === 0

interface Errors {
  worst: number
  sum: number
  signed: number
  count: number
}

/** Places about the middle of a pixel, and moments: what is as full at all of them is not near an edge. */
const FAR = [-1, 0, 1].flatMap((dx) => [-1, 0, 1].flatMap((dy) => [-0.5, -0.25, 0, 0.25, 0.5].map((u) => [dx, dy, u] as const))) // prettier-ignore

/** Largest, mean and signed error over the pixels that are neither full nor empty. */
function errorsOf({ edge, focus, isMoving, outlineAt, alphaAt, isCorner }: Case): Errors {
  const scene: Scene = {
    parts: [
      { id: 'one', holdsOut: false, groups: [{ edge, focus, opacity: 1, outlinesAt: (u) => [outlineAt(u - 0.5)] }] },
    ],
  }
  const box = { left: 0, top: 0, right: SIZE, bottom: SIZE }
  const [matte] = renderMattes(scene, [{ partId: 'one', withHoldouts: false }], { box, motionBlur: true })!
  const errors = { worst: 0, sum: 0, signed: 0, count: 0 }
  const moments = isMoving && focus === undefined ? MOMENTS : 1
  const atJump = isMoving ? LOOKS_AT_JUMP : LOOKS_AT_STILL_JUMP
  const looks = isPlain(edge) && focus === undefined ? atJump : LOOKS
  for (let py = 0; py < SIZE; py++) {
    for (let px = 0; px < SIZE; px++) {
      const found = matte![py * SIZE + px]!
      // Far from any edge: nothing to be looked at closely.
      if (
        (found === 0 || found === 1) &&
        FAR.every(([dx, dy, u]) => alphaAt(px + 0.5 + dx, py + 0.5 + dy, u) === found)
      )
        continue
      let exact = 0
      for (let look = 0; look < looks * looks; look++) {
        const [x, y] = [px + ((look % looks) + 0.5) / looks, py + (Math.floor(look / looks) + 0.5) / looks]
        for (let k = 0; k < moments; k++) exact += alphaAt(x, y, (k + 0.5) / moments - 0.5)
      }
      exact /= looks * looks * moments
      if (exact < 1e-6 && found < 1e-6) continue
      if (exact > 1 - 1e-6 && found > 1 - 1e-6) continue
      const error = found - exact
      errors.signed += error
      if (isCorner?.(px + 0.5, py + 0.5)) continue
      errors.sum += Math.abs(error)
      errors.count++
      errors.worst = Math.max(errors.worst, Math.abs(error))
    }
  }
  return errors
}

/** Worst error of moving, turning and growing discs, bars, rectangles and bands with feather, focus and shutter, against closed forms. */
export const edgeExact: Benchmark = {
  name: 'edge-exact',
  goal: 1,
  better: 'less',
  run() {
    let [worst, sum, count, bias] = [0, 0, 0, 0]
    const families = { discs: discs(), rectangles: rectangles(), 'out of focus': outOfFocus() }
    const words = Object.entries(families).map(([name, cases]) => {
      let most = 0
      for (const one of cases) {
        const errors = errorsOf(one)
        most = Math.max(most, errors.worst)
        sum += errors.sum
        count += errors.count
        bias = Math.max(bias, Math.abs(errors.signed / one.perimeter))
      }
      worst = Math.max(worst, most)
      return `${cases.length} ${name} ${(255 * most).toFixed(2)}`
    })
    const notes = `worst of 255: ${words.join(', ')}; mean 1/${(count / sum).toFixed(0)} (wanted 1/2000), largest bias ${bias.toFixed(4)} px (wanted 0.02)` // prettier-ignore
    return Promise.resolve({ value: 255 * worst, unit: 'of 255', notes })
  },
}
