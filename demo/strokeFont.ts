/** Painted capitals as strokes on a grid 4 wide and 6 high, y down. A stroke is a run of x,y pairs. */
const LETTERS: Record<string, string[]> = {
  A: ['0,6 2,0 4,6', '0.8,4 3.2,4'],
  B: ['0,0 0,6', '0,0 2.6,0 3.5,0.8 3.5,2.2 2.6,3 0,3', '2.6,3 4,3.8 4,5.2 2.8,6 0,6'],
  C: ['4,1.2 2.8,0 1.2,0 0,1.5 0,4.5 1.2,6 2.8,6 4,4.8'],
  D: ['0,0 0,6', '0,0 2.4,0 4,1.8 4,4.2 2.4,6 0,6'],
  E: ['4,0 0,0 0,6 4,6', '0,3 3,3'],
  G: ['4,1.2 2.8,0 1.2,0 0,1.5 0,4.5 1.2,6 2.8,6 4,4.8 4,3.3 2.4,3.3'],
  H: ['0,0 0,6', '4,0 4,6', '0,3 4,3'],
  I: ['2,0 2,6', '1,0 3,0', '1,6 3,6'],
  K: ['0,0 0,6', '4,0 0,3.4', '1.3,2.6 4,6'],
  L: ['0,0 0,6 4,6'],
  M: ['0,6 0,0 2,3.4 4,0 4,6'],
  N: ['0,6 0,0 4,6 4,0'],
  O: ['1.2,0 2.8,0 4,1.5 4,4.5 2.8,6 1.2,6 0,4.5 0,1.5 1.2,0'],
  P: ['0,6 0,0 2.8,0 4,0.9 4,2.4 2.8,3.3 0,3.3'],
  R: ['0,6 0,0 2.8,0 4,0.9 4,2.3 2.8,3.2 0,3.2', '2,3.2 4,6'],
  S: ['4,1 2.8,0 1.2,0 0,1 0,2.2 1.2,3 2.8,3 4,3.8 4,5 2.8,6 1.2,6 0,5'],
  T: ['0,0 4,0', '2,0 2,6'],
  U: ['0,0 0,4.6 1.2,6 2.8,6 4,4.6 4,0'],
  W: ['0,0 1,6 2,2.6 3,6 4,0'],
  X: ['0,0 4,6', '4,0 0,6'],
  Y: ['0,0 2,3 4,0', '2,3 2,6'],
  '&': ['4,6 0.8,1.6 0.8,0.6 1.6,0 2.4,0.6 2.4,1.6 0,4 0,5.2 1,6 2.2,6 4,3.6'],
}

/** A line of text as strokes. */
export interface TextStrokes {
  /** Line segments x0, y0, x1, y1, letter by letter. */
  segments: Float64Array
  /** Of each letter the place of its first segment among the numbers, and how far it reaches to both sides. */
  letters: readonly { first: number; end: number; left: number; right: number }[]
  top: number
  bottom: number
}

/** A line of text whose capitals are `height` high, centred on (x, y). */
export function textStrokes(text: string, x: number, y: number, height: number): TextStrokes {
  const unit = height / 6
  const advance = 5.6 * unit
  const start = x - (text.length * advance - 1.6 * unit) / 2
  const segments: number[] = []
  const letters = Array.from(text).map((letter, index) => {
    const first = segments.length
    const left = start + index * advance
    for (const stroke of LETTERS[letter] ?? []) {
      const points = stroke.split(' ').map((pair) => pair.split(',').map(Number))
      for (let i = 0; i + 1 < points.length; i++) {
        const [ax, ay] = points[i]!
        const [bx, by] = points[i + 1]!
        segments.push(left + ax! * unit, y - height / 2 + ay! * unit, left + bx! * unit, y - height / 2 + by! * unit)
      }
    }
    return { first, end: segments.length, left, right: left + 4 * unit }
  })
  return { segments: Float64Array.from(segments), letters, top: y - height / 2, bottom: y + height / 2 }
}

/** How much of the paint lies at (x, y): 1 on the stroke, fading over `soft` at its side. */
export function inkAt(text: TextStrokes, x: number, y: number, thickness: number, soft: number): number {
  const reach = thickness / 2 + soft / 2
  if (y < text.top - reach || y > text.bottom + reach) return 0
  let nearest = reach * reach
  // Most letters and strokes are too far away to matter.
  for (const { first, end, left, right } of text.letters) {
    if (x >= left - reach && x <= right + reach)
      nearest = squareToNearest(text.segments, first, end, x, y, reach, nearest)
  }
  return Math.min(1, Math.max(0, (reach - Math.sqrt(nearest)) / soft))
}

/** Squared distance to the nearest of some segments, or what it was where all are farther away than that. */
function squareToNearest(
  segments: Float64Array,
  first: number,
  end: number,
  x: number,
  y: number,
  reach: number,
  before: number,
): number {
  let nearest = before
  for (let i = first; i < end; i += 4) {
    const px = x - segments[i]!
    const py = y - segments[i + 1]!
    const dx = segments[i + 2]! - segments[i]!
    const dy = segments[i + 3]! - segments[i + 1]!
    if (px < Math.min(0, dx) - reach || px > Math.max(0, dx) + reach) continue
    if (py < Math.min(0, dy) - reach || py > Math.max(0, dy) + reach) continue
    const t = Math.min(1, Math.max(0, (px * dx + py * dy) / (dx * dx + dy * dy)))
    nearest = Math.min(nearest, (px - t * dx) ** 2 + (py - t * dy) ** 2)
  }
  return nearest
}
