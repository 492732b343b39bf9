import { BsplineFit, cubicPoint } from '../spline'
import { newId, POINT, POINT_STRIDE, type Key, type Shape, type Patch, outlineKeys, withOutlineKeys } from '../document'
import { segmentOf, bezierPoints, wholeKeys } from '../evaluation'

/** How far an outline has come to lie from where it was, on one key; pixels of moved space. */
export interface Deviation {
  time: number
  pixels: number
}

/** A changed shape, and how far its outline moved on each key. */
export interface Restructured {
  patches: Patch[]
  deviations: Deviation[]
}

/** A B-spline for a Bezier outline may be off by so much before more points are spent. */
const GOOD_ENOUGH_PIXELS = 0.5
const MOST_SPANS_A_SEGMENT = 4
const SAMPLES_PER_SEGMENT = 24

export function structureChanged(before: Shape, after: Shape): Patch {
  return { kind: 'object', id: before.id, before, after }
}

/**
 * The same outline as a curve of the other kind. A B-spline is a Bezier outline exactly; a Bezier outline becomes the
 * B-spline that comes nearest on all keys, with one to four control points a point, corners as points of full tension.
 */
export function curveKindSet(shape: Shape, curve: Shape['curve']): Restructured {
  if (shape.curve === curve) return { patches: [], deviations: [] }
  if (curve === 'bezier') {
    const keys = wholeKeys(shape).map((key) => ({ ...key, values: bezierPoints(shape, key.values) }))
    const corners = shape.pointIds.map((_, i) =>
      outlineKeys(shape).every((key) => key.values[i * POINT_STRIDE + POINT.tension]! >= 1),
    )
    const after: Shape = { ...withOutlineKeys(shape, keys), curve, corners }
    return { patches: [structureChanged(shape, after)], deviations: keys.map(({ time }) => ({ time, pixels: 0 })) }
  }
  let best: { after: Shape; deviations: Deviation[] } | null = null
  for (let spans = 1; spans <= MOST_SPANS_A_SEGMENT; spans++) {
    best = asBspline(shape, spans)
    if (Math.max(...best.deviations.map(({ pixels }) => pixels)) <= GOOD_ENOUGH_PIXELS) break
  }
  return { patches: [structureChanged(shape, best!.after)], deviations: best!.deviations }
}

const segmentsOf = (shape: Shape) => shape.pointIds.length - (shape.isClosed ? 0 : 1)

function asBspline(shape: Shape, spans: number): { after: Shape; deviations: Deviation[] } {
  const segments = segmentsOf(shape)
  const count = Math.max(shape.isClosed ? 3 : 2, segments * spans + (shape.isClosed ? 0 : 1))
  const tensions = new Float64Array(count)
  shape.corners.forEach((isCorner, i) => isCorner && (tensions[i * spans] = 1))
  return refitted(shape, { count, tensions, parameter: (u) => u * spans, from: (i) => i / spans })
}

/** Another set of control points for the same curve. */
interface Respaced {
  count: number
  tensions: Float64Array
  /** Parameter on the new curve of a parameter on the old one, both counted in points. */
  parameter(u: number): number
  /** Place of a new control point between the old ones, for ids and for what runs along the outline. */
  from(index: number): number
}

/** The shape with other control points, nearest to its outline on every key. */
export function refitted(
  shape: Shape,
  { count, tensions, parameter, from }: Respaced,
): { after: Shape; deviations: Deviation[] } {
  const segments = segmentsOf(shape)
  const old = Array.from({ length: segments * SAMPLES_PER_SEGMENT + 1 }, (_, n) => n / SAMPLES_PER_SEGMENT)
  const fit = new BsplineFit(count, shape.isClosed, tensions, old.map(parameter))
  const deviations: Deviation[] = []
  const places = Array.from({ length: count }, (_, i) => from(i))
  const keys = wholeKeys(shape).map((key): Key => {
    const points = bezierPoints(shape, key.values)
    const samples = old.flatMap((u) => {
      const segment = Math.min(segments - 1, Math.floor(u))
      const [x, y] = cubicPoint(segmentOf(points, segment), u - segment)
      return [x!, y!]
    })
    const control = fit.controlPoints(samples)
    deviations.push({ time: key.time, pixels: fit.deviation(control, samples) })
    const values = new Float64Array(count * POINT_STRIDE)
    places.forEach((u, i) => {
      const at = i * POINT_STRIDE
      alongOutline(key.values, u, values, at)
      values.set([control[2 * i]!, control[2 * i + 1]!, 0, 0, 0, 0], at)
      values[at + POINT.tension] = tensions[i]!
    })
    const { touched: _, ...whole } = key
    return { ...whole, values }
  })
  const pointIds = places.map((u) => (Number.isInteger(u) ? shape.pointIds[u]! : newId()))
  const after: Shape = {
    ...withOutlineKeys(shape, keys),
    curve: 'bspline',
    pointIds,
    corners: places.map(() => false),
    movedPoints: shape.movedPoints.flatMap((group) => {
      const left = pointIds.filter((id) => group.pointIds.includes(id))
      return left.length ? [{ ...group, pointIds: left }] : []
    }),
  }
  return { after, deviations }
}

