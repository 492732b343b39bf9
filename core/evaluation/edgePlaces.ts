import { signedArea, signedDistanceToPolygon } from '../geometry'
import { ALONG, type EdgePlace } from '../measures'
import { flattenOutline, rationalPoint, SEGMENT_STRIDE, type HomogeneousOutline } from '../spline'
import { shutterTime, type Shutter } from '../timing'
import { findObject, type RotoDocument, type Shape } from '../document'
import { isInMatte, partShutter, partsByDepth, shapesOf } from './evaluate'
import { areasAt, outlineAt } from './outlines'

/** Pixels by which something that stands in front covers more than its outline: its own softness, and what is averaged beside a place. */
const COVER = 5
/** Places of the outline from which its length is found, a segment. */
const STEPS = 24

/**
 * Places along the closed outline of a shape on a frame where the picture's edge can be seen: none that a nearer Part, or another
 * shape of its own Part, covers.
 *
 * @param spacing  plate pixels from one to the next, at most
 * @param ownShutter  within which the motion is told; missing: that of the Part
 */
export function edgePlacesOf(
  document: RotoDocument,
  shape: Shape,
  frame: number,
  spacing: number,
  ownShutter?: Shutter,
): EdgePlace[] {
  const part = findObject(document, 'part', shape.partId)
  if (!part || !shape.isClosed || !isInMatte(shape, part, frame)) return []
  const shutter = ownShutter ?? partShutter(document, part, frame)
  const [middle, open, close] = [0.5, 0, 1].map((u) => outlineAt(document, shape, shutterTime(frame, shutter, u)))
  const polygon = flattenOutline(middle!)
  const outwards = signedArea(polygon) > 0 ? 1 : -1
  const covers = coversOf(document, shape, frame)
  const places: EdgePlace[] = []
  const line = walked(middle!)
  for (const { segment, t, at } of spaced(line, spacing)) {
    const [x, y] = rationalPoint(middle!, segment, t)
    const [before, here, after] = [-ALONG, 0, ALONG].map((way) => directionAt(line, at + way))
    const [normalX, normalY] = [here![1] * outwards, -here![0] * outwards]
    if (covers.some((one) => signedDistanceToPolygon(one, x, y) < COVER)) continue
    const [fromX, fromY] = rationalPoint(open!, segment, t)
    const [toX, toY] = rationalPoint(close!, segment, t)
    places.push({
      x,
      y,
      normalX,
      normalY,
      sweep: Math.abs((toX - fromX) * normalX + (toY - fromY) * normalY),
      at: segment + t,
      turn: Math.max(angleBetween(before!, here!), angleBetween(here!, after!)),
    })
  }
  return places
}

/** What lies over the outline of a shape: areas of nearer Parts, of shapes of its own that lie above it, and of all that it adds to. */
function coversOf(document: RotoDocument, shape: Shape, frame: number): Float64Array[] {
  const order = partsByDepth(document, frame)
  const own = order.findIndex(({ id }) => id === shape.partId)
  return order.slice(0, own + 1).flatMap((part) =>
    shapesOf(document, part.id)
      .filter((other) => isInMatte(other, part, frame) && (other.partId !== shape.partId || covers(other, shape)))
      .flatMap((other) => areasAt(document, other, frame).map((outline) => flattenOutline(outline, 0.25))),
  )
}

/** Within one Part: whether the outline of a shape is no edge of the matte inside the other one. */
const covers = (other: Shape, shape: Shape) =>
  other.id !== shape.id && (other.order > shape.order || (other.operation === 'add' && shape.operation === 'add'))

interface Walked {
  segment: number
  t: number
  x: number
  y: number
  /** Way along the outline from its start. */
  at: number
}

function walked(outline: HomogeneousOutline): Walked[] {
  const line: Walked[] = []
  let at = 0
  for (let segment = 0; segment < outline.length / SEGMENT_STRIDE; segment++) {
    for (let step = 0; step < STEPS; step++) {
      const [x, y] = rationalPoint(outline, segment, step / STEPS)
      const last = line.at(-1)
      if (last) at += Math.hypot(x - last.x, y - last.y)
      line.push({ segment, t: step / STEPS, x, y, at })
    }
  }
  return line
}

/** The walked places nearest to even steps. */
function* spaced(line: readonly Walked[], spacing: number): Generator<Walked> {
  let next = 0
  for (const place of line) {
    if (place.at < next) continue
    yield place
    next = place.at + spacing
  }
}

/** Direction of the outline at a way along it, of length 1; round about. */
function directionAt(line: readonly Walked[], at: number): [number, number] {
  const length = line.at(-1)!.at
  const way = ((at % length) + length) % length
  const index = Math.max(
    0,
    line.findLastIndex((place) => place.at <= way),
  )
  const [a, b] = [line[Math.max(0, index - 1)]!, line[Math.min(line.length - 1, index + 1)]!]
  const long = Math.hypot(b.x - a.x, b.y - a.y) || 1
  return [(b.x - a.x) / long, (b.y - a.y) / long]
}

const angleBetween = ([ax, ay]: readonly [number, number], [bx, by]: readonly [number, number]) =>
  Math.abs(Math.atan2(ax * by - ay * bx, ax * bx + ay * by))
