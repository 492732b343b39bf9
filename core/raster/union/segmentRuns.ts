/** Segments x0, y0, x1, y1 of several closed polygons, one polygon after the other; in room that the next call uses again. */
export interface Segments {
  count: number
  /** Four numbers a segment. */
  ends: Float64Array
  /** First segment of each polygon, and behind the last the number of all segments. */
  starts: Int32Array
  /** For each segment the one that ends where it begins. */
  previous: Int32Array
}

/** Used again by each call: a union is asked for at every sub-time of every frame. */
let ends = new Float64Array(0)
let previous = new Int32Array(0)

export function segmentsOf(polygons: readonly Float64Array[]): Segments {
  const starts = new Int32Array(polygons.length + 1)
  polygons.forEach((polygon, p) => (starts[p + 1] = starts[p]! + polygon.length / 2))
  const count = starts[polygons.length]!
  if (previous.length < count) {
    ends = new Float64Array(8 * count)
    previous = new Int32Array(2 * count)
  }
  let s = 0
  for (const polygon of polygons) {
    const n = polygon.length
    const first = s
    for (let i = 0; i < n; i += 2, s++) {
      const j = i + 2 === n ? 0 : i + 2
      ends[4 * s] = polygon[i]!
      ends[4 * s + 1] = polygon[i + 1]!
      ends[4 * s + 2] = polygon[j]!
      ends[4 * s + 3] = polygon[j + 1]!
      previous[s] = s === first ? first + n / 2 - 1 : s - 1
    }
  }
  return { count, ends, starts, previous }
}

/** Longer runs have larger boxes, which overlap more for nothing. */
const LONGEST_RUN = 12

/** Runs of consecutive segments that steadily go one way in x and in y: such a run cannot cross itself. */
interface Runs {
  count: number
  first: Int32Array
  end: Int32Array
  /** left, top, right, bottom of each. */
  boxes: Float64Array
}

let scratch: Runs = { count: 0, first: new Int32Array(0), end: new Int32Array(0), boxes: new Float64Array(0) }

function runsOf({ count, ends, starts }: Segments): Runs {
  if (scratch.first.length < count) {
    const size = 2 * count
    scratch = { count: 0, first: new Int32Array(size), end: new Int32Array(size), boxes: new Float64Array(size * 4) }
  }
  const runs = scratch
  runs.count = 0
  for (let p = 0; p + 1 < starts.length; p++) {
    let s = starts[p]!
    while (s < starts[p + 1]!) {
      const limit = Math.min(starts[p + 1]!, s + LONGEST_RUN)
      const first = s
      let wayX = 0
      let wayY = 0
      for (; s < limit; s++) {
        const dx = ends[4 * s + 2]! - ends[4 * s]!
        const dy = ends[4 * s + 3]! - ends[4 * s + 1]!
        if (dx * wayX < 0 || dy * wayY < 0) break
        if (dx !== 0) wayX = dx > 0 ? 1 : -1
        if (dy !== 0) wayY = dy > 0 ? 1 : -1
      }
      const x0 = ends[4 * first]!
      const y0 = ends[4 * first + 1]!
      const x1 = ends[4 * s - 2]!
      const y1 = ends[4 * s - 1]!
      const at = runs.count * 4
      runs.first[runs.count] = first
      runs.end[runs.count++] = s
      runs.boxes[at] = x0 < x1 ? x0 : x1
      runs.boxes[at + 1] = y0 < y1 ? y0 : y1
      runs.boxes[at + 2] = x0 < x1 ? x1 : x0
      runs.boxes[at + 3] = y0 < y1 ? y1 : y0
    }
  }
  return runs
}

/** Rows that runs are sorted into; a taller picture gets taller rows. */
const MOST_ROWS = 1 << 14

/** Used again by each call as well. */
let order = new Int32Array(0)
let filled = new Int32Array(0)

/** Numbers of the runs by the row of their top, and where each row ends among them. */
function runsByRow({ count, boxes }: Runs) {
  let top = Infinity
  let bottom = -Infinity
  for (let i = 0; i < count; i++) {
    if (boxes[4 * i + 1]! < top) top = boxes[4 * i + 1]!
    if (boxes[4 * i + 3]! > bottom) bottom = boxes[4 * i + 3]!
  }
  const perPixel = Math.min(1, MOST_ROWS / (bottom - top + 1))
  const rowOf = (y: number) => Math.floor((y - top) * perPixel)
  const rows = rowOf(bottom) + 1
  if (order.length < count) order = new Int32Array(2 * count)
  if (filled.length < rows) filled = new Int32Array(2 * rows)
  filled.fill(0, 0, rows)
  for (let i = 0; i < count; i++) filled[rowOf(boxes[4 * i + 1]!)]!++
  // From the end of each row back to its beginning, and so from the last run to the first: then rows stay in order.
  for (let row = 1; row < rows; row++) filled[row]! += filled[row - 1]!
  for (let i = count - 1; i >= 0; i--) order[--filled[rowOf(boxes[4 * i + 1]!)]!] = i
  const endOf = (row: number) => (row + 1 < rows ? filled[row + 1]! : count)
  return { order, rowOf, endOf }
}

/**
 * Calls `visit` once for every pair of segments whose boxes overlap, but for pairs of one run, which cannot cross. Ends
 * early, with false, when `visit` returns false.
 */
export function forNeighbours(segments: Segments, visit: (a: number, b: number) => boolean): boolean {
  const { ends } = segments
  const runs = runsOf(segments)
  const { first, end, boxes } = runs
  const { order, rowOf, endOf } = runsByRow(runs)
  for (let m = 0; m < runs.count; m++) {
    const a = order[m]!
    const aLeft = boxes[4 * a]!
    const aTop = boxes[4 * a + 1]!
    const aRight = boxes[4 * a + 2]!
    const aBottom = boxes[4 * a + 3]!
    const last = endOf(rowOf(aBottom))
    for (let n = m + 1; n < last; n++) {
      const b = order[n]!
      const left = Math.max(aLeft, boxes[4 * b]!)
      const right = Math.min(aRight, boxes[4 * b + 2]!)
      if (left > right) continue
      const top = Math.max(aTop, boxes[4 * b + 1]!)
      const bottom = Math.min(aBottom, boxes[4 * b + 3]!)
      if (top > bottom) continue
      for (let s = first[a]!; s < end[a]!; s++) {
        if (!touches(ends, s, left, top, right, bottom)) continue
        for (let t = first[b]!; t < end[b]!; t++) {
          if (touches(ends, t, left, top, right, bottom) && !visit(s, t)) return false
        }
      }
    }
  }
  return true
}

function touches(ends: Float64Array, s: number, left: number, top: number, right: number, bottom: number): boolean {
  const i = 4 * s
  const x0 = ends[i]!
  const x1 = ends[i + 2]!
  if (x0 < x1 ? x1 < left || x0 > right : x0 < left || x1 > right) return false
  const y0 = ends[i + 1]!
  const y1 = ends[i + 3]!
  return !(y0 < y1 ? y1 < top || y0 > bottom : y0 < top || y1 > bottom)
}
