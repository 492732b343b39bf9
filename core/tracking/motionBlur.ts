import { applyToPoint, invert, type Box, type Matrix3 } from '../geometry'
import type { PyramidLevel } from '../image'
import type { PatternFrame, TemplateLevel } from './patternTemplate'
import { medianAndSpread } from './median'
import { bicubicAt } from './sampling'

/** How the surface moves while the shutter is open, on the frame looked at and on the pattern's own. */
export interface Exposing {
  /** Share of a frame's time for which the shutter is open, its middle at the frame's time. */
  shutter: number
  /** Motions from the pattern's frame to this frame, the one tracked before it, and the one before that if known. */
  motions: readonly [Matrix3, Matrix3, Matrix3 | null]
  /** Motion from the pattern's frame to a frame next to it, which tells how it was moving there; null: not known. */
  besidePattern: Matrix3 | null
}

/** Pixels of a level from which a streak matters. */
const LEAST_BLUR = 0.75
/** Pixels of a level from which it matters where the middle of a streak is. */
const LEAST_SHIFT = 0.01
/** Pixels of the level from one look into the shutter to the next. */
const LOOK_PIXELS = 1.5

/**
 * Where a place of the pattern is swept to on a frame, in the pattern's own plate pixels: the length and direction of a
 * streak that makes the pattern as blurred as the frame shows it, and how far the middle of what the open shutter saw
 * lies from where the place was at mid-exposure, which is not nothing while the speed changes.
 */
export interface Streak {
  x: number
  y: number
  shiftX: number
  shiftY: number
}

/** Fills in the streak at a place of the pattern, plate pixels of its frame. */
export type StreakAt = (x: number, y: number, out: Streak) => void

/**
 * The streak at places of the pattern.
 *
 * Blur along a straight path of length w has the variance w w^T / 12. Where the pattern's picture is blurred itself, only
 * what the frame's has more than it is wanted: the larger eigenvalue of the difference of both, where it is positive.
 * Uniform acceleration a moves the mean of the path by a s^2 / 24 when the shutter is open for s: at a place of the frame
 * that much of the surface's way is still to come, so the streak lies on the other side.
 */
export function streaksOf({ shutter, motions, besidePattern }: Exposing): StreakAt {
  const [now, before, earlier] = motions
  const back = invert(now)
  const [p, q, r, open, shut] = [0, 1, 2, 3, 4].map(() => new Float64Array(2)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ]
  return (x, y, out) => {
    applyToPoint(now, x, y, p)
    applyToPoint(before, x, y, q)
    let [speedX, speedY] = [p[0]! - q[0]!, p[1]! - q[1]!]
    let [meanX, meanY] = [0, 0]
    if (earlier) {
      applyToPoint(earlier, x, y, r)
      const [ax, ay] = [p[0]! - 2 * q[0]! + r[0]!, p[1]! - 2 * q[1]! + r[1]!]
      speedX += ax / 2
      speedY += ay / 2
      meanX = (ax * shutter * shutter) / 24
      meanY = (ay * shutter * shutter) / 24
    }
    const half = shutter / 2
    applyToPoint(back, p[0]! + half * speedX - meanX, p[1]! + half * speedY - meanY, shut)
    applyToPoint(back, p[0]! - half * speedX - meanX, p[1]! - half * speedY - meanY, open)
    let [wx, wy] = [shut[0]! - open[0]!, shut[1]! - open[1]!]
    out.shiftX = (shut[0]! + open[0]!) / 2 - x
    out.shiftY = (shut[1]! + open[1]!) / 2 - y
    if (besidePattern) {
      applyToPoint(besidePattern, x, y, r)
      ;[wx, wy] = widerBy(wx, wy, shutter * (r[0]! - x), shutter * (r[1]! - y))
    }
    out.x = wx
    out.y = wy
  }
}

/** What blur along w has more than blur along r, as a path; (0, 0) where it has less in all directions. */
function widerBy(wx: number, wy: number, rx: number, ry: number): [number, number] {
  const xx = wx * wx - rx * rx
  const xy = wx * wy - rx * ry
  const yy = wy * wy - ry * ry
  const apart = Math.sqrt((xx - yy) ** 2 + 4 * xy * xy)
  const larger = (xx + yy + apart) / 2
  if (!(larger > 0)) return [0, 0]
  // Of the two ways to write the eigenvector the one that does not vanish.
  const [ex, ey] = Math.abs(larger - xx) > Math.abs(larger - yy) ? [xy, larger - xx] : [larger - yy, xy]
  const norm = Math.hypot(ex, ey)
  if (norm === 0) return [Math.sqrt(larger), 0]
  return [(ex / norm) * Math.sqrt(larger), (ey / norm) * Math.sqrt(larger)]
}

/** Whether a streak of one of the corners of a box is long enough to be seen on a level, or its middle shifted. */
export function isBlurSeen(streakAt: StreakAt, { left, top, right, bottom }: Box, scale: number): boolean {
  const streak: Streak = { x: 0, y: 0, shiftX: 0, shiftY: 0 }
  for (const [x, y] of [[left, top], [right, top], [right, bottom], [left, bottom]] as const) {
    streakAt(x, y, streak)
    if (Math.hypot(streak.x, streak.y) >= LEAST_BLUR * scale) return true
    if (Math.hypot(streak.shiftX, streak.shiftY) >= LEAST_SHIFT * scale) return true
  } // prettier-ignore
  return false
}

