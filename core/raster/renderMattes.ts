import type { Box } from '../geometry'
import { CoverageAccumulator } from './accumulate'
import { edgeReach, featheredAlpha, isPlainEdge } from './feather'
import { PartBoundaries, type Scene } from './scene'

/** One matte to make: a Part, with or without the cut of what stands in front of it. */
export interface MatteRequest {
  partId: string
  withHoldouts: boolean
}

export const TILE_SIZE = 256
export const MOST_SUB_TIMES = 64

export interface RenderOptions {
  /** Whole pixels of the target that are wanted. */
  box: Box
  /** false: only mid-shutter. */
  motionBlur: boolean
  /** Asked between tiles; true stops the work and the result is null. */
  isCancelled?: () => boolean
}

/**
 * Alpha of the requested mattes over `box`, Float32, row-major, one array a request in their order.
 *
 * Sub-times: one lattice of the open shutter per tile, N = largest sweep in pixels, 1 to 64. Occlusion is resolved in
 * each sub-time: alpha = mean over k of c_i(u_k) times the product over what stands in front of (1 - c_j(u_k)); a
 * product of blurred mattes would leave a line where two Parts move together.
 */
export function renderMattes(
  scene: Scene,
  requests: readonly MatteRequest[],
  options: RenderOptions,
): Float32Array[] | null {
  const { box } = options
  const width = box.right - box.left
  const height = box.bottom - box.top
  const results = requests.map(() => new Float32Array(width * height))
  const parts = scene.parts.map((part) => new PartBoundaries(part))
  const tile = new TileRenderer()
  for (let top = box.top; top < box.bottom; top += TILE_SIZE) {
    for (let left = box.left; left < box.right; left += TILE_SIZE) {
      if (options.isCancelled?.()) return null
      const tileBox = {
        left,
        top,
        right: Math.min(left + TILE_SIZE, box.right),
        bottom: Math.min(top + TILE_SIZE, box.bottom),
      }
      tile.render(parts, requests, tileBox, options.motionBlur, (request, alpha) => {
        const tileWidth = tileBox.right - left
        const out = results[request]!
        for (let row = 0; row < tileBox.bottom - top; row++) {
          out.set(
            alpha.subarray(row * tileWidth, (row + 1) * tileWidth),
            (top - box.top + row) * width + left - box.left,
          )
        }
      })
    }
  }
  return results
}

/** Sub-times a sweep of so many pixels needs: one a pixel. */
export function subTimesFor(sweepPixels: number): number {
  return Math.min(MOST_SUB_TIMES, Math.max(1, Math.ceil(sweepPixels)))
}

class TileRenderer {
  private accumulator: CoverageAccumulator | null = null
  private accumulatorBox: Box | null = null

  render(
    parts: readonly PartBoundaries[],
    requests: readonly MatteRequest[],
    box: Box,
    motionBlur: boolean,
    deliver: (request: number, alpha: Float32Array) => void,
  ) {
    const size = (box.right - box.left) * (box.bottom - box.top)
    const touching = parts.map((part) => touches(part, box))
    const needed = new Map<number, number[]>()
    requests.forEach((request, r) => {
      const index = parts.findIndex((p) => p.part.id === request.partId)
      if (index < 0 || !touching[index]) return
      const fronts: number[] = []
      if (request.withHoldouts) {
        for (let j = 0; j < index; j++) if (touching[j] && parts[j]!.part.holdsOut) fronts.push(j)
      }
      if (fronts.length === 0) {
        deliver(r, this.blurredAlpha(parts[index]!, box, subTimes([parts[index]!], motionBlur)))
      } else needed.set(r, [index, ...fronts])
    })
    if (needed.size === 0) return
    const members = [...new Set([...needed.values()].flat())]
    const count = subTimes(
      members.map((i) => parts[i]!),
      motionBlur,
    )
    const sums = new Map([...needed.keys()].map((r) => [r, new Float32Array(size)]))
    const alphas = new Map(members.map((i) => [i, new Float32Array(size)]))
    for (let k = 0; k < count; k++) {
      const u = (k + 0.5) / count
      for (const i of members) {
        if (k === 0 || !parts[i]!.isStill) this.alphaAt(parts[i]!, u, box, alphas.get(i)!)
      }
      for (const [r, [own, ...fronts]] of needed) addVisible(sums.get(r)!, alphas, own!, fronts, 1 / count)
    }
    for (const [r, sum] of sums) deliver(r, sum)
  }

