import { identity, windingNumber, type Matrix3 } from '../geometry'
import {
  betweenLines,
  flattenOutline,
  outlineOfPolygon,
  type HomogeneousOutline,
  SEGMENT_STRIDE,
  rationalPoint,
} from '../spline'
import { numberAt } from './channelValues'
import { edgeOn } from './edge'
import { outlineAt } from './outlines'
import { hasPointFocus, widestFocus, widestInnerFeather } from './pointWidths'
import { findObject, type RotoDocument, type Seam, type Shape, otherShape, seamsOf, sharedSegments } from '../document'

/** Pixels that a matte runs on beneath its neighbour beyond what the feathers of both need. */
const BEYOND_FEATHER = 1.5

/** Pixels by which it begins on its own side of the line, so that no edge is left between the two pieces. */
const OVERLAP = 0.5

export interface SeamView {
  frame: number
  /** Where shapes stand: smaller is nearer. Of one Part all alike. */
  depthOf(shape: Shape): number
  timeOf(shape: Shape): number
  /** What is hidden or does not live cuts nothing, and nothing runs on beneath it. */
  isSeen(shape: Shape): boolean
  toTarget: Matrix3
  /** Target pixels per plate pixel. */
  scale: number
}

/**
 * What a shape covers beneath its neighbours along its seams, beside its own area: from the shared line on into the
 * neighbour, as far as the neighbour's soft edge needs to be full behind. The nearer one cuts it off with its own matte, so
 * the two add up to one along the seam at every moment.
 */
export function areasWithUnderlap(document: RotoDocument, shape: Shape, view: SeamView): HomogeneousOutline[] {
  return seamsOf(document, shape.id).flatMap((seam) => {
    const other = otherShape(document, seam, shape)
    if (!other || !view.isSeen(other) || !runsBeneath(shape, other, seam, view)) return []
    return beneath(document, seam, shape, other, view)
  })
}

/** The farther one runs on beneath the nearer; within a Part, where neither is, the borrower beneath the owner. */
function runsBeneath(shape: Shape, other: Shape, seam: Seam, { depthOf }: SeamView): boolean {
  const [own, its] = [depthOf(shape), depthOf(other)]
  return own === its ? seam.borrowerId === shape.id : own > its
}

function beneath(document: RotoDocument, seam: Seam, shape: Shape, other: Shape, view: SeamView): HomogeneousOutline[] {
  const { frame, timeOf, toTarget, scale } = view
  const lines = seamLines(document, seam, view)
  if (lines.length === 0) return []
  const area = flattenOutline(outlineAt(document, other, timeOf(other), toTarget, timeOf), 0.1)
  const [own, its] = [edgeOn(shape, frame).edge, edgeOn(other, frame).edge]
  const feather =
    widestInnerFeather(other, timeOf(other), its.innerFeather) +
    widestInnerFeather(shape, timeOf(shape), own.innerFeather)
  const shrunk = Math.max(0, -its.grow) + Math.max(0, -own.grow)
  const blurred = blurReach(document, shape, timeOf(shape), frame) + blurReach(document, other, timeOf(other), frame)
  const depth = (feather + shrunk + blurred) * scale + BEYOND_FEATHER
  return lines
    .flatMap((line) => {
      const side = sideOf(line, area)
      return betweenLines(movedAcross(line, -side * OVERLAP), offsetInto(line, area, side * depth))
    })
    .map((polygon) => outlineOfPolygon(polygon, identity()))
}

/** A blur that varies is made in two steps, and carries a little farther than the one that is made in one. */
const VARIED_SIGMAS = 4.5

/** How far the blur of a shape and of its Part carries anything, plate pixels: three times the sigma of both. */
function blurReach(document: RotoDocument, shape: Shape, time: number, frame: number): number {
  const part = findObject(document, 'part', shape.partId)
  const blur = part ? numberAt(part, 'blur', frame) : 0
  const focus = widestFocus(shape, time, numberAt(shape, 'focus', frame))
  const sigma = Math.hypot(blur, focus)
  return sigma === 0 ? 0 : (hasPointFocus(shape) ? VARIED_SIGMAS : 3) * sigma + 1
}

/** The shared stretches of a Seam, flattened, each x0, y0, x1, y1 ... in target pixels. */
export function seamLines(
  document: RotoDocument,
  seam: Seam,
  { timeOf, toTarget }: Pick<SeamView, 'timeOf' | 'toTarget'>,
): number[][] {
  const [owner, borrower] = [
    findObject(document, 'shape', seam.ownerId),
    findObject(document, 'shape', seam.borrowerId),
  ]
  if (!owner || !borrower) return []
  const outline = outlineAt(document, borrower, timeOf(borrower), toTarget, timeOf)
  const count = borrower.pointIds.length
  const shared = sharedSegments(seam, owner, borrower)
  return [...shared]
    .filter((i) => !shared.has((i + count - 1) % count))
    .map((start) => {
      const line: number[] = []
      let i = start
      for (; shared.has(i); i = (i + 1) % count) line.push(...segmentLine(outline, i))
      line.push(...rationalPoint(outline, i, 0))
      return line
    })
}

