import { grown, type Box } from '../geometry'
import { exactShareOf, fastestFeather, variedFeather, type EdgeProfile } from './feather'
import { blurInto, finishInto, finishReach, isLinear } from './finish'
import { fastestBlur, variedBlurInto } from './blur'
import { putPixels, sizeOf, type FittedMatte } from './fittedMatte'
import type { Lattice } from './lattice'
import { laidOver } from './layers'
import type { Plane, Planes } from './planes'
import type { PiecesByStrip } from './piecesByStrip'
import { columnsOf, columnsWithin, sharedColumns } from './sharedColumns'
import { addSpread, spreadReach } from './spread'
import { isPlainGroup, type RenderedGroup, type PartBoundaries } from './scene'

/** A matte to be written: the Part, what is cut out of it, and the pixels it goes to. */
export interface StripRequest {
  part: PartBoundaries
  /** Shared by all Parts that touch, so by what is in front as well. */
  lattice: Lattice
  fronts: readonly PartBoundaries[]
  out: FittedMatte
}

/** A request with what cuts it in a strip, and the sum of its sub-times. */
interface CutRequest {
  request: StripRequest
  box: Box
  fronts: readonly PartBoundaries[]
  sum: Float32Array
}

type AlphaAt = (part: PartBoundaries, u: number, box: Box, out: Float32Array) => void

/** Renders strip after strip of a picture, each Part only on the columns that it touches, with buffers used again. */
export class StripRenderer {
  constructor(
    private readonly picture: Box,
    private readonly planes: Planes,
  ) {}

  render(requests: readonly StripRequest[], top: number, bottom: number) {
    const boxes = new Map<PartBoundaries, Box | null>()
    const boxOf = (part: PartBoundaries) => {
      let box = boxes.get(part)
      if (box === undefined) boxes.set(part, (box = columnsWithin(part.reachedBox, { ...this.picture, top, bottom })))
      return box
    }
    this.planes.taken = 0
    const withFronts: CutRequest[] = []
    for (const request of requests) {
      const box = boxOf(request.part)
      if (!box) continue
      const fronts = request.fronts.filter((front) => {
        const other = boxOf(front)
        return other !== null && other.left < box.right && other.right > box.left
      })
      if (fronts.length === 0) this.renderAlone(request, box)
      else withFronts.push({ request, box, fronts, sum: this.takeCleared(sizeOf(box)) })
    }
    const byLattice = new Map<Lattice, CutRequest[]>()
    for (const one of withFronts) {
      const alike = byLattice.get(one.request.lattice)
      if (alike) alike.push(one)
      else byLattice.set(one.request.lattice, [one])
    }
    for (const [{ count }, alike] of byLattice) this.renderCut(alike, count, boxOf)
  }

  /** Means over the open shutter of Parts that others cut, all at the same sub-times. */
  private renderCut(withFronts: readonly CutRequest[], count: number, boxOf: (part: PartBoundaries) => Box | null) {
    const members = [...new Set(withFronts.flatMap(({ request, fronts }) => [request.part, ...fronts]))]
    const alphas = new Map(members.map((part) => [part, this.alphaBuffer(boxOf(part)!)]))
    const visible = this.planes.take(Math.max(...withFronts.map(({ box }) => sizeOf(box))))
    const reusable = this.planes.taken
    const weight = 1 / count
    for (let k = 0; k < count; k++) {
      for (const [part, alpha] of alphas) {
        if (k > 0 && part.isStill) continue
        this.planes.taken = reusable
        this.alphaAt(part, (k + 0.5) / count, alpha.box, alpha.values)
      }
      for (const { request, fronts, sum } of withFronts) {
        let own = alphas.get(request.part)!
        for (const front of fronts.slice(0, -1)) {
          this.planes.cut(own, alphas.get(front)!, visible)
          own = { box: own.box, values: visible }
        }
        this.planes.addCut(sum, own, alphas.get(fronts.at(-1)!)!, weight)
      }
    }
    for (const { request, box, sum } of withFronts) putPixels(sum, box, request.out)
  }

