import { cubicLength, splitCubic } from '../spline'
import { newId, POINT, POINT_STRIDE, type Key, type Shape, type Patch, outlineKeys, withOutlineKeys } from '../document'
import { segmentOf, wholeKeys } from '../evaluation'
import { structureChanged } from './curveKind'

/** Points of a shape in another order, on every key. `order[i]`: which point comes i-th. */
function reordered(shape: Shape, order: readonly number[], point: (values: Float64Array) => Float64Array): Shape {
  const keys = outlineKeys(shape).map((key) => {
    const values = new Float64Array(key.values.length)
    order.forEach((from, to) =>
      values.set(point(key.values.slice(from * POINT_STRIDE, (from + 1) * POINT_STRIDE)), to * POINT_STRIDE),
    )
    return { ...key, values }
  })
  return {
    ...withOutlineKeys(shape, keys),
    pointIds: order.map((i) => shape.pointIds[i]!),
    corners: order.map((i) => shape.corners[i]!),
  }
}

/** The outline run through the other way round; the first point stays the first. */
export function directionReversed(shape: Shape): Patch[] {
  const count = shape.pointIds.length
  const order = shape.pointIds.map((_, i) => (shape.isClosed ? (count - i) % count : count - 1 - i))
  const swapped = (p: Float64Array) => {
    const [inX, inY, outX, outY] = p.subarray(POINT.inX, POINT.inX + 4)
    p.set([outX!, outY!, inX!, inY!], POINT.inX)
    return p
  }
  return [structureChanged(shape, reordered(shape, order, swapped))]
}

/** The closed outline counted from another of its points. */
export function firstPointSet(shape: Shape, pointId: string): Patch[] {
  const first = shape.pointIds.indexOf(pointId)
  if (first <= 0 || !shape.isClosed) return []
  const order = shape.pointIds.map((_, i) => (first + i) % shape.pointIds.length)
  return [
    structureChanged(
      shape,
      reordered(shape, order, (p) => p),
    ),
  ]
}

/**
 * A closed outline opened to a stroke between its last point and its first, or a stroke closed.
 *
 * @param width  of the stroke where its points say none, pixels
 */
export function closedSet(shape: Shape, isClosed: boolean, width: number): Patch[] {
  if (shape.isClosed === isClosed) return []
  const isBare = outlineKeys(shape).every(({ values }) =>
    values.every((v, i) => i % POINT_STRIDE !== POINT.width || v === 0),
  )
  const widened = (values: Float64Array) => values.map((v, i) => (i % POINT_STRIDE === POINT.width ? width : v))
  const keys =
    isBare && !isClosed
      ? outlineKeys(shape).map((key) => ({ ...key, values: widened(key.values) }))
      : outlineKeys(shape)
  return [structureChanged(shape, { ...withOutlineKeys(shape, keys), isClosed })]
}

/** How outlines run between keys: by coordinates, or by their turn and size. */
export function interpolateBySet(shape: Shape, interpolateBy: Shape['interpolateBy']): Patch[] {
  return shape.interpolateBy === interpolateBy ? [] : [structureChanged(shape, { ...shape, interpolateBy })]
}

/**
 * All tangents as even as the places of the points allow, on every key: along the chord of the neighbours, a third of the
 * way to each times `amount`. 0 makes the outline a polygon of corners, 1 is as round as a smooth curve through the points.
 */
export function roundnessSet(shape: Shape, amount: number): Patch[] {
  const count = shape.pointIds.length
  const keys = wholeKeys(shape).map((key) => {
    const values = key.values.slice()
    for (let i = 0; i < count; i++) {
      const at = i * POINT_STRIDE
      const before = ((i + count - 1) % count) * POINT_STRIDE
      const after = ((i + 1) % count) * POINT_STRIDE
      const [dx, dy] = [values[after]! - values[before]!, values[after + 1]! - values[before + 1]!]
      const length = Math.hypot(dx, dy) || 1
      const third = (other: number) =>
        (amount * Math.hypot(values[other]! - values[at]!, values[other + 1]! - values[at + 1]!)) / 3
      const [back, on] = [third(before), third(after)]
      values.set([(-dx / length) * back, (-dy / length) * back, (dx / length) * on, (dy / length) * on], at + POINT.inX)
    }
    return { ...key, values }
  })
  return [structureChanged(shape, { ...withOutlineKeys(shape, keys), corners: shape.corners.map(() => amount === 0) })]
}

/** Of a leg, no more than this share is used up by a round corner. */
const MOST_OF_LEG = 0.49

/**
 * Points made round corners of a radius, on every key: each gives way to two, between them an arc whose tangents go on
 * from the legs. A leg that is too short for the radius gets the largest that fits.
 *
 * The tangent points of a circle of radius r in a corner of angle a lie r / tan(a / 2) from it; a cubic is an arc of
 * angle p with handles of (4/3) tan(p / 4) r (Goldapp, "Approximation of circular arcs by cubic polynomials", 1991).
 */
