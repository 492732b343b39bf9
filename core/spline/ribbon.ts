import { cubicDerivative, cubicPoint } from './cubic'

/** A stretch of a stroke: its centre line, and the width across it at both ends. */
export interface RibbonSegment {
  cubic: Float64Array
  widthFrom: number
  widthTo: number
}

/**
 * Steps in which a cubic is close to a polyline: the chord of a step of 1/n deviates by at most M / (8 n^2), M the largest
 * second derivative (de Boor, A Practical Guide to Splines, chapter III: error of linear interpolation).
 *
 * @param tolerance  pixels
 */
export function stepsFor(cubic: ArrayLike<number>, tolerance: number): number {
  let most = 0
  for (const k of [0, 2]) {
    const x = cubic[k]! - 2 * cubic[k + 2]! + cubic[k + 4]!
    const y = cubic[k + 1]! - 2 * cubic[k + 3]! + cubic[k + 5]!
    most = Math.max(most, 6 * Math.hypot(x, y))
  }
  return Math.min(256, Math.max(2, Math.ceil(Math.sqrt(most / (8 * tolerance)))))
}

/** Both sides of a stroke, from its start to its end. */
export interface RibbonSides {
  /** x0, y0, x1, y1 ... */
  left: number[]
  right: number[]
}

/**
 * Closed polygons whose union is the area of a stroke: half its width to each side of the centre line, measured across
 * it, with round ends and round joints.
 *
 * A stroke without a corner that bends nowhere tighter than its width is one polygon. Elsewhere the sides turn back on
 * themselves, and opposite ways round would cancel out: there it is cut into pieces, each filled by itself, with discs
 * over the cuts.
 *
 * @param steps  of each segment
 * @returns polygons x0, y0, x1, y1 ...
 */
export function ribbonPolygons(segments: readonly RibbonSegment[], steps: readonly number[]): Float64Array[] {
  const runs = ribbonRuns(segments, steps)
  if (runs.length === 1) return [withRoundEnds(runs[0]!)]
  const polygons: Float64Array[] = runs.map(({ left, right }) => Float64Array.from([...left, ...reversed(right)]))
  for (const run of runs) {
    for (const at of [0, run.left.length - 2]) {
      const [lx, ly, rx, ry] = [run.left[at]!, run.left[at + 1]!, run.right[at]!, run.right[at + 1]!]
      polygons.push(disc((lx + rx) / 2, (ly + ry) / 2, Math.hypot(lx - rx, ly - ry) / 2))
    }
  }
  return polygons
}

/** The sides of a stroke, cut where the centre line has a corner and where a piece between two steps turns over. */
export function ribbonRuns(segments: readonly RibbonSegment[], steps: readonly number[]): RibbonSides[] {
  const runs: RibbonSides[] = []
  let wasTurned: boolean | null = null
  segments.forEach(({ cubic, widthFrom, widthTo }, s) => {
    const count = steps[s]!
    let before = acrossAt(cubic, 0, widthFrom / 2)
    if (s > 0 && !isNear(before, runs.at(-1)!)) wasTurned = null
    for (let k = 1; k <= count; k++) {
      const t = k / count
      const now = acrossAt(cubic, t, (widthFrom + (widthTo - widthFrom) * t) / 2)
      const isTurned = isTurnedOver(before, now)
      if (isTurned !== wasTurned) runs.push({ left: [before[0], before[1]], right: [before[2], before[3]] })
      wasTurned = isTurned
      runs.at(-1)!.left.push(now[0], now[1])
      runs.at(-1)!.right.push(now[2], now[3])
      before = now
    }
  })
  return runs
}

/**
 * The area between two lines of as many places, as polygons: one, or more where it turns over and opposite ways round
 * would cancel out.
 */
export function betweenLines(left: readonly number[], right: readonly number[]): Float64Array[] {
  const runs: RibbonSides[] = []
  let wasTurned: boolean | null = null
  for (let i = 2; i < left.length; i += 2) {
    const before = [left[i - 2]!, left[i - 1]!, right[i - 2]!, right[i - 1]!]
    const now = [left[i]!, left[i + 1]!, right[i]!, right[i + 1]!]
    const isTurned = isTurnedOver(before, now)
    if (isTurned !== wasTurned) runs.push({ left: before.slice(0, 2), right: before.slice(2) })
    wasTurned = isTurned
    runs.at(-1)!.left.push(now[0]!, now[1]!)
    runs.at(-1)!.right.push(now[2]!, now[3]!)
  }
  return runs.map((run) => Float64Array.from([...run.left, ...reversed(run.right)]))
}

/** A side that goes on from where the last piece ended: no corner. */
function isNear([x, y]: readonly number[], { left }: RibbonSides): boolean {
  return Math.hypot(x! - left.at(-2)!, y! - left.at(-1)!) < 1e-3
}

/** The sides lie left and right of the way from one place to the next; turned over, they do not. */
function isTurnedOver(a: readonly number[], b: readonly number[]): boolean {
  const area = (b[0]! - a[2]!) * (b[3]! - a[1]!) - (b[1]! - a[3]!) * (b[2]! - a[0]!)
  return area > 0
}

const reversed = (side: readonly number[]) => {
  const out: number[] = []
  for (let i = side.length - 2; i >= 0; i -= 2) out.push(side[i]!, side[i + 1]!)
  return out
}

/** Left side, half a disc round the end, right side back, half a disc round the start. */
function withRoundEnds({ left, right }: RibbonSides): Float64Array {
  const end = left.length - 2
  const cap = (fromX: number, fromY: number, toX: number, toY: number) => {
    const [cx, cy] = [(fromX + toX) / 2, (fromY + toY) / 2]
    const out: number[] = []
    for (let k = 1; k < DISC_POINTS / 2; k++) {
      const angle = (-2 * Math.PI * k) / DISC_POINTS
      const [c, s] = [Math.cos(angle), Math.sin(angle)]
      out.push(cx + c * (fromX - cx) - s * (fromY - cy), cy + s * (fromX - cx) + c * (fromY - cy))
    }
    return out
  }
  const round = [
    ...left,
    ...cap(left[end]!, left[end + 1]!, right[end]!, right[end + 1]!),
    ...reversed(right),
    ...cap(right[0]!, right[1]!, left[0]!, left[1]!),
  ]
  return Float64Array.from(round)
}

/** The two points half a width to the right and to the left of the centre line. */
function acrossAt(cubic: Float64Array, t: number, half: number): [number, number, number, number] {
  const [x, y] = cubicPoint(cubic, t)
  let [dx, dy] = cubicDerivative(cubic, t)
  // A tangent without length: the way to a place nearby tells the direction.
  if (Math.hypot(dx!, dy!) < 1e-9) {
    const [a, b] = [cubicPoint(cubic, Math.max(0, t - 0.01)), cubicPoint(cubic, Math.min(1, t + 0.01))]
    dx = b[0]! - a[0]!
    dy = b[1]! - a[1]!
  }
  const length = Math.hypot(dx!, dy!) || 1
  const [nx, ny] = [(-dy! / length) * half, (dx! / length) * half]
  return [x! + nx, y! + ny, x! - nx, y! - ny]
}

const DISC_POINTS = 48

function disc(x: number, y: number, radius: number): Float64Array {
  const out = new Float64Array(2 * DISC_POINTS)
  for (let i = 0; i < DISC_POINTS; i++) {
    const angle = (2 * Math.PI * i) / DISC_POINTS
    out[2 * i] = x + radius * Math.cos(angle)
    out[2 * i + 1] = y + radius * Math.sin(angle)
  }
  return out
}