/** Numbers that run along the outline, between two old points. */
function alongOutline(values: Float64Array, u: number, out: Float64Array, at: number) {
  const count = values.length / POINT_STRIDE
  const i = Math.min(count - 1, Math.floor(u))
  const [a, b] = [i * POINT_STRIDE, ((i + 1) % count) * POINT_STRIDE]
  const t = u - i
  for (let channel = POINT.innerFeather; channel < POINT_STRIDE; channel++) {
    out[at + channel] = values[a + channel]! * (1 - t) + values[b + channel]! * t
  }
}

/** A control point more on a B-spline, at parameter t of segment i. */
export function controlPointInserted(shape: Shape, i: number, t: number): Restructured & { pointId: string } {
  const count = shape.pointIds.length + 1
  const tensions = tensionsOf(shape)
  const { after, deviations } = refitted(shape, {
    count,
    tensions: Float64Array.from([...tensions.slice(0, i + 1), 0, ...tensions.slice(i + 1)]),
    parameter: (u) => (u <= i ? u : u >= i + 1 ? u + 1 : u - i < t ? i + (u - i) / t : i + 1 + (u - i - t) / (1 - t)),
    from: (n) => (n <= i ? n : n === i + 1 ? i + t : n - 1),
  })
  return { patches: [structureChanged(shape, after)], deviations, pointId: after.pointIds[i + 1]! }
}

/** Control points of a B-spline taken away one after the other; the outline stays as near as it can. */
export function controlPointsRemoved(shape: Shape, pointIds: ReadonlySet<string>): Restructured {
  const least = shape.isClosed ? 3 : 2
  const remaining = shape.pointIds.filter((id) => !pointIds.has(id)).length
  if (remaining < least || remaining === shape.pointIds.length) return { patches: [], deviations: [] }
  let now = shape
  const sums = new Map<number, number>()
  for (const id of pointIds) {
    const at = now.pointIds.indexOf(id)
    if (at < 0) continue
    const { after, deviations } = withoutControlPoint(now, at)
    now = after
    for (const { time, pixels } of deviations) sums.set(time, (sums.get(time) ?? 0) + pixels)
  }
  const deviations = [...sums].map(([time, pixels]) => ({ time, pixels }))
  return { patches: [structureChanged(shape, now)], deviations }
}

function withoutControlPoint(shape: Shape, at: number) {
  const before = shape.pointIds.length
  const count = before - 1
  const tensions = Float64Array.from(tensionsOf(shape).filter((_, i) => i !== at))
  const from = (n: number) => (n < at ? n : n + 1)
  if (shape.isClosed) {
    // Two spans round the point become one; of the first point they are the last span and the first.
    const parameter = (u: number) => {
      if (at > 0) return u <= at - 1 ? u : u >= at + 1 ? u - 1 : at - 1 + (u - at + 1) / 2
      return u >= before - 1 ? count - 1 + (u - before + 1) / 2 : u <= 1 ? count - 1 + 0.5 + u / 2 : u - 1
    }
    return refitted(shape, { count, tensions, parameter, from })
  }
  const last = before - 1
  const parameter = (u: number) => {
    if (at === 0) return Math.max(0, u - 1)
    if (at === last) return Math.min(count - 1, u)
    return u <= at - 1 ? u : u >= at + 1 ? u - 1 : at - 1 + (u - at + 1) / 2
  }
  return refitted(shape, { count, tensions, parameter, from })
}

const tensionsOf = (shape: Shape) => {
  const { values } = outlineKeys(shape)[0]!
  return shape.pointIds.map((_, i) => Math.min(1, Math.max(0, values[i * POINT_STRIDE + POINT.tension]!)))
}
