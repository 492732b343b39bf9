import { fewestKeys } from '@tender-lasso/core/animation'
import { signedArea } from '@tender-lasso/core/geometry'
import type { LayerOperation, ScenePart } from '@tender-lasso/core/raster'
import { flattenOutline } from '@tender-lasso/core/spline'
import {
  CORNER,
  CORNER_STRIDE,
  cubicOutline,
  isWithin,
  orderOver,
  reversedCorners,
  softnessOf,
  type OutlinesOfShot,
  type WrittenOutlines,
} from '../outlines'
import { runsOf } from './runsOf'

/** Plate pixels by which a key that is left out may have been off the straight line between its neighbours. */
const KEY_TOLERANCE = 0.01
const DECIMALS = 3

/**
 * The outlines of a shot at mid-shutter as Lottie (the open Lottie specification, version 1.0): a layer a Part, the nearest first; one unit is a pixel of the plate, y runs down, time 0
 * is the first frame. Frames are keys; those that lie on the way between their neighbours are left out.
 *
 * A Part whose layers only add is its paths, filled. Any other is the whole frame filled, with a mask for each outline, whose mode says what it does to those before.
 */
export function writeLottie(shot: OutlinesOfShot): WrittenOutlines {
  const writer = new Writer(shot)
  const text = JSON.stringify(writer.animation())
  return { text, deviation: writer.deviation + KEY_TOLERANCE + Math.SQRT1_2 * 10 ** -DECIMALS, lost: [...writer.lost] }
}

/** An outline on one frame, always the same way round. */
interface Placed {
  operation: LayerOperation
  opacity: number
  corners: number[]
  isReversed: boolean
}

/** A Part on some frames one after the other, all made of as many outlines that do the same. */
interface Run {
  first: number
  outlines: Placed[][]
  opacity: number[]
}

class Writer {
  deviation = 0
  readonly lost = new Set<string>()

  constructor(private readonly shot: OutlinesOfShot) {}

  animation() {
    const { title, width, height, pixelAspect, rate, frames } = this.shot
    const orders = frames.map(({ scene }) => scene.parts.map(({ id }) => id))
    const ids = orderOver(orders)
    if (orders.some((order) => !isWithin(order, ids))) this.lost.add('changes of depth')
    const layers = ids.flatMap((id) => this.runsOf(id).map((run) => this.layer(id, run)))
    return {
      v: '5.7.0',
      nm: title,
      fr: rate.numerator / rate.denominator,
      ip: 0,
      op: frames.length,
      w: Math.round(width * pixelAspect),
      h: height,
      ddd: 0,
      assets: [],
      layers: layers.map((layer, i) => ({ ...layer, ind: i + 1 })),
    }
  }

  private runsOf(id: string): Run[] {
    const runs: Run[] = []
    let last: { run: Run; made: string } | null = null
    this.shot.frames.forEach(({ scene }, at) => {
      const part = scene.parts.find((one) => one.id === id)
      const placed = part ? this.placed(part) : []
      if (placed.length === 0) return (last = null)
      softnessOf(part!).forEach((words) => this.lost.add(words))
      const made = placed.map(({ operation }) => operation).join()
      if (last?.made !== made) {
        last = { run: { first: at, outlines: [], opacity: [] }, made }
        runs.push(last.run)
      }
      last.run.outlines.push(placed)
      last.run.opacity.push(part!.finish?.opacity ?? 1)
      return
    })
    return runs
  }

  private placed({ groups }: ScenePart): Placed[] {
    return groups.flatMap(({ operation = 'add', opacity, outlinesAt }, g) =>
      outlinesAt(0.5).map((outline) => {
        const { corners, deviation } = cubicOutline(outline)
        this.deviation = Math.max(this.deviation, deviation)
        const isReversed = signedArea(flattenOutline(outline, 0.5)) < 0
        return { operation: g === 0 ? 'add' : operation, opacity, isReversed, corners: isReversed ? reversedCorners(corners) : corners } // prettier-ignore
      }),
    )
  }

