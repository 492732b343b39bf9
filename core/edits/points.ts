import { splitCubic } from '../spline'
import { newId, POINT, POINT_STRIDE, type Shape, type Patch, outlineKeys, withOutlineKeys } from '../document'
import {
  controlPointInserted,
  controlPointsRemoved,
  structureChanged,
  type Deviation,
  type Restructured,
} from './curveKind'
import { refitWithout } from './refit'
import { segmentOf, wholeKeys } from '../evaluation'

/**
 * A point put on segment i at parameter t, on every key. Subdivision (de Casteljau) at one t is linear in the control
 * points, so the outline stays the same at every time, not only on the keys. A B-spline comes as near as it can.
 */
export function pointInserted(shape: Shape, i: number, t: number): Restructured & { pointId: string } {
  if (shape.curve === 'bspline') return controlPointInserted(shape, i, t)
  const pointId = newId()
  const count = shape.pointIds.length
  const keys = wholeKeys(shape).map((key) => {
    const halves = splitCubic(segmentOf(key.values, i), t)
    const values = new Float64Array((count + 1) * POINT_STRIDE)
    const cut = (i + 1) * POINT_STRIDE
    values.set(key.values.subarray(0, cut))
    values.set(key.values.subarray(cut), cut + POINT_STRIDE)
    const next = i + 1 === count ? 0 : cut + POINT_STRIDE
    const a = i * POINT_STRIDE
    const b = ((i + 1) % count) * POINT_STRIDE
    setTangent(values, a + POINT.outX, halves[2]! - halves[0]!, halves[3]! - halves[1]!)
    setTangent(values, next + POINT.inX, halves[12]! - halves[14]!, halves[13]! - halves[15]!)
    values[cut] = halves[6]!
    values[cut + 1] = halves[7]!
    setTangent(values, cut + POINT.inX, halves[4]! - halves[6]!, halves[5]! - halves[7]!)
    setTangent(values, cut + POINT.outX, halves[10]! - halves[8]!, halves[11]! - halves[9]!)
    for (let channel = POINT.innerFeather; channel < POINT_STRIDE; channel++) {
      values[cut + channel] = key.values[a + channel]! * (1 - t) + key.values[b + channel]! * t
    }
    // A key that holds an end of the segment holds the point on it.
    const ends = [shape.pointIds[i]!, shape.pointIds[(i + 1) % count]!]
    const isHeld = key.touched?.some((id) => ends.includes(id))
    return { ...key, values, ...(key.touched && { touched: isHeld ? [...key.touched, pointId] : key.touched }) }
  })
  const after: Shape = {
    ...withOutlineKeys(shape, keys),
    pointIds: shape.pointIds.toSpliced(i + 1, 0, pointId),
    corners: shape.corners.toSpliced(i + 1, 0, false),
    // Between two points that one track moves it moves the new one, too.
    movedPoints: shape.movedPoints.map((group) =>
      [i, (i + 1) % count].every((end) => group.pointIds.includes(shape.pointIds[end]!))
        ? { ...group, pointIds: [...group.pointIds, pointId] }
        : group,
    ),
  }
  return { patches: [structureChanged(shape, after)], deviations: [], pointId }
}

function setTangent(values: Float64Array, at: number, x: number, y: number) {
  values[at] = x
  values[at + 1] = y
}

/**
 * Points taken away on every key, the neighbours' tangents refitted so that the outline stays as near as it can.
 *
 * @returns the patches, and for each key the largest distance in pixels between the old and the new outline; no
 *          patches when fewer than two points would be left
 */
export function pointsRemoved(shape: Shape, pointIds: ReadonlySet<string>): Restructured {
  if (shape.curve === 'bspline') return controlPointsRemoved(shape, pointIds)
  const remaining = shape.pointIds.filter((id) => !pointIds.has(id))
  if (remaining.length < 2 || remaining.length === shape.pointIds.length) return { patches: [], deviations: [] }
  const deviations: Deviation[] = []
  const removed = shape.pointIds.map((id) => pointIds.has(id))
  const keys = wholeKeys(shape).flatMap((key) => {
    const refit = refitWithout(key.values, removed)
    deviations.push({ time: key.time, pixels: refit.deviation })
    const touched = key.touched?.filter((id) => !pointIds.has(id))
    // A key that held nothing else goes with the points.
    return touched?.length === 0 ? [] : [{ ...key, values: refit.values, ...(touched && { touched }) }]
  })
  const movedPoints = shape.movedPoints.flatMap((group) => {
    const left = group.pointIds.filter((id) => !pointIds.has(id))
    return left.length ? [{ ...group, pointIds: left }] : []
  })
  const corners = shape.corners.filter((_, i) => !removed[i])
  const after = { ...withOutlineKeys(shape, keys), pointIds: remaining, corners, movedPoints }
  return { patches: [structureChanged(shape, after)], deviations }
}

/** Points made corners or smooth; a point made smooth gets both tangents on one line on every key. */
export function cornersSet(shape: Shape, pointIds: ReadonlySet<string>, isCorner: boolean): Patch[] {
  const chosen = shape.pointIds.map((id) => pointIds.has(id))
  const keys = isCorner
    ? outlineKeys(shape)
    : wholeKeys(shape).map((key) => ({ ...key, values: smoothed(key.values, chosen) }))
  const after = { ...withOutlineKeys(shape, keys), corners: shape.corners.map((c, i) => (chosen[i] ? isCorner : c)) }
  return [structureChanged(shape, after)]
}

function smoothed(values: Float64Array, chosen: readonly boolean[]): Float64Array {
  const out = values.slice()
  const count = chosen.length
  for (let i = 0; i < count; i++) {
    if (!chosen[i]) continue
    const at = i * POINT_STRIDE
    const before = ((i + count - 1) % count) * POINT_STRIDE
    const after = ((i + 1) % count) * POINT_STRIDE
    let dx = out[at + POINT.outX]! - out[at + POINT.inX]!
    let dy = out[at + POINT.outY]! - out[at + POINT.inY]!
    if (dx === 0 && dy === 0) {
      dx = values[after]! - values[before]!
      dy = values[after + 1]! - values[before + 1]!
    }
    const length = Math.hypot(dx, dy) || 1
    const third = (point: number) => Math.hypot(values[point]! - out[at]!, values[point + 1]! - out[at + 1]!) / 3
    const inLength = Math.hypot(out[at + POINT.inX]!, out[at + POINT.inY]!) || third(before)
    const outLength = Math.hypot(out[at + POINT.outX]!, out[at + POINT.outY]!) || third(after)
    setTangent(out, at + POINT.inX, (-dx / length) * inLength, (-dy / length) * inLength)
    setTangent(out, at + POINT.outX, (dx / length) * outLength, (dy / length) * outLength)
  }
  return out
}