/** Gradient of a picture per its own pixel. */
export interface Gradients {
  x: PyramidLevel
  y: PyramidLevel
}

export function gradientsOf(image: PyramidLevel): Gradients {
  const { width, height, data } = image
  const [x, y] = [new Float32Array(data.length), new Float32Array(data.length)]
  for (let j = 1; j < height - 1; j++) {
    for (let at = j * width + 1; at < (j + 1) * width - 1; at++) {
      x[at] = (data[at + 1]! - data[at - 1]!) / 2
      y[at] = (data[at + width]! - data[at - width]!) / 2
    }
  }
  return { x: { ...image, data: x }, y: { ...image, data: y } }
}

/**
 * The template level as the frame shows it: every sample the mean over its streak.
 *
 * @param image     the level of the pattern's picture that the template was taken from
 * @param frame     of the pattern
 * @param streakAt  see {@link streaksOf}
 */
export function blurredTemplate(
  level: TemplateLevel,
  image: PyramidLevel,
  gradients: Gradients,
  frame: PatternFrame,
  streakAt: StreakAt,
): TemplateLevel {
  const { count, u, v, scale } = level
  const { centreX, centreY, unitX, unitY } = frame
  const streaks = streakGrid(frame.box, streakAt)
  const memory = new ArrayBuffer(16 * count)
  const floats = (n: number) => new Float32Array(memory, 4 * n * count, count)
  const value = floats(0)
  const gradientU = floats(1)
  const gradientV = floats(2)
  const steepness = floats(3)
  const [mostX, mostY] = [image.width - 2.001, image.height - 2.001]
  const streak: Streak = { x: 0, y: 0, shiftX: 0, shiftY: 0 }
  for (let n = 0; n < count; n++) {
    const plateX = centreX + u[n]! * unitX
    const plateY = centreY + v[n]! * unitY
    streaks(plateX, plateY, streak)
    const wx = streak.x / scale
    const wy = streak.y / scale
    const looks = Math.max(1, Math.ceil(Math.hypot(wx, wy) / LOOK_PIXELS))
    const middleX = (plateX + streak.shiftX - image.left) / scale - 0.5
    const middleY = (plateY + streak.shiftY - image.top) / scale - 0.5
    let sum = 0
    let sumX = 0
    let sumY = 0
    for (let look = 0; look < looks; look++) {
      const along = (look + 0.5) / looks - 0.5
      const x = Math.min(mostX, Math.max(1, middleX + along * wx))
      const y = Math.min(mostY, Math.max(1, middleY + along * wy))
      sum += bicubicAt(image, x, y)
      sumX += nearestAt(gradients.x, x, y)
      sumY += nearestAt(gradients.y, x, y)
    }
    value[n] = sum / looks
    const gx = sumX / looks
    const gy = sumY / looks
    gradientU[n] = (gx * unitX) / scale
    gradientV[n] = (gy * unitY) / scale
    steepness[n] = Math.sqrt(gx * gx + gy * gy)
  }
  const [middle, spread] = medianAndSpread(value.slice())
  return { ...level, value, middle, spread, gradientU, gradientV, steepness }
}

/** Cells to each side of the grid on which streaks are worked out: in between they change evenly. */
const GRID = 8

/** Streaks over a box, evenly between those of a grid. */
function streakGrid({ left, top, right, bottom }: Box, streakAt: StreakAt): StreakAt {
  const values = new Float64Array((GRID + 1) * (GRID + 1) * 4)
  const streak: Streak = { x: 0, y: 0, shiftX: 0, shiftY: 0 }
  for (let j = 0; j <= GRID; j++) {
    for (let i = 0; i <= GRID; i++) {
      streakAt(left + ((right - left) * i) / GRID, top + ((bottom - top) * j) / GRID, streak)
      values.set([streak.x, streak.y, streak.shiftX, streak.shiftY], (j * (GRID + 1) + i) * 4)
    }
  }
  const perX = GRID / Math.max(1, right - left)
  const perY = GRID / Math.max(1, bottom - top)
  const mixed = (at: number, a: number, b: number) => {
    const under = at + (GRID + 1) * 4
    const above = values[at]! + a * (values[at + 4]! - values[at]!)
    return above + b * (values[under]! + a * (values[under + 4]! - values[under]!) - above)
  }
  return (x, y, out) => {
    const gx = Math.min(GRID, Math.max(0, (x - left) * perX))
    const gy = Math.min(GRID, Math.max(0, (y - top) * perY))
    const i = Math.min(GRID - 1, Math.floor(gx))
    const j = Math.min(GRID - 1, Math.floor(gy))
    const at = (j * (GRID + 1) + i) * 4
    out.x = mixed(at, gx - i, gy - j)
    out.y = mixed(at + 1, gx - i, gy - j)
    out.shiftX = mixed(at + 2, gx - i, gy - j)
    out.shiftY = mixed(at + 3, gx - i, gy - j)
  }
}

/** Gradients need only lead uphill: the mean over a streak smooths what the nearest pixel leaves rough. */
function nearestAt({ data, width }: PyramidLevel, x: number, y: number): number {
  return data[Math.round(y) * width + Math.round(x)]!
}
