/**
 * Calls `span(row, from, to)` for every stretch of the horizontal line at y inside the polygon (non-zero winding).
 * Point-sampled scan lines: on purpose a different method from exact area accumulation.
 */
export function spansAt(polygon: Float64Array, y: number, span: (from: number, to: number) => void) {
  let count = 0
  const n = polygon.length
  for (let i = 0; i < n; i += 2) {
    const j = i + 2 === n ? 0 : i + 2
    const y0 = polygon[i + 1]!
    const y1 = polygon[j + 1]!
    if (y0 <= y === y1 <= y) continue
    const x = polygon[i]! + ((y - y0) / (y1 - y0)) * (polygon[j]! - polygon[i]!)
    let at = count++
    while (at > 0 && crossings[at - 1]! > x) {
      crossings[at] = crossings[at - 1]!
      directions[at] = directions[at - 1]!
      at--
    }
    crossings[at] = x
    directions[at] = y1 > y0 ? 1 : -1
  }
  let winding = 0
  for (let k = 0; k + 1 < count; k++) {
    winding += directions[k]!
    if (winding !== 0) span(crossings[k]!, crossings[k + 1]!)
  }
}

const crossings = new Float64Array(256)
const directions = new Int8Array(256)

/**
 * Mean coverage of moving polygons: `lines` scan lines a pixel row, exact in x along each.
 *
 * @param polygons  the outline at equally spaced times of the open shutter
 */
export function meanCoverage(
  polygons: readonly Float64Array[],
  width: number,
  height: number,
  lines: number,
): Float32Array {
  const out = new Float32Array(width * height)
  const change = new Float64Array(width + 2)
  const weight = 1 / (polygons.length * lines)
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const polygon of polygons) {
    for (let i = 0; i < polygon.length; i += 2) {
      left = Math.min(left, polygon[i]!)
      right = Math.max(right, polygon[i]!)
      top = Math.min(top, polygon[i + 1]!)
      bottom = Math.max(bottom, polygon[i + 1]!)
    }
  }
  const firstColumn = Math.max(0, Math.floor(left))
  const endColumn = Math.min(width, Math.ceil(right) + 1)
  /** Area of [x, infinity) within each pixel, as a change of a running sum. */
  const from = (x: number, amount: number) => {
    if (x >= width) return
    const clamped = Math.max(0, x)
    const i = Math.floor(clamped)
    const share = i + 1 - clamped
    change[i]! += amount * share
    change[i + 1]! += amount * (1 - share)
  }
  for (let row = Math.max(0, Math.floor(top)); row < Math.min(height, Math.ceil(bottom)); row++) {
    change.fill(0)
    for (let line = 0; line < lines; line++) {
      for (const polygon of polygons) {
        spansAt(polygon, row + (line + 0.5) / lines, (a, b) => {
          from(a, weight)
          from(b, -weight)
        })
      }
    }
    let sum = 0
    for (let x = firstColumn; x < endColumn; x++) {
      sum += change[x]!
      out[row * width + x] = sum
    }
  }
  return out
}