  /** Mean over the open shutter of one Part alone. Plain edges add up before the one running sum. */
  private blurredAlpha(part: PartBoundaries, box: Box, count: number): Float32Array {
    const out = new Float32Array((box.right - box.left) * (box.bottom - box.top))
    const groups = part.part.groups
    if (groups.length === 1 && isPlainEdge(groups[0]!.edge)) {
      const accumulator = this.accumulatorFor(box)
      for (let k = 0; k < count; k++) {
        accumulator.add(part.piecesInRows(0, (k + 0.5) / count, box.top, box.bottom), 1 / count)
      }
      accumulator.writeTo(out)
      scale(out, groups[0]!.opacity)
      return out
    }
    const alpha = new Float32Array(out.length)
    for (let k = 0; k < count; k++) {
      this.alphaAt(part, (k + 0.5) / count, box, alpha)
      for (let i = 0; i < out.length; i++) out[i]! += alpha[i]! / count
    }
    return out
  }

  /** Alpha of a Part at one sub-time: the largest of its edge groups. */
  private alphaAt(part: PartBoundaries, u: number, box: Box, out: Float32Array) {
    out.fill(0)
    const coverage = new Float32Array(out.length)
    part.part.groups.forEach((group, g) => {
      const reach = edgeReach(group.edge)
      const pieces = part.piecesInRows(g, u, box.top - reach, box.bottom + reach)
      const accumulator = this.accumulatorFor(box)
      accumulator.add(pieces)
      accumulator.writeTo(coverage)
      let alpha = coverage
      if (!isPlainEdge(group.edge)) {
        alpha = new Float32Array(out.length)
        featheredAlpha(pieces, coverage, box, group.edge, alpha)
      }
      for (let i = 0; i < out.length; i++) {
        const value = alpha[i]! * group.opacity
        if (value > out[i]!) out[i] = value
      }
    })
  }

  private accumulatorFor(box: Box): CoverageAccumulator {
    const known = this.accumulatorBox
    if (
      !this.accumulator ||
      !known ||
      known.left !== box.left ||
      known.top !== box.top ||
      known.right !== box.right ||
      known.bottom !== box.bottom
    ) {
      this.accumulator = new CoverageAccumulator(box)
      this.accumulatorBox = box
    } else this.accumulator.clear()
    return this.accumulator
  }
}

function addVisible(
  sum: Float32Array,
  alphas: ReadonlyMap<number, Float32Array>,
  own: number,
  fronts: readonly number[],
  weight: number,
) {
  const alpha = alphas.get(own)!
  const masks = fronts.map((j) => alphas.get(j)!)
  for (let i = 0; i < sum.length; i++) {
    let value = alpha[i]!
    if (value === 0) continue
    for (const mask of masks) value *= 1 - mask[i]!
    sum[i]! += value * weight
  }
}

function scale(values: Float32Array, factor: number) {
  if (factor !== 1) for (let i = 0; i < values.length; i++) values[i]! *= factor
}

function subTimes(parts: readonly PartBoundaries[], motionBlur: boolean): number {
  return motionBlur ? subTimesFor(Math.max(...parts.map((part) => part.sweep))) : 1
}

function touches(part: PartBoundaries, box: Box): boolean {
  const reach = Math.max(0, ...part.part.groups.map((group) => edgeReach(group.edge)))
  const own = part.box
  return (
    own.left - reach < box.right &&
    own.right + reach > box.left &&
    own.top - reach < box.bottom &&
    own.bottom + reach > box.top
  )
}
