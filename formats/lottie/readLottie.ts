import { z } from 'zod'
import { fewestKeys } from '@tender-lasso/core/animation'
import type { LayerOperation } from '@tender-lasso/core/raster'
import { FormatError } from '../errors'
import { runsOf } from './runsOf'
import { animated, isStill, number, valueAt, type Animated } from './keyframes'

const LARGEST_CHARACTERS = 64_000_000
const MOST_LAYERS = 2000
const MOST_OUTLINES = 3000
const MOST_POINTS = 4096
const MOST_FRAMES = 20_000
const DEEPEST = 16
/** Pixels by which a frame that is no key may lie beside the straight way. */
const KEY_TOLERANCE = 0.01

/** Numbers of a point: place, arriving and leaving tangent relative to it. */
export const LOTTIE_POINT_STRIDE = 6

export interface ReadKey {
  /** From 0. */
  frame: number
  interpolation: 'hold' | 'linear' | 'ease'
  /** LOTTIE_POINT_STRIDE numbers a point. */
  values: number[]
}

/** An outline that has as many points all the time. */
export interface ReadOutline {
  name: string
  operation: LayerOperation
  isClosed: boolean
  /** Frames on which it is there, from 0. */
  life: [number, number]
  keys: ReadKey[]
  opacity: { frame: number; value: number }[]
}

export interface ReadLottie {
  name: string
  framesPerSecond: number
  frames: number
  /** The nearest first. */
  layers: { name: string; outlines: ReadOutline[]; opacity: { frame: number; value: number }[] }[]
  /** What was passed over, in words. */
  lost: string[]
}

const place = z.tuple([number, number]).rest(number)
const bezier = z
  .looseObject({
    c: z.boolean().optional(),
    v: z.array(place).max(MOST_POINTS),
    i: z.array(place).max(MOST_POINTS),
    o: z.array(place).max(MOST_POINTS),
  })
  .refine(({ v, i, o }) => v.length === i.length && v.length === o.length, 'a path has tangents for each of its points')
type Bezier = z.infer<typeof bezier>

const path = animated(bezier)
const numbers = animated(z.union([number.transform((one) => [one]), z.array(number).min(1)]))
const apart = z.looseObject({ s: z.literal(true), x: numbers, y: numbers })
const transform = z.looseObject({
  a: numbers.optional(),
  p: z.union([apart, numbers]).optional(),
  s: numbers.optional(),
  r: numbers.optional(),
  o: numbers.optional(),
  sk: numbers.optional(),
})
type Transform = z.infer<typeof transform>

const mask = z.looseObject({
  nm: z.string().optional(),
  mode: z.string(),
  inv: z.boolean().optional(),
  pt: path,
  o: numbers.optional(),
})
const layer = z.looseObject({
  ty: z.number(),
  nm: z.string().optional(),
  ip: number,
  op: number,
  ks: transform.optional(),
  parent: z.number().optional(),
  masksProperties: z.array(mask).max(MOST_OUTLINES).optional(),
  shapes: z.array(z.unknown()).max(MOST_OUTLINES).optional(),
})
const animation = z.looseObject({
  nm: z.string().optional(),
  fr: z.number().positive().max(1000),
  ip: number,
  op: number,
  layers: z.array(layer).max(MOST_LAYERS),
})

const OPERATIONS: Readonly<Record<string, LayerOperation>> = {
  a: 'add',
  s: 'subtract',
  i: 'intersect',
  f: 'difference',
}

/**
 * Outlines of a Lottie animation: paths of its shape layers or, where a layer has them, its masks. Keys are kept where the way between them is one of ours, and frames become keys elsewhere: under
 * transforms that move, other easings, times between frames.
 *
 * @throws FormatError `not-lottie` with the first thing that is wrong, `too-large`, or `empty`
 */
export function readLottie(text: string): ReadLottie {
  if (text.length > LARGEST_CHARACTERS) throw new FormatError('too-large', 'The Lottie file is larger than 64 MB')
  let raw: unknown
  try {
    raw = JSON.parse(text)
  } catch {
    throw new FormatError('not-lottie', 'This is no Lottie file: its JSON is broken')
  }
  const { nm, fr, ip, op, layers } = parsed(animation, raw, '')
  const frames = Math.ceil(op - ip)
  if (!(frames > 0) || frames > MOST_FRAMES) throw new FormatError('too-large', `A Lottie file has 1 to ${MOST_FRAMES} frames, and this one ${frames}`) // prettier-ignore
  const reader = new Reader(ip, frames)
  const read = layers.map((one, n) => reader.layer(one, n + 1)).filter(({ outlines }) => outlines.length > 0)
  if (read.length === 0) throw new FormatError('empty', 'The Lottie file has no path in a shape layer')
  return { name: nm ?? 'Lottie', framesPerSecond: fr, frames, layers: read, lost: [...reader.lost] }
}

function parsed<T>(schema: z.ZodType<T>, raw: unknown, where: string): T {
  const { data, error } = schema.safeParse(raw)
  if (data !== undefined) return data
  const issue = error!.issues[0]!
  const at = [where, ...issue.path].filter((part) => part !== '').join('.')
  throw new FormatError('not-lottie', `This is no Lottie file that can be read: ${at || 'it'} (${issue.message})`)
}

