/** Pixels by which a place must lie within a circle to count as held by it. */
const TOLERANCE = 0.05

/** Pieces that are passed over at once where a place is too far from all of them. */
const TOGETHER = 12

/** Numbers of a piece here: where it begins, its direction, its length, the radius there, how that rises along it, and its lean. */
const STRIDE = 8

/**
 * The circles about all places of an outline whose width runs straight along each of its pieces. Pieces that follow one another lie near each other: of
 * most of them it is enough to know the box that their circles fill.
 */
export class CirclesAbout {
  private readonly pieces: Float64Array
  /** Left, top, right, bottom of the circles of each {@link TOGETHER} pieces. */
  private readonly boxes: Float64Array

  /**
   * @param pieces  x0, y0, x1, y1 of each
   * @param radius  at the end of a piece whose x is that number of the list
   */
  constructor(pieces: Float64Array, radius: (i: number) => number) {
    this.pieces = new Float64Array((pieces.length / 4) * STRIDE)
    this.boxes = new Float64Array(Math.ceil(pieces.length / 4 / TOGETHER) * 4)
    let at = 0
    for (let i = 0; i < pieces.length; i += 4) {
      const [x0, y0, x1, y1] = [pieces[i]!, pieces[i + 1]!, pieces[i + 2]!, pieces[i + 3]!]
      const [from, to] = [radius(i), radius(i + 2)]
      const length = Math.sqrt((x1 - x0) ** 2 + (y1 - y0) ** 2)
      if (length === 0) continue
      const slope = (to - from) / length
      // The place whose circle reaches deepest lies where the way to it leans as the width rises.
      const lean = slope / Math.sqrt(Math.max(1e-9, 1 - slope * slope))
      const box = Math.floor(at / STRIDE / TOGETHER) * 4
      const isFirst = at % (STRIDE * TOGETHER) === 0
      const most = Math.max(from, to)
      this.widen(
        box,
        isFirst,
        Math.min(x0, x1) - most,
        Math.min(y0, y1) - most,
        Math.max(x0, x1) + most,
        Math.max(y0, y1) + most,
      )
      this.pieces.set([x0, y0, (x1 - x0) / length, (y1 - y0) / length, length, from, slope, lean], at)
      at += STRIDE
    }
    this.pieces = this.pieces.subarray(0, at)
  }

  private widen(box: number, isFirst: boolean, left: number, top: number, right: number, bottom: number) {
    const { boxes } = this
    boxes[box] = isFirst ? left : Math.min(boxes[box]!, left)
    boxes[box + 1] = isFirst ? top : Math.min(boxes[box + 1]!, top)
    boxes[box + 2] = isFirst ? right : Math.max(boxes[box + 2]!, right)
    boxes[box + 3] = isFirst ? bottom : Math.max(boxes[box + 3]!, bottom)
  }

  /** Whether a place lies within the circle of some place of the outline by more than the tolerance. */
  hold(x: number, y: number): boolean {
    const { pieces, boxes } = this
    for (let i = 0, box = 0; i < pieces.length; i += STRIDE * TOGETHER, box += 4) {
      if (x < boxes[box]! || y < boxes[box + 1]! || x > boxes[box + 2]! || y > boxes[box + 3]!) continue
      const end = Math.min(pieces.length, i + STRIDE * TOGETHER)
      for (let k = i; k < end; k += STRIDE) if (this.holdsOne(k, x, y)) return true
    }
    return false
  }

  private holdsOne(k: number, x: number, y: number): boolean {
    const { pieces } = this
    const px = x - pieces[k]!
    const py = y - pieces[k + 1]!
    const ux = pieces[k + 2]!
    const uy = pieces[k + 3]!
    const length = pieces[k + 4]!
    const along = px * ux + py * uy
    const across = Math.abs(px * uy - py * ux)
    const best = along + across * pieces[k + 7]!
    const t = best > 0 ? (best < length ? best : length) : 0
    const reach = pieces[k + 5]! + pieces[k + 6]! * t - TOLERANCE
    return reach > 0 && (t - along) ** 2 + across * across < reach * reach
  }
}
