import type { Box } from '../../geometry'
import type { FittedMatte } from '../fittedMatte'
import type { BoundaryPieces } from '../union'
import type { EdgeProfile } from './edgeProfile'

/** Computes the alpha of soft and grown edges, added up over the sub-times of a motion. */
export interface Feather {
  /** Begins anew. @param box  whole pixels of the target */
  begin(box: Box): void
  /**
   * Adds, with a weight, the alpha by distance to the outline: 1 inside, 0 outside, a smooth ramp from `innerFeather` inside
   * to `outerFeather` outside, so continuous on the medial axis too, where offset outlines would fold.
   *
   * The ramp is averaged over one pixel across the edge. Where the widths vanish, the exact area coverage of the outline
   * takes over, so that a feather of nothing changes nothing.
   *
   * @param pieces    boundary of the region, in target pixels, best in the order of its outlines; not changed afterwards
   * @param coverage  exact coverage of the same region on the same box; null where `exactShareOf` the edge is 0
   */
  add(pieces: BoundaryPieces, coverage: Float32Array | null, edge: EdgeProfile, weight: number): void
  /** Writes the sum of every pixel of the box that `out` has; its sides are not within those of the box. */
  finish(out: FittedMatte): void
}