  /** Mean over the open shutter of one Part that nothing cuts. */
  private renderAlone({ part, lattice, out }: StripRequest, box: Box) {
    const count = part.isStill ? 1 : lattice.count
    const { groups, finish } = part.part
    if (groups.length === 1 && isEvenlySoft(groups[0]!) && !finish) {
      return this.softMean(part, 0, count, box, out)
    }
    if (!finish) return putPixels(this.meanOfLayers(part, count, box), box, out)
    // What is linear is done once, to the mean.
    if (!isLinear(finish)) return putPixels(this.mean(part, count, box, this.alphaAt), box, out)
    const around = grown(box, finishReach(finish))
    const mean = this.meanOfLayers(part, count, around)
    const finished = this.planes.take(sizeOf(box))
    finishInto(mean, around, finish, box, finished)
    putPixels(finished, box, out)
  }

  /**
   * Mean over the sub-times of the layers of a Part over one another. Where they lie beside each other that is the sum of their means, and each is much
   * sooner drawn by itself: only the columns that they share are laid over one another at each sub-time.
   */
  private meanOfLayers(part: PartBoundaries, count: number, box: Box): Float32Array {
    const { groups } = part.part
    // What a layer is intersected with is taken away where that one is not.
    if (count === 1 || groups.some(({ operation }) => operation === 'intersect'))
      return this.mean(part, count, box, this.layersAt)
    const shared = sharedColumns(part, box)
    if (shared && shared.right - shared.left > (box.right - box.left) / 2) return this.mean(part, count, box, this.layersAt) // prettier-ignore
    const sum = this.takeCleared(sizeOf(box))
    const reusable = this.planes.taken
    groups.forEach((group, g) => {
      // Of nothing there is nothing to be taken.
      const own = g > 0 && group.operation === 'subtract' ? null : columnsOf(part, g, box)
      if (!own || (shared && own.left >= shared.left && own.right <= shared.right)) return
      this.planes.taken = reusable
      const mean = this.meanOfLayer(part, g, count, own)
      if (g === 0 && group.opacity === 1) putPixels(mean, own, { box, alpha: sum })
      else addPixels(mean, own, group.opacity, sum, box)
    })
    if (shared) {
      this.planes.taken = reusable
      putPixels(this.mean(part, count, shared, this.layersAt), shared, { box, alpha: sum })
    }
    return sum
  }

  /** Mean over the sub-times of one layer, but for its opacity. */
  private meanOfLayer(part: PartBoundaries, g: number, count: number, box: Box): Float32Array {
    const group = part.part.groups[g]!
    if (group.focus || group.field || group.spread || group.wideOutlinesAt) {
      return this.mean(part, count, box, (_, u, own, alpha) => this.layerAt(part, g, u, own, alpha))
    }
    const { accumulator } = this.planes
    const out = this.planes.take(sizeOf(box))
    if (isPlainGroup(group)) {
      accumulator.begin(box)
      for (let k = 0; k < count; k++) accumulator.add(part.pieces(g, (k + 0.5) / count).touching(box.top, box.bottom - 1), 1 / count) // prettier-ignore
      accumulator.finish({ box, alpha: out })
    } else this.softMean(part, g, count, box, { box, alpha: out })
    return out
  }

  /** Mean over the sub-times of one layer whose edge is evenly soft. */
  private softMean(part: PartBoundaries, g: number, count: number, box: Box, out: FittedMatte) {
    const soft = fastestFeather()
    soft.begin(box)
    const reusable = this.planes.taken
    for (let k = 0; k < count; k++) {
      this.planes.taken = reusable
      this.addSoft(part, g, (k + 0.5) / count, box, 1 / count)
    }
    soft.finish(out)
  }

  /** Mean over the sub-times of what `alphaAt` gives. */
  private mean(part: PartBoundaries, count: number, box: Box, alphaAt: AlphaAt): Float32Array {
    const size = sizeOf(box)
    const sum = this.takeCleared(size)
    const alpha = this.planes.take(size)
    const reusable = this.planes.taken
    for (let k = 0; k < count; k++) {
      this.planes.taken = reusable
      alphaAt.call(this, part, (k + 0.5) / count, box, alpha)
      this.planes.addShare(sum, alpha, size, 1 / count)
    }
    return sum
  }

  /** Alpha of a Part at one sub-time: its layers over one another, finished. */
  private alphaAt(part: PartBoundaries, u: number, box: Box, out: Float32Array) {
    const { finish } = part.part
    if (!finish) return this.layersAt(part, u, box, out)
    const around = grown(box, finishReach(finish))
    const alpha = this.planes.take(sizeOf(around))
    this.layersAt(part, u, around, alpha)
    finishInto(alpha, around, finish, box, out)
  }

