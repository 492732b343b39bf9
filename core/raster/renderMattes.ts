import { boxesOverlap, type Box } from '../geometry'
import { STRIP_HEIGHT } from './piecesByStrip'
import { sizeOf, type FittedMatte } from './fittedMatte'
import { latticesOf, type Lattice } from './lattice'
import { fastestPlanes } from './planes'
import { isPlainGroup, PartBoundaries, type Scene } from './scene'
import { StripRenderer, type StripRequest } from './strip'
import { PieceBuffer, type BoundaryPieces } from './union'

/** One matte to make: a Part, with or without the cut of what stands in front of it. */
export interface MatteRequest {
  partId: string
  withHoldouts: boolean
}

export interface RenderOptions {
  /** Whole pixels of the target that are wanted. */
  box: Box
  /** false: only mid-shutter. */
  motionBlur: boolean
  /** Asked between strips; true stops the work and the result is null. */
  isCancelled?: () => boolean
  /** Results of an earlier call, to be written over: fresh memory costs more than clearing. */
  reuse?: readonly Float32Array[]
}

/**
 * Alpha of the requested mattes, each on the pixels that its Part can touch within `box`, in their order.
 *
 * Sub-times: one lattice of the open shutter for all Parts that touch, see {@link latticesOf}. Occlusion is resolved in each sub-time: alpha = mean over k of c_i(u_k) times the product over what stands in
 * front of (1 - c_j(u_k)); a product of blurred mattes would leave a line where two Parts move together.
 */
export function renderFittedMattes(
  scene: Scene,
  requests: readonly MatteRequest[],
  options: RenderOptions,
): FittedMatte[] | null {
  return rendered(scene, requests, options, (own, known) => ({ alpha: clearedArray(known, sizeOf(own)), box: own }))
}

/** The same, each matte over the whole of `box`, Float32, row-major. */
export function renderMattes(
  scene: Scene,
  requests: readonly MatteRequest[],
  options: RenderOptions,
): Float32Array[] | null {
  const { box } = options
  const mattes = rendered(scene, requests, options, (_, known) => ({ alpha: clearedArray(known, sizeOf(box)), box }))
  return mattes && mattes.map(({ alpha }) => alpha)
}

/** Used again for every picture. */
const buffer = new PieceBuffer()

/** @param roomFor  all zero, for a matte that fills the pixels `own` at most */
function rendered(
  scene: Scene,
  requests: readonly MatteRequest[],
  { box, motionBlur, isCancelled, reuse }: RenderOptions,
  roomFor: (own: Box, known: Float32Array | undefined) => FittedMatte,
): FittedMatte[] | null {
  const parts = scene.parts.map((part) => new PartBoundaries(part, motionBlur, buffer, box))
  const lattices = motionBlur ? latticesOf(parts, scene.scale ?? 1) : null
  const inStrips: StripRequest[] = []
  const results: FittedMatte[] = []
  for (const [r, request] of requests.entries()) {
    const index = parts.findIndex(({ part }) => part.id === request.partId)
    const part = parts[index]
    const own = part ? within(pixelsOf(part), box) : NOTHING
    const result = roomFor(own, reuse?.[r])
    results.push(result)
    if (!part || sizeOf(own) === 0) continue
    const cuts = ({ part: front }: PartBoundaries) =>
      (request.withHoldouts && front.holdsOut && !front.spares?.includes(request.partId)) ||
      front.partitions?.includes(request.partId)
    const fronts = parts.slice(0, index).filter((front) => cuts(front) && boxesOverlap(pixelsOf(front), pixelsOf(part)))
    const lattice = lattices?.get(part) ?? MID_SHUTTER
    const { groups, finish } = part.part
    if (fronts.length === 0 && groups.length === 1 && !finish && isPlainGroup(groups[0]!)) {
      if (isCancelled?.()) return null
      renderPlain(part, part.isStill ? 1 : lattice.count, own, result)
    } else inStrips.push({ part, lattice, fronts, out: result })
  }
  if (inStrips.length === 0) return results
  const strips = new StripRenderer(box, fastestPlanes())
  for (let top = box.top; top < box.bottom; top += STRIP_HEIGHT) {
    if (isCancelled?.()) return null
    strips.render(inStrips, top, Math.min(top + STRIP_HEIGHT, box.bottom))
  }
  return results
}

const MID_SHUTTER: Lattice = { count: 1 }

const NOTHING: Box = { left: 0, top: 0, right: 0, bottom: 0 }

function within(own: Box, box: Box): Box {
  const [left, top] = [Math.max(own.left, box.left), Math.max(own.top, box.top)]
  const [right, bottom] = [Math.min(own.right, box.right), Math.min(own.bottom, box.bottom)]
  return left < right && top < bottom ? { left, top, right, bottom } : NOTHING
}

/** Two Parts that meet only inside a pixel share it all the same. */
function pixelsOf(part: PartBoundaries): Box {
  const { left, top, right, bottom } = part.reachedBox
  return { left: Math.floor(left), top: Math.floor(top), right: Math.ceil(right), bottom: Math.ceil(bottom) }
}

function clearedArray(known: Float32Array | undefined, size: number): Float32Array {
  const room = known && new Float32Array(known.buffer)
  return room && room.length >= size ? room.subarray(0, size).fill(0) : new Float32Array(size)
}

/** Sub-times that are accumulated together, a stretch of outline at a time, so that the pixels it crosses stay in the cache. */
const TOGETHER = 8
const PIECES_TOGETHER = 4 * 512

/** A Part with a plain edge that nothing cuts: the sub-times add up before the one running sum. */
function renderPlain(part: PartBoundaries, count: number, box: Box, out: FittedMatte) {
  const { accumulator } = fastestPlanes()
  accumulator.begin(box)
  for (let k = 0; k < count; k += TOGETHER) {
    const boundaries: BoundaryPieces[] = []
    for (let n = k; n < Math.min(count, k + TOGETHER); n++) {
      const boundary = part.boundary(0, (n + 0.5) / count)
      boundaries.push(count === 1 ? boundary : boundary.slice())
    }
    // Pieces lie in the order of their outlines, so the same share of each list is the same place of the picture.
    const shares = Math.ceil(boundaries[0]!.length / PIECES_TOGETHER)
    for (let share = 0; share < shares; share++) {
      for (const boundary of boundaries) {
        const start = 4 * Math.floor((boundary.length * share) / shares / 4)
        const end = 4 * Math.floor((boundary.length * (share + 1)) / shares / 4)
        accumulator.add(boundary.subarray(start, end), 1 / count)
      }
    }
  }
  accumulator.finish(out, true)
  const { opacity } = part.part.groups[0]!
  if (opacity !== 1) for (let i = 0; i < out.alpha.length; i++) out.alpha[i]! *= opacity
}
