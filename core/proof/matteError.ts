/** A matte with its size; alpha 0..1, row-major. */
export interface MattePicture {
  width: number
  height: number
  data: ArrayLike<number>
}

export interface MatteError {
  /** Region overlap of both mattes at level 0.5 (Perazzi et al., CVPR 2016): intersection over union. */
  regionOverlap: number
  /** Mean distance in pixels from the half level of the truth to that of the matte. */
  boundaryDistance: number
  /**
   * Mean displacement of the half level, matte minus truth, in pixels, along x where the edge faces x rather than y, and
   * along y where it faces y: a shifted matte shows here and nowhere else. Along a line that the edge almost runs along,
   * a hundredth of a pixel across it would count as tenths.
   */
  biasX: number
  biasY: number
  /** Boundary places measured. */
  boundaryPoints: number
  /** Sum of absolute differences over the pixels, in whole pixels (SAD, Rhemann et al., CVPR 2009). */
  sumOfDifferences: number
}

const LEVEL = 0.5
/** Edges farther apart than this are not the same edge. */
const FARTHEST = 24

/** Compares a matte with the truth. Both have the same size; an empty pair overlaps fully. */
export function matteError(matte: MattePicture, truth: MattePicture): MatteError {
  const { intersection, union, difference } = compared(matte.data, truth.data, truth.width * truth.height)
  const own = halfLevel(matte)
  const expected = halfLevel(truth)
  const grid = bucketed(own)
  let distanceSum = 0
  let points = 0
  for (const { x, y } of expected) {
    distanceSum += nearest(grid, x, y)
    points++
  }
  return {
    regionOverlap: union === 0 ? 1 : intersection / union,
    boundaryDistance: points === 0 ? 0 : distanceSum / points,
    biasX: meanShift(own, expected, 'x'),
    biasY: meanShift(own, expected, 'y'),
    boundaryPoints: points,
    sumOfDifferences: difference,
  }
}

/** Pixels that both and that either of the mattes fill at least half, and the sum of their differences. */
function compared(own: ArrayLike<number>, expected: ArrayLike<number>, count: number) {
  let intersection = 0
  let union = 0
  let difference = 0
  for (let i = 0; i < count; i++) {
    const a = own[i]!
    const b = expected[i]!
    difference += Math.abs(a - b)
    if (a >= LEVEL || b >= LEVEL) union++
    if (a >= LEVEL && b >= LEVEL) intersection++
  }
  return { intersection, union, difference }
}

interface Crossing {
  x: number
  y: number
  /** The line along which the level is crossed. */
  along: 'x' | 'y'
  rises: boolean
  /** The edge faces along that line rather than across it. */
  faces: boolean
}

/** Places where rows and columns of pixel centres cross the half level, interpolated. */
function halfLevel(matte: MattePicture): Crossing[] {
  const { width, height, data } = matte
  const found: Crossing[] = []
  for (let j = 0; j < height; j++) {
    for (let i = 0; i < width; i++) {
      const here = data[j * width + i]! - LEVEL
      if (i + 1 < width) {
        const next = data[j * width + i + 1]! - LEVEL
        if (here < 0 !== next < 0) {
          const faces = Math.abs(next - here) >= Math.abs(slopeBetween(matte, 'y', i, j, i + 1, j))
          found.push({ x: i + 0.5 + here / (here - next), y: j + 0.5, along: 'x', rises: next > here, faces })
        }
      }
      if (j + 1 < height) {
        const next = data[(j + 1) * width + i]! - LEVEL
        if (here < 0 !== next < 0) {
          const faces = Math.abs(next - here) >= Math.abs(slopeBetween(matte, 'x', i, j, i, j + 1))
          found.push({ x: i + 0.5, y: j + 0.5 + here / (here - next), along: 'y', rises: next > here, faces })
        }
      }
    }
  }
  return found
}