  private layer(id: string, { first, outlines, opacity }: Run) {
    const { name, colour } = this.shot.nameOf(id)
    const { width, height, pixelAspect } = this.shot
    const tracks = outlines[0]!.map((_, n) => outlines.map((frame) => frame[n]!))
    const isPlain = tracks.every((track) => track.every(({ operation, opacity: own }) => operation === 'add' && own === 1)) // prettier-ignore
    const paths = tracks.map((track) => pathKeys(track, first))
    const fill = { ty: 'fl', c: constant([...rgbOf(colour), 1]), o: constant(100), r: 1 }
    const transform = { ty: 'tr', p: constant([0, 0]), a: constant([0, 0]), s: constant([100, 100]), r: constant(0), o: constant(100) } // prettier-ignore
    const whole = { ty: 'rc', d: 1, s: constant([width, height]), p: constant([width / 2, height / 2]), r: constant(0) }
    const shapes = isPlain ? paths.map((ks) => ({ ty: 'sh', ks })) : [whole]
    return {
      ddd: 0,
      ty: 4,
      nm: name,
      sr: 1,
      ks: {
        o: scalarKeys(opacity, first),
        r: constant(0),
        p: constant([0, 0, 0]),
        a: constant([0, 0, 0]),
        s: constant([100 * pixelAspect, 100, 100]),
      },
      ao: 0,
      ...(!isPlain && {
        hasMask: true,
        masksProperties: tracks.map((track, n) => ({
          inv: false,
          mode: MODES[track[0]!.operation],
          pt: paths[n],
          o: scalarKeys(track.map(({ opacity: own }) => own), first), // prettier-ignore
          x: constant(0),
          nm: `${name} ${n + 1}`,
        })),
      }),
      shapes: [{ ty: 'gr', nm: name, it: [...shapes, fill, transform] }],
      ip: first,
      op: first + outlines.length,
      st: 0,
      bm: 0,
    }
  }
}

const MODES: Record<LayerOperation, string> = { add: 'a', subtract: 's', intersect: 'i', difference: 'f' }

const constant = (k: unknown) => ({ a: 0, k })
/** From one key to the next in a straight line. */
const STRAIGHT = { o: { x: [0], y: [0] }, i: { x: [1], y: [1] } }

/** A share over time as per cent. */
function scalarKeys(shares: readonly number[], first: number) {
  const keys = fewestKeys(shares.map((share, i) => ({ time: first + i, values: [100 * share] })), 1e-3) // prettier-ignore
  if (keys.length === 1) return constant(rounded(keys[0]!.values[0]!))
  return { a: 1, k: keys.map(({ time, values }) => ({ t: time, s: values.map(rounded), ...STRAIGHT })) }
}

/**
 * A path over time: straight ways between keys while it has as many corners, else each frame holds until the next. Some players take the number of corners from the
 * first key: all keys have as many, the last ones of some on the spot.
 */
function pathKeys(track: readonly Placed[], first: number) {
  const most = Math.max(...track.map(({ corners }) => corners.length))
  const runs = runsOf(track, (a, b) => a.corners.length === b.corners.length && a.isReversed === b.isReversed)
  let time = first
  const keys = runs.flatMap((run, r) => {
    const kept = fewestKeys(run.map(({ corners }, i) => ({ time: time + i, values: corners })), KEY_TOLERANCE) // prettier-ignore
    time += run.length
    return kept.map(({ time: t, values }, i) => {
      const isHeld = i === kept.length - 1 && r < runs.length - 1
      return { t, s: [bezierOf(filledUp(values, most))], ...(isHeld ? { h: 1 } : STRAIGHT) }
    })
  })
  return keys.length === 1 ? constant(keys[0]!.s[0]) : { a: 1, k: keys }
}

/** The same closed outline with more corners, which lie where it begins. */
function filledUp(corners: readonly number[], length: number): readonly number[] {
  const [x, y] = [corners[0]!, corners[1]!]
  const missing = (length - corners.length) / CORNER_STRIDE
  return missing === 0 ? corners : [...corners, ...Array.from({ length: missing }, () => [x, y, x, y, x, y]).flat()]
}

/** Anchors, and control points relative to them. */
function bezierOf(corners: readonly number[]) {
  const count = corners.length / CORNER_STRIDE
  const at = (corner: number, place: number) => {
    const i = ((corner + count) % count) * CORNER_STRIDE + place
    return [corners[i]!, corners[i + 1]!] as const
  }
  const relative = (corner: number, [x, y]: readonly [number, number]) => {
    const [ax, ay] = at(corner, CORNER.anchor)
    return [rounded(x - ax), rounded(y - ay)]
  }
  const each = <T>(make: (corner: number) => T) => Array.from({ length: count }, (_, corner) => make(corner))
  return {
    c: true,
    v: each((corner) => at(corner, CORNER.anchor).map(rounded)),
    o: each((corner) => relative(corner, at(corner, CORNER.leaving))),
    i: each((corner) => relative(corner, at(corner - 1, CORNER.arriving))),
  }
}

const rounded = (value: number): number => Number(value.toFixed(DECIMALS)) + 0
const rgbOf = (hex: string) => [1, 3, 5].map((at) => rounded(parseInt(hex.slice(at, at + 2), 16) / 255))