  private layersAt(part: PartBoundaries, u: number, box: Box, out: Float32Array) {
    part.part.groups.forEach(({ opacity, operation = 'add' }, g) => {
      const own = g === 0 || operation === 'intersect' ? box : columnsOf(part, g, box)
      if (!own) return
      const size = sizeOf(own)
      const values = g === 0 ? out : this.planes.take(size)
      this.layerAt(part, g, u, own, values)
      if (opacity !== 1) for (let i = 0; i < size; i++) values[i]! *= opacity
      if (g > 0) laidOver({ box, values: out }, { box: own, values }, operation)
    })
  }

  /** Alpha of one layer, in focus or out of it, but for its opacity. */
  private layerAt(part: PartBoundaries, g: number, u: number, box: Box, out: Float32Array) {
    const { focus, field } = part.part.groups[g]!
    if (!field && !focus) return this.groupAt(part, g, u, box, out)
    const around = grown(box, part.focusReach(g))
    const sharp = this.planes.take(sizeOf(around))
    this.groupAt(part, g, u, around, sharp)
    if (field) variedBlurInto(fastestBlur(), sharp, around, field, box, out)
    else blurInto(sharp, around, focus!, box, out)
  }

  /** Alpha of one edge group, as sharp as its edge is. */
  private groupAt(part: PartBoundaries, g: number, u: number, box: Box, alpha: Float32Array) {
    const group = part.part.groups[g]!
    if (group.wideOutlinesAt) this.variedAt(part, g, u, box, alpha)
    else if (isPlainGroup(group)) this.coverage(part.pieces(g, u), box, alpha, group.spread)
    else {
      fastestFeather().begin(box)
      this.addSoft(part, g, u, box, 1)
      fastestFeather().finish({ box, alpha })
    }
  }

  /** Adds the soft alpha of one edge group at one sub-time to what the feather was begun with. */
  private addSoft(part: PartBoundaries, group: number, u: number, box: Box, weight: number) {
    const { edge } = part.part.groups[group]!
    const coverage = this.coverageUnder(edge, () => part.pieces(group, u), box)
    fastestFeather().add(part.softPieces(group, u), coverage, edge, weight)
  }

  /** Alpha of one edge group whose widths vary along its outlines. */
  private variedAt(part: PartBoundaries, group: number, u: number, box: Box, out: Float32Array) {
    const { wide, byStrip } = part.widePieces(group, u)
    const coverage = this.coverageUnder(part.edgeRanges[group]!.narrowest, () => byStrip, box)
    variedFeather(wide, coverage, part.part.groups[group]!.edge, box, out)
  }

  /** Exact coverage of a region, where its edge is so narrow that it counts; else null. */
  private coverageUnder(edge: EdgeProfile, pieces: () => PiecesByStrip, box: Box): Float32Array | null {
    if (exactShareOf(edge) === 0) return null
    return this.coverage(pieces(), box, this.planes.take(sizeOf(box)))
  }

  /** Exact coverage of a region, looked at from one place or from several about each pixel. */
  private coverage(pieces: PiecesByStrip, box: Box, out: Float32Array, spread?: RenderedGroup['spread']): Float32Array {
    const { accumulator } = this.planes
    const reach = spreadReach(spread)
    const touching = pieces.touching(box.top - reach, box.bottom - 1 + reach)
    accumulator.begin(box)
    if (spread) addSpread(accumulator, touching, spread)
    else accumulator.add(touching)
    accumulator.finish({ box, alpha: out })
    return out
  }

  private alphaBuffer(box: Box): Plane {
    return { box, values: this.planes.take(sizeOf(box)) }
  }

  private takeCleared(size: number): Float32Array {
    return this.planes.take(size).fill(0, 0, size)
  }
}

const isEvenlySoft = (group: RenderedGroup) => group.opacity === 1 && !group.wideOutlinesAt && !isPlainGroup(group)

/** Adds a share of the values over `box` to those over a box around it. */
function addPixels(values: Float32Array, box: Box, share: number, sum: Float32Array, around: Box) {
  const [width, aroundWidth] = [box.right - box.left, around.right - around.left]
  for (let row = 0; row < box.bottom - box.top; row++) {
    const to = row * aroundWidth + box.left - around.left
    for (let x = 0; x < width; x++) sum[to + x]! += share * values[row * width + x]!
  }
}