/** Rise of alpha a pixel along a line, half way between two pixels that are neighbours across it. */
function slopeBetween(
  { width, height, data }: MattePicture,
  along: 'x' | 'y',
  i: number,
  j: number,
  otherI: number,
  otherJ: number,
): number {
  const [dx, dy] = along === 'x' ? [1, 0] : [0, 1]
  const at = (x: number, y: number) => {
    const [column, row] = [Math.min(width - 1, Math.max(0, x)), Math.min(height - 1, Math.max(0, y))]
    return data[row * width + column]!
  }
  const rise = (x: number, y: number) => (at(x + dx, y + dy) - at(x - dx, y - dy)) / 2
  return (rise(i, j) + rise(otherI, otherJ)) / 2
}

const BUCKET = 8
const bucketKey = (x: number, y: number) => Math.floor(x / BUCKET) * 65536 + Math.floor(y / BUCKET)

function bucketed(crossings: readonly Crossing[]): Map<number, Crossing[]> {
  const grid = new Map<number, Crossing[]>()
  for (const crossing of crossings) {
    const key = bucketKey(crossing.x, crossing.y)
    const bucket = grid.get(key)
    if (bucket) bucket.push(crossing)
    else grid.set(key, [crossing])
  }
  return grid
}

/** Pixels between two crossings that are neighbours on a boundary, at most. */
const CHORD = 1.5

/**
 * Distance to the boundary through the crossings: to the nearest crossing and, between it and its neighbours, to the chord;
 * at most `FARTHEST`.
 */
function nearest(grid: ReadonlyMap<number, Crossing[]>, x: number, y: number): number {
  let best = FARTHEST
  for (let reach = 1; reach <= FARTHEST / BUCKET; reach++) {
    best = Math.min(FARTHEST, distanceToBoundary(crossingsAbout(grid, x, y, reach), x, y))
    // What has not been looked at is farther away than the buckets reach.
    if (best + CHORD <= reach * BUCKET) return best
  }
  return best
}

function crossingsAbout(grid: ReadonlyMap<number, Crossing[]>, x: number, y: number, reach: number): Crossing[] {
  const about: Crossing[] = []
  for (let dx = -reach; dx <= reach; dx++) {
    for (let dy = -reach; dy <= reach; dy++) {
      const bucket = grid.get(bucketKey(x + dx * BUCKET, y + dy * BUCKET))
      if (bucket) about.push(...bucket)
    }
  }
  return about
}

function distanceToBoundary(crossings: readonly Crossing[], x: number, y: number): number {
  let best = Infinity
  let closest: Crossing | null = null
  for (const crossing of crossings) {
    const distance = Math.hypot(crossing.x - x, crossing.y - y)
    if (distance < best) {
      best = distance
      closest = crossing
    }
  }
  if (!closest) return best
  for (const other of crossings) {
    const [ex, ey] = [other.x - closest.x, other.y - closest.y]
    const lengthSquared = ex * ex + ey * ey
    if (lengthSquared === 0 || lengthSquared > CHORD ** 2) continue
    const t = Math.min(1, Math.max(0, ((x - closest.x) * ex + (y - closest.y) * ey) / lengthSquared))
    best = Math.min(best, Math.hypot(closest.x + t * ex - x, closest.y + t * ey - y))
  }
  return best
}

/** Mean of own minus expected over crossings, where the expected edge faces that way, of the same line and direction that lie within 4 px of each other. */
function meanShift(own: readonly Crossing[], expected: readonly Crossing[], along: 'x' | 'y'): number {
  const lines = new Map<string, number[]>()
  const lineOf = (c: Crossing) => `${along === 'x' ? c.y : c.x}/${c.rises}`
  for (const crossing of own) {
    if (crossing.along !== along) continue
    const line = lines.get(lineOf(crossing))
    if (line) line.push(crossing[along])
    else lines.set(lineOf(crossing), [crossing[along]])
  }
  let sum = 0
  let count = 0
  for (const crossing of expected) {
    if (crossing.along !== along || !crossing.faces) continue
    let shift = Infinity
    for (const place of lines.get(lineOf(crossing)) ?? []) {
      if (Math.abs(place - crossing[along]) < Math.abs(shift)) shift = place - crossing[along]
    }
    if (Math.abs(shift) > 4) continue
    sum += shift
    count++
  }
  return count === 0 ? 0 : sum / count
}