export function cornersRounded(
  shape: Shape,
  pointIds: ReadonlySet<string>,
  radius: number,
): { patches: Patch[]; pointIds: string[] } {
  const count = shape.pointIds.length
  const isEnd = (i: number) => !shape.isClosed && (i === 0 || i === count - 1)
  const chosen = shape.pointIds.map((id, i) => pointIds.has(id) && !isEnd(i))
  if (!chosen.includes(true) || shape.curve === 'bspline') return { patches: [], pointIds: [] }
  const second = shape.pointIds.map(() => newId())
  const keys = wholeKeys(shape).map((key) => ({ ...key, values: roundedValues(key, chosen, radius) }))
  const after: Shape = {
    ...withOutlineKeys(
      shape,
      keys.map(({ touched: _, ...key }): Key => key),
    ),
    pointIds: shape.pointIds.flatMap((id, i) => (chosen[i] ? [id, second[i]!] : [id])),
    corners: shape.corners.flatMap((isCorner, i) => (chosen[i] ? [false, false] : [isCorner])),
    movedPoints: shape.movedPoints.map((group) => ({
      ...group,
      pointIds: group.pointIds.flatMap((id) => {
        const i = shape.pointIds.indexOf(id)
        return chosen[i] ? [id, second[i]!] : [id]
      }),
    })),
  }
  const rounded = shape.pointIds.flatMap((id, i) => (chosen[i] ? [id, second[i]!] : []))
  return { patches: [structureChanged(shape, after)], pointIds: rounded }
}

function roundedValues({ values }: Key, chosen: readonly boolean[], radius: number): Float64Array {
  const count = chosen.length
  const legs = chosen.map((_, i) => segmentOf(values, i))
  const lengths = legs.map(cubicLength)
  const cutAt = chosen.map((isChosen, i) => {
    if (!isChosen) return null
    const [before, after] = [legs[(i + count - 1) % count]!, legs[i]!]
    const [[ax, ay], [bx, by]] = [startDirection(reversedCubic(before)), startDirection(after)]
    const angle = Math.abs(Math.atan2(ax * by - ay * bx, ax * bx + ay * by))
    const most = MOST_OF_LEG * Math.min(lengths[(i + count - 1) % count]!, lengths[i]!)
    const distance = Math.min(most, radius / Math.max(1e-6, Math.tan(angle / 2)))
    return { distance, radius: distance * Math.tan(angle / 2), arc: Math.PI - angle }
  })
  // Each leg cut at the distances of the corners at its two ends.
  const cut = legs.map((leg, i) => {
    const [from, to] = [cutAt[i]?.distance ?? 0, cutAt[(i + 1) % count]?.distance ?? 0]
    const [a, b] = [parameterAt(leg, from), 1 - parameterAt(reversedCubic(leg), to)]
    const tail = a > 0 ? splitCubic(leg, a).slice(8) : leg
    return b < 1 ? splitCubic(tail, (b - a) / (1 - a)).slice(0, 8) : tail
  })
  const out: number[] = []
  for (let i = 0; i < count; i++) {
    const point = Array.from(values.subarray(i * POINT_STRIDE, (i + 1) * POINT_STRIDE))
    const [arriving, leaving] = [cut[(i + count - 1) % count]!, cut[i]!]
    const round = cutAt[i]
    const handle = round ? (4 / 3) * Math.tan(round.arc / 4) * round.radius : 0
    const arrivingTangent = [arriving[4]! - arriving[6]!, arriving[5]! - arriving[7]!] as const
    const leavingTangent = [leaving[2]! - leaving[0]!, leaving[3]! - leaving[1]!] as const
    if (!round) {
      out.push(point[0]!, point[1]!, ...arrivingTangent, ...leavingTangent, ...point.slice(POINT.innerFeather))
      continue
    }
    const on = scaledTo(startDirection(reversedCubic(arriving)), -handle)
    const back = scaledTo(startDirection(leaving), -handle)
    out.push(arriving[6]!, arriving[7]!, ...arrivingTangent, ...on, ...point.slice(POINT.innerFeather))
    out.push(leaving[0]!, leaving[1]!, ...back, ...leavingTangent, ...point.slice(POINT.innerFeather))
  }
  return Float64Array.from(out)
}

/** Direction in which a cubic starts: to the first of its points that lies elsewhere. */
function startDirection(c: Float64Array): [number, number] {
  for (const k of [2, 4, 6]) {
    const [dx, dy] = [c[k]! - c[0]!, c[k + 1]! - c[1]!]
    if (Math.hypot(dx, dy) > 1e-9) return [dx, dy]
  }
  return [0, 0]
}

function scaledTo(v: ArrayLike<number>, length: number): [number, number] {
  const own = Math.hypot(v[0]!, v[1]!) || 1
  return [(v[0]! / own) * length, (v[1]! / own) * length]
}

const reversedCubic = (c: Float64Array) => Float64Array.of(c[6]!, c[7]!, c[4]!, c[5]!, c[2]!, c[3]!, c[0]!, c[1]!)

/** Parameter at which the arc length from the start is `distance`, by halving. */
function parameterAt(cubic: Float64Array, distance: number): number {
  if (distance <= 0) return 0
  let [low, high] = [0, 1]
  for (let round = 0; round < 40; round++) {
    const middle = (low + high) / 2
    if (cubicLength(splitCubic(cubic, middle).slice(0, 8)) < distance) low = middle
    else high = middle
  }
  return (low + high) / 2
}
