import { affineFromPoints, applyToPoint } from '../geometry'
import type { MotionSamples } from './motionSamples'
import { centreAt } from './relativeMotion'

/** Neighbours that a point is held against, and fewest that can tell. */
const NEIGHBOURS = 8
const LEAST_NEIGHBOURS = 5
/** Times the neighbours' own noise, and least pixels, by which a point that goes another way is off. */
const STRAY_NOISE = 4
const STRAY_PIXELS = 1.2

/**
 * Frames on which a point goes another way than its neighbours: it is farther from where they lead it than they scatter
 * themselves. Neighbours are those nearest on the reference frame; the affine motion that most of them agree in is found
 * by least median of squares over all triples (Rousseeuw 1984), so that some of them may be wrong as well.
 *
 * @param points     tracks of single points
 * @param reference  a frame on which their places are compared
 * @returns for each point the frames on which it strays, ascending
 */
export function strayFrames(points: readonly MotionSamples[], reference: number): number[][] {
  const start = points.map((point) => centreAt(point, reference))
  return points.map((point, i) => {
    const own = start[i]
    if (!own) return []
    const neighbours = start
      .flatMap((place, k) => (place && k !== i ? [{ k, place, away: distance(place, own) }] : []))
      .sort((a, b) => a.away - b.away)
      .slice(0, NEIGHBOURS)
    return Array.from(point.present).flatMap((isPresent, at) => {
      const frame = point.firstFrame + at
      const now = isPresent && frame !== reference ? centreAt(point, frame) : null
      if (!now) return []
      const known = neighbours.flatMap(({ k, place }) => {
        const there = centreAt(points[k]!, frame)
        return there ? [{ place, there }] : []
      })
      return isStray(own, now, known) ? [frame] : []
    })
  })
}

type Place = readonly [number, number]
type Neighbour = { place: Place; there: Place }

const distance = (a: Place, b: Place) => Math.hypot(a[0] - b[0], a[1] - b[1])

function isStray(own: Place, now: Place, neighbours: readonly Neighbour[]): boolean {
  if (neighbours.length < LEAST_NEIGHBOURS) return false
  let least = Infinity
  let away = 0
  const missed = new Float64Array(neighbours.length)
  const place = [0, 0]
  const missedBy = (matrix: Float64Array, from: Place, to: Place) => {
    applyToPoint(matrix, from[0], from[1], place)
    return Math.hypot(place[0]! - to[0], place[1]! - to[1])
  }
  for (const [a, b, c] of triplesOf(neighbours)) {
    const matrix = affineOrNull([a, b, c])
    if (!matrix) continue
    neighbours.forEach((one, k) => (missed[k] = missedBy(matrix, one.place, one.there)))
    // Three always fit: the median is that of the others.
    const median = missed.sort()[3 + ((neighbours.length - 3) >> 1)]!
    if (median < least) {
      least = median
      away = missedBy(matrix, own, now)
    }
  }
  return Number.isFinite(least) && away > Math.max(STRAY_PIXELS, STRAY_NOISE * 1.4826 * least)
}

function* triplesOf<T>(list: readonly T[]): Generator<[T, T, T]> {
  for (let a = 0; a < list.length; a++) {
    for (let b = a + 1; b < list.length; b++) {
      for (let c = b + 1; c < list.length; c++) yield [list[a]!, list[b]!, list[c]!]
    }
  }
}

function affineOrNull(three: readonly Neighbour[]): Float64Array | null {
  try {
    return affineFromPoints(
      three.flatMap(({ place }) => place),
      three.flatMap(({ there }) => there),
    )
  } catch {
    // Three on a line tell nothing across it.
    return null
  }
}