/** Moves a place: x' = a x + c y + e, y' = b x + d y + f. */
type Affine = readonly [number, number, number, number, number, number]
type AffineAt = (time: number) => Affine

/** A path with all that moves it. */
interface Found {
  name: string
  operation: LayerOperation
  path: Animated<Bezier>
  opacity: Animated<number[]> | undefined
}

class Reader {
  readonly lost = new Set<string>()
  private outlines = 0

  /** @param start  time of the first frame */
  constructor(
    private readonly start: number,
    private readonly frames: number,
  ) {}

  layer({ ty, nm, ip, op, ks, parent, masksProperties, shapes }: z.infer<typeof layer>, n: number) {
    const name = nm?.trim() || `layer ${n}`
    const nothing = { name, outlines: [], opacity: [] }
    if (ty !== 4) {
      this.lost.add('layers that are no shapes')
      return nothing
    }
    if (parent !== undefined) this.lost.add('parents of layers')
    const first = Math.max(0, Math.ceil(ip - this.start))
    const last = Math.min(this.frames, Math.ceil(op - this.start)) - 1
    if (last < first) return nothing
    const outer = ks ? [ks] : []
    const outlines = masksProperties?.length
      ? masksProperties.flatMap((one) => this.mask(one, outer, [first, last]))
      : this.shapes(shapes ?? [], outer, [first, last], name, 0)
    return { name, outlines, opacity: this.shares(ks?.o, [first, last]) }
  }

  private mask({ nm, mode, inv, pt, o }: z.infer<typeof mask>, outer: Transform[], life: [number, number]) {
    if (mode === 'n') return []
    const operation = OPERATIONS[mode]
    if (!operation || inv) {
      this.lost.add(inv ? 'inverted masks' : `masks of mode ${mode}`)
      return []
    }
    return this.outline({ name: nm ?? 'mask', operation, path: pt, opacity: o }, outer, life)
  }

  private shapes(
    items: readonly unknown[],
    outer: Transform[],
    life: [number, number],
    name: string,
    depth: number,
  ): ReadOutline[] {
    // prettier-ignore
    if (depth > DEEPEST) throw new FormatError('not-lottie', `This is no Lottie file that can be read: groups are nested more than ${DEEPEST} deep`) // prettier-ignore
    return items.flatMap((item) => {
      const { ty, nm, it, hd } = parsed(shapeItem, item, name)
      if (hd) return []
      if (ty === 'gr') {
        const inner = it ?? []
        const moved = inner.flatMap((one) => (parsed(shapeItem, one, name).ty === 'tr' ? [parsed(transform, one, name)] : [])) // prettier-ignore
        return this.shapes(inner, [...outer, ...moved], life, name, depth + 1)
      }
      if (ty === 'sh') {
        const { ks } = parsed(z.looseObject({ ks: path }), item, name)
        return this.outline({ name: nm ?? 'path', operation: 'add', path: ks, opacity: undefined }, outer, life)
      }
      if (!PASSED_OVER.has(ty)) this.lost.add(KINDS[ty] ?? `shapes of kind ${ty}`)
      return []
    })
  }

  /** One outline for each stretch on which it has as many points. */
  private outline(
    { name, operation, path: of, opacity }: Found,
    outer: Transform[],
    life: [number, number],
  ): ReadOutline[] {
    // prettier-ignore
    if (outer.some(({ sk }) => sk && !(isStill(sk) && sk.keys[0]!.value[0] === 0))) this.lost.add('skew')
    const map = affineOf(outer)
    const isKept = outer.every(isStillTransform) && of.keys.every(({ time, easing }) => typeof easing === 'string' && Number.isInteger(time - this.start)) // prettier-ignore
    const keys = isKept && haveWays(of) ? this.keptKeys(of, map) : this.bakedKeys(of, map, life)
    const runs = runsOf(keys, haveAsMany)
    return runs.flatMap((run, r) => {
      const from = r === 0 ? life[0] : Math.max(life[0], run[0]!.frame)
      const next = runs[r + 1]
      const to = next ? Math.min(life[1], next[0]!.frame - 1) : life[1]
      if (to < from || run[0]!.values.length < 2 * LOTTIE_POINT_STRIDE) return []
      if (++this.outlines > MOST_OUTLINES) throw new FormatError('too-large', `The Lottie file has more than ${MOST_OUTLINES} outlines`) // prettier-ignore
      const isClosed = of.keys[0]!.value.c ?? true
      return [{ name, operation, isClosed, life: [from, to], keys: run, opacity: this.shares(opacity, [from, to]) }]
    })
  }

  private keptKeys({ keys }: Animated<Bezier>, map: AffineAt): ReadKey[] {
    return keys.map(({ time, value, easing }) => ({
      frame: time - this.start,
      interpolation: easing as ReadKey['interpolation'],
      values: mapped(value, map(time)),
    }))
  }

