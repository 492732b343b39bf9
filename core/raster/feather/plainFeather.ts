import type { Box } from '../../geometry'
import { putPixels, type FittedMatte } from '../fittedMatte'
import type { BoundaryPieces } from '../union'
import { edgeReach, exactShareOf, rampAt, type EdgeProfile } from './edgeProfile'
import type { Feather } from './feather'
import { insideOfCentres } from './insideOfCentres'

/** Every piece looks at every pixel in its reach: the tested reference of the faster way. */
export class PlainFeather implements Feather {
  private box: Box = { left: 0, top: 0, right: 0, bottom: 0 }
  private sum = new Float32Array(0)

  begin(box: Box) {
    this.box = box
    this.sum = new Float32Array((box.right - box.left) * (box.bottom - box.top))
  }

  add(pieces: BoundaryPieces, coverage: Float32Array | null, edge: EdgeProfile, weight: number) {
    const { box, sum } = this
    const reach = edgeReach(edge)
    const squared = squaredDistances(pieces, box, reach)
    const inside = insideOfCentres(pieces, box)
    const exactShare = coverage ? exactShareOf(edge) : 0
    const reachSquared = reach * reach
    for (let i = 0; i < squared.length; i++) {
      const d2 = squared[i]!
      if (d2 >= reachSquared) {
        sum[i]! += weight * inside[i]!
        continue
      }
      const distance = inside[i] ? -Math.sqrt(d2) : Math.sqrt(d2)
      let alpha = rampAt(distance - edge.grow, edge.innerFeather, edge.outerFeather, edge.falloff)
      if (exactShare > 0) alpha += exactShare * (coverage![i]! - Math.min(1, Math.max(0, 0.5 - distance)))
      sum[i]! += weight * (alpha < 0 ? 0 : alpha > 1 ? 1 : alpha)
    }
  }

  finish(out: FittedMatte) {
    putPixels(this.sum, this.box, out)
  }
}

/** Squared distance of every pixel centre to the nearest piece, at most reach squared. */
function squaredDistances(pieces: BoundaryPieces, box: Box, reach: number): Float32Array {
  const width = box.right - box.left
  const height = box.bottom - box.top
  const out = new Float32Array(width * height).fill(reach * reach)
  for (let i = 0; i < pieces.length; i += 4) {
    const ax = pieces[i]! - box.left - 0.5
    const ay = pieces[i + 1]! - box.top - 0.5
    const bx = pieces[i + 2]! - box.left - 0.5
    const by = pieces[i + 3]! - box.top - 0.5
    const top = Math.max(0, Math.ceil(Math.min(ay, by) - reach))
    const bottom = Math.min(height - 1, Math.floor(Math.max(ay, by) + reach))
    const left = Math.max(0, Math.ceil(Math.min(ax, bx) - reach))
    const right = Math.min(width - 1, Math.floor(Math.max(ax, bx) + reach))
    if (top > bottom || left > right) continue
    const dx = bx - ax
    const dy = by - ay
    const lengthSquared = dx * dx + dy * dy
    // So short that its square vanishes, a piece is as good as its first end.
    const inverse = lengthSquared > 1e-30 ? 1 / lengthSquared : 0
    for (let y = top; y <= bottom; y++) {
      const py = y - ay
      for (let x = left, at = y * width + left; x <= right; x++, at++) {
        const px = x - ax
        let t = (px * dx + py * dy) * inverse
        t = t < 0 ? 0 : t > 1 ? 1 : t
        const ex = px - t * dx
        const ey = py - t * dy
        const d = ex * ex + ey * ey
        if (d < out[at]!) out[at] = d
      }
    }
  }
  return out
}
