import { wrappedAngle } from '../../geometry'
import { CirclesAbout } from './circlesAbout'
import type { WidePieces } from './widePieces'

/** Radians from one place of an arc round a corner to the next: at 40 px a chord is off by no more than 0.1 px. */
const ARC_STEP = 0.14

/**
 * Where a soft edge of varying width fades out, or where it is full: the envelope of the circles about all places of the outline, as wide as the edge is
 * there. What lies within the circle of another place is left out, so that nothing folds over.
 *
 * @param grow  moves the edge outwards, pixels
 * @returns     open polylines x0, y0, x1, y1 ...
 */
export function variedContour({ pieces, widths }: WidePieces, side: 'outer' | 'inner', grow: number): number[][] {
  const offset = side === 'outer' ? 1 : 0
  const way = side === 'outer' ? 1 : -1
  const radius = (i: number) => widths[i + offset]! + way * grow
  const lines: number[][] = []
  let line: number[] = []
  const end = () => {
    if (line.length >= 4) lines.push(line)
    line = []
  }
  const circles = new CirclesAbout(pieces, radius)
  const add = (x: number, y: number) => {
    if (circles.hold(x, y)) end()
    else line.push(x, y)
  }
  const spans = spansOf(pieces, radius, way)
  spans.forEach(({ x0, y0, x1, y1, from, to, angle }, n) => {
    const before = spans[n - 1]
    const isJoined = before?.x1 === x0 && before.y1 === y0
    const goesOn = (other: Span | undefined) => other?.x0 === x1 && other.y0 === y1
    const after = goesOn(spans[n + 1]) ? spans[n + 1] : spans.find(goesOn)
    if (!isJoined) {
      end()
      add(x0 + from * Math.cos(angle), y0 + from * Math.sin(angle))
    }
    const turn = after ? wrappedAngle(after.angle - angle) : 0
    if (turn * way > 0) {
      // The inner side of a corner: the spans meet halfway between them.
      const reach = to / Math.cos(turn / 2)
      add(x1 + reach * Math.cos(angle + turn / 2), y1 + reach * Math.sin(angle + turn / 2))
      return
    }
    const steps = Math.ceil(Math.abs(turn) / ARC_STEP)
    for (let step = 0; step <= steps; step++) {
      const at = angle + (turn * step) / Math.max(1, steps)
      add(x1 + to * Math.cos(at), y1 + to * Math.sin(at))
    }
    if (after && after !== spans[n + 1]) add(x1 + to * Math.cos(after.angle), y1 + to * Math.sin(after.angle))
  })
  end()
  return lines
}

/** A piece, how wide the edge is at its ends, and the direction in which the contour lies from it. */
interface Span {
  x0: number
  y0: number
  x1: number
  y1: number
  from: number
  to: number
  angle: number
}

function spansOf(pieces: Float64Array, radius: (i: number) => number, way: number): Span[] {
  const spans: Span[] = []
  for (let i = 0; i < pieces.length; i += 4) {
    const [x0, y0, x1, y1] = [pieces[i]!, pieces[i + 1]!, pieces[i + 2]!, pieces[i + 3]!]
    const [from, to] = [radius(i), radius(i + 2)]
    const length = Math.hypot(x1 - x0, y1 - y0)
    if (length === 0) continue
    // Away from the region, which lies to the right of what runs down; leant towards the narrow end.
    const outward = Math.atan2(x1 - x0, -(y1 - y0)) + (way < 0 ? Math.PI : 0)
    const lean = Math.asin(Math.max(-1, Math.min(1, (to - from) / length)))
    spans.push({ x0, y0, x1, y1, from, to, angle: outward + way * lean })
  }
  return spans
}