  /** Every frame, but for those on the straight way between others. */
  private bakedKeys(of: Animated<Bezier>, map: AffineAt, [first, last]: [number, number]): ReadKey[] {
    const samples = Array.from({ length: last - first + 1 }, (_, i) => {
      const time = this.start + first + i
      return { time: first + i, values: mapped(valueAt(of, time, mixedPaths), map(time)) }
    })
    return runsOf(samples, haveAsMany).flatMap((run) =>
      fewestKeys(run, KEY_TOLERANCE).map(({ time, values }) => ({
        frame: time,
        interpolation: 'linear' as const,
        values,
      })),
    )
  }

  private shares(of: Animated<number[]> | undefined, [first, last]: [number, number]) {
    if (!of) return [{ frame: first, value: 1 }]
    const samples = Array.from({ length: last - first + 1 }, (_, i) => ({
      time: first + i,
      values: [Math.min(1, Math.max(0, valueAt(of, this.start + first + i, mixedNumbers)[0]! / 100))],
    }))
    return fewestKeys(samples, 1e-4).map(({ time, values }) => ({ frame: time, value: values[0]! }))
  }
}

const shapeItem = z.looseObject({
  ty: z.string(),
  nm: z.string().optional(),
  hd: z.boolean().optional(),
  it: z.array(z.unknown()).max(MOST_OUTLINES).optional(),
})
/** How shapes look, and what moves a group. */
const PASSED_OVER = new Set(['fl', 'st', 'gf', 'gs', 'tr', 'no'])
const KINDS: Readonly<Record<string, string>> = {
  rc: 'rectangles',
  el: 'ellipses',
  sr: 'stars',
  tm: 'trimmed paths',
  rp: 'repeaters',
  mm: 'merged paths',
  rd: 'rounded corners',
}

/** Two of a path have as many points. */
const haveAsMany = (a: { values: number[] }, b: { values: number[] }) => a.values.length === b.values.length

/** A way between two keys is only one of ours where both have as many points. */
const haveWays = ({ keys }: Animated<Bezier>) =>
  keys.every(({ value, easing }, n) => easing === 'hold' || !keys[n + 1] || keys[n + 1]!.value.v.length === value.v.length) // prettier-ignore

const propertiesOf = ({ a, p, s, r }: Transform): Animated<number[]>[] => {
  const position = p === undefined ? [] : 'keys' in p ? [p as Animated<number[]>] : [(p as z.infer<typeof apart>).x, (p as z.infer<typeof apart>).y] // prettier-ignore
  return [a, s, r, ...position].filter((one): one is Animated<number[]> => one !== undefined)
}
const isStillTransform = (one: Transform) => propertiesOf(one).every(isStill)

function affineOf(outer: readonly Transform[]): AffineAt {
  return (time) => outer.map((one) => affineAt(one, time)).reduce(product, [1, 0, 0, 1, 0, 0] as Affine)
}

/** What stands farther outside comes first. */
const product = ([a, b, c, d, e, f]: Affine, [A, B, C, D, E, F]: Affine): Affine => [
  a * A + c * B,
  b * A + d * B,
  a * C + c * D,
  b * C + d * D,
  a * E + c * F + e,
  b * E + d * F + f,
]

function affineAt({ a, p, s, r }: Transform, time: number): Affine {
  const at = (of: Animated<number[]> | undefined, usual: number[]) => (of ? valueAt(of, time, mixedNumbers) : usual)
  const [ax = 0, ay = 0] = at(a, [0, 0])
  const [px = 0, py = 0] = p && !('keys' in p) ? [at(p.x as Animated<number[]>, [0])[0]!, at(p.y as Animated<number[]>, [0])[0]!] : at(p as Animated<number[]> | undefined, [0, 0]) // prettier-ignore
  const [sx = 100, sy = 100] = at(s, [100, 100])
  const turn = (at(r, [0])[0]! * Math.PI) / 180
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)]
  const [A, B, C, D] = [(cos * sx) / 100, (sin * sx) / 100, (-sin * sy) / 100, (cos * sy) / 100]
  return [A, B, C, D, px - A * ax - C * ay, py - B * ax - D * ay]
}

const mixedNumbers = (a: number[], b: number[], share: number) => a.map((value, i) => value + ((b[i] ?? value) - value) * share) // prettier-ignore

function mixedPaths(a: Bezier, b: Bezier, share: number): Bezier {
  if (a.v.length !== b.v.length) return a
  const mixed = (from: Bezier['v'], to: Bezier['v']) => from.map((one, n) => mixedNumbers(one, to[n]!, share) as Bezier['v'][number]) // prettier-ignore
  return { ...a, v: mixed(a.v, b.v), i: mixed(a.i, b.i), o: mixed(a.o, b.o) }
}

function mapped({ v, i, o }: Bezier, [a, b, c, d, e, f]: Affine): number[] {
  return v.flatMap(([x, y], n) => {
    const relative = ([u, w]: readonly number[]) => [a * u! + c * w!, b * u! + d * w!]
    return [a * x + c * y + e, b * x + d * y + f, ...relative(i[n]!), ...relative(o[n]!)]
  })
}