/** Places along one segment of an outline, without its end. */
function segmentLine(outline: HomogeneousOutline, i: number): number[] {
  const next = ((i + 1) % (outline.length / SEGMENT_STRIDE)) * SEGMENT_STRIDE
  const alone = new Float64Array(2 * SEGMENT_STRIDE)
  alone.set(outline.subarray(i * SEGMENT_STRIDE, (i + 1) * SEGMENT_STRIDE))
  // There and straight back: flattened, the way back adds its beginning only.
  const [bx, by, bw] = [outline[next]!, outline[next + 1]!, outline[next + 2]!]
  const [ax, ay, aw] = [alone[0]!, alone[1]!, alone[2]!]
  const mixed = (a: number, b: number, u: number) => a + (b - a) * u
  alone.set([bx, by, bw, mixed(bx, ax, 1 / 3), mixed(by, ay, 1 / 3), mixed(bw, aw, 1 / 3), mixed(bx, ax, 2 / 3), mixed(by, ay, 2 / 3), mixed(bw, aw, 2 / 3)], SEGMENT_STRIDE) // prettier-ignore
  const line = Array.from(flattenOutline(alone))
  return line.slice(0, -2)
}

/**
 * The line moved across into an area that it bounds; at its ends along the area's own edge, and nowhere farther than to the middle between the
 * line and the other side: what is thin must not be run through.
 */
function offsetInto(line: readonly number[], area: Float64Array, across: number): number[] {
  const out = movedAcross(line, across)
  const middle: [number, number] = [0, line.length - 2]
  // At a sharp corner of the area the way straight in leads out of it: the end is drawn back along the line.
  for (const [end, step] of [[0, 2], [line.length - 2, -2]] as const) {
    let inner = end
    while (inner >= 0 && inner < line.length && windingNumber(area, out[inner]!, out[inner + 1]!) === 0) inner += step
    if (inner < 0 || inner >= line.length) continue
    middle[end === 0 ? 0 : 1] = inner
    const [dx, dy] = [out[inner]! - line[inner]!, out[inner + 1]! - line[inner + 1]!]
    for (let i = end; i !== inner; i += step) {
      const share = shareIn(line, area, i, dx, dy)
      out[i] = line[i]! + dx * share
      out[i + 1] = line[i + 1]! + dy * share
    }
  } // prettier-ignore
  for (let i = middle[0]; i <= middle[1]; i += 2) {
    const [dx, dy] = [out[i]! - line[i]!, out[i + 1]! - line[i + 1]!]
    const [farX, farY] = [line[i]! + 2 * dx, line[i + 1]! + 2 * dy]
    if (windingNumber(area, farX, farY) !== 0) continue
    const share = shareIn(line, area, i, 2 * dx, 2 * dy)
    out[i] = line[i]! + dx * share
    out[i + 1] = line[i + 1]! + dy * share
  }
  return out
}

/** The line moved straight across itself, so many pixels along its normals. */
function movedAcross(line: readonly number[], across: number): number[] {
  const out: number[] = []
  for (let i = 0; i < line.length; i += 2) {
    const [nx, ny] = normalAt(line, i)
    out.push(line[i]! + across * nx, line[i + 1]! + across * ny)
  }
  return out
}

/** The largest share of a way from a place of the line that stays in the area, by halving. */
function shareIn(line: readonly number[], area: Float64Array, i: number, dx: number, dy: number): number {
  let [low, high] = [0, 1]
  for (let round = 0; round < 12; round++) {
    const middle = (low + high) / 2
    if (windingNumber(area, line[i]! + dx * middle, line[i + 1]! + dy * middle) !== 0) low = middle
    else high = middle
  }
  return low
}

/** 1 when the area lies on the side of the normals, -1 when on the other. */
function sideOf(line: readonly number[], area: Float64Array): 1 | -1 {
  let votes = 0
  for (let i = 0; i < line.length; i += 2) {
    const [nx, ny] = normalAt(line, i)
    for (const way of [0.25, 1]) {
      if (windingNumber(area, line[i]! + nx * way, line[i + 1]! + ny * way) !== 0) votes++
      if (windingNumber(area, line[i]! - nx * way, line[i + 1]! - ny * way) !== 0) votes--
    }
  }
  return votes >= 0 ? 1 : -1
}

/** Unit normal, the mean of the two chords at a place. */
function normalAt(line: readonly number[], i: number): [number, number] {
  const [before, after] = [Math.max(0, i - 2), Math.min(line.length - 2, i + 2)]
  const [dx, dy] = [line[after]! - line[before]!, line[after + 1]! - line[before + 1]!]
  const length = Math.hypot(dx, dy) || 1
  return [-dy / length, dx / length]
}
