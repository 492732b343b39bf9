import { grown, boundsOf, boxesOverlap, type Box } from '../geometry'
import { flattenByArea, flattenOutline, SMALLEST_WEIGHT, type HomogeneousOutline } from '../spline'
import { PiecesByStrip } from './piecesByStrip'
import { PieceBuffer, pushUnion, type BoundaryPieces } from './union'
import {
  edgeReach,
  isPlainEdge,
  rampWidthOf,
  widePieces,
  widePolygon,
  WIDTHS_STRIDE,
  type EdgeProfile,
  type WideOutline,
  type WidePieces,
} from './feather'
import { blurReach, finishReach, type MatteFinish, type PartFinish } from './finish'
import { FocusField, variedReach, type FocusedOutline } from './blur'
import type { LayerOperation } from './layers'
import { splitBlur, spreadReach } from './spread'

/** Shapes of one Part that share an operation, an edge and an opacity, so that they are united as geometry: a layer. */
export interface EdgeGroup {
  /** Missing: add. */
  operation?: LayerOperation
  edge: EdgeProfile
  /** Sigma of a Gaussian over the whole layer, target pixels; missing: none. */
  focus?: number
  /** The outlines at mid-shutter with the focus of each point, where these differ; then it counts in place of `focus`. */
  focusedOutlines?(): FocusedOutline[]
  opacity: number
  /** Outlines in target pixels at position u in 0..1 of the Part's own open shutter. */
  outlinesAt(u: number): HomogeneousOutline[]
  /** The same outlines and what their points add to the widths of the edge; missing where none adds anything. */
  wideOutlinesAt?(u: number): WideOutline[]
}

/**
 * A layer as it is rendered: as much of its blur as is done by looking at its coverage from several places, see {@link splitBlur}, and what is left, evenly or, where its points differ,
 * as a field. Of the only layer of a Part what is left is a matter of the finish.
 */
export type RenderedGroup = Omit<EdgeGroup, 'focusedOutlines'> & { spread?: Float64Array | null; field?: FocusField }

/** A Part as it is rendered: what can be done once is. */
type RenderedPart = Omit<ScenePart, 'finish' | 'groups'> & { groups: RenderedGroup[]; finish?: PartFinish }

/**
 * Two Gaussians one after the other are one: a Part of one layer is blurred once, with what is done to the whole of it; where
 * its focus differs from point to point, before that. Opacity commutes with it.
 */
function withBlurOnce(part: ScenePart): RenderedPart {
  const [first, ...others] = part.groups
  if (!first || others.length > 0) return { ...part, groups: part.groups.map(withSpread) }
  const { finish = NO_FINISH } = part
  const focus = first.focusedOutlines ? first.focus : Math.hypot(finish.blur, first.focus ?? 0)
  const { field, focus: left, ...group } = withSpread({ ...first, focus })
  if (field) return { ...part, groups: [group], finish: { ...finish, focus: field } }
  return focus ? { ...part, groups: [group], finish: { ...finish, blur: left! } } : part
}

/** What is narrowly blurred is partly so by how it is looked at, if its edge is hard. */
function withSpread({ focusedOutlines, ...group }: EdgeGroup): RenderedGroup {
  const isHard = isPlainGroup(group)
  if (focusedOutlines) {
    const field = new FocusField(focusedOutlines())
    if (!isHard) return { ...group, field }
    const { spread, sigma } = splitBlur(field.least)
    field.leaveOut(field.least ** 2 - sigma ** 2)
    return { ...group, spread, field }
  }
  if (!group.focus || !isHard) return group
  const { spread, sigma } = splitBlur(group.focus)
  return { ...group, spread, focus: sigma }
}

const NO_FINISH: MatteFinish = { blur: 0, blackPoint: 0, whitePoint: 1, opacity: 1 }

/** Neither soft nor grown anywhere. */
export const isPlainGroup = ({ edge, wideOutlinesAt }: RenderedGroup): boolean => isPlainEdge(edge) && !wideOutlinesAt

/** What the rasteriser knows of a Part: no document, no time, only outlines over the open shutter. */
export interface ScenePart {
  id: string
  /** This Part cuts itself out of what stands behind it. */
  holdsOut: boolean
  /** Parts behind that it does not cut all the same. */
  spares?: readonly string[]
  /** Parts that share a seam with this one: the nearer of two always cuts the farther, so that they add up to one. */
  partitions?: readonly string[]
  /** Lowest first; the first one adds. */
  groups: EdgeGroup[]
  finish?: MatteFinish
}

/** Parts of one frame, nearest first. */
export interface Scene {
  parts: ScenePart[]
  /** Target pixels per plate pixel; missing: 1. */
  scale?: number
}

/** Where a sweep is measured. */
const OPEN = [0, 0.25, 0.5, 0.75, 1]
const MIDDLE = [0.5]

/** Of eight bits. A polygon may cover so much of a pixel amiss where a hard edge crosses it, and change alpha by so much where a wide ramp is steepest (ADR 49, 51). */
const HALF_A_LEVEL = 1 / 510

/** How far the polygon of a soft edge may lie from its outline, target pixels: chords that end in an anchor use three quarters of it. */
const NARROW_TOLERANCE = 0.0048
const SOFT_TOLERANCE = 0.02

/** The softer an edge is, the less a shift of it changes any pixel: its steepest slope is 1.5 over its width. */
function toleranceOf(edge: EdgeProfile): number {
  const shift = rampWidthOf(edge) / 1.5
  const narrow = Math.min(SOFT_TOLERANCE, Math.max(NARROW_TOLERANCE, NARROW_TOLERANCE * shift))
  return Math.max(narrow, HALF_A_LEVEL * shift)
}

/** Flattened, united boundaries of a Part over the open shutter; computed when asked for and kept. */
export class PartBoundaries {
  private readonly cache = new Map<string, PiecesByStrip>()
  private readonly soft = new Map<string, BoundaryPieces>()
  private readonly wide = new Map<string, { wide: WidePieces; byStrip: PiecesByStrip }>()
  readonly part: RenderedPart
  /** Of each group; measured with the box. */
  private edges: EdgeRange[] = []
  private groupBoxes: Box[] = []
  private sweptBox: Box | null = null
  private largestSweep = -1

  /**
   * @param motionBlur  false: only the middle of the shutter counts, nothing moves
   * @param buffer      may be shared by the Parts of a scene
   * @param wanted      pixels that are looked at: boundaries that cannot touch them are left out; missing: all
   */
  constructor(
    part: ScenePart,
    private readonly motionBlur: boolean,
    private readonly buffer = new PieceBuffer(),
    private readonly wanted?: Box,
  ) {
    this.part = withBlurOnce(part)
  }

  /** What does not move is the same at every position. */
  private keyOf(group: number, u: number): string {
    return `${group}/${this.isStill ? 0.5 : u}`
  }

  /** Boundary pieces at position u, as strips of rows need them; kept, since each strip asks again. */
  pieces(group: number, u: number): PiecesByStrip {
    const key = this.keyOf(group, u)
    let pieces = this.cache.get(key)
    if (!pieces) {
      const all = isPlainGroup(this.part.groups[group]!) ? this.boundary(group, u) : this.softPieces(group, u)
      this.cache.set(key, (pieces = new PiecesByStrip(all)))
    }
    return pieces
  }

  /** All pieces at once in the order of their outlines, as an evenly soft edge needs them; kept as well. */
  softPieces(group: number, u: number): BoundaryPieces {
    const key = this.keyOf(group, u)
    let pieces = this.soft.get(key)
    if (!pieces) this.soft.set(key, (pieces = this.boundary(group, u).slice()))
    return pieces
  }

  /** The same with the widths of the edge, of a group that has wide outlines; kept as well. */
  widePieces(group: number, u: number): { wide: WidePieces; byStrip: PiecesByStrip } {
    const key = this.keyOf(group, u)
    let known = this.wide.get(key)
    if (!known) {
      const { edge, wideOutlinesAt } = this.part.groups[group]!
      const near = wideOutlinesAt!(this.isStill ? 0.5 : u).filter(({ outline }) => this.isNear(group, outline))
      const polygons = near.map((outline) => widePolygon(outline, edge))
      this.buffer.clear()
      pushUnion(
        polygons.map(({ polygon }) => polygon),
        this.buffer,
      )
      const wide = widePieces(this.buffer.view(), polygons)
      this.wide.set(key, (known = { wide, byStrip: new PiecesByStrip(wide.pieces) }))
    }
    return known
  }

  /** The same, computed anew, in a buffer that the next call uses again. */
  boundary(group: number, u: number): BoundaryPieces {
    this.buffer.clear()
    const { edge, outlinesAt } = this.part.groups[group]!
    const all = outlinesAt(u === 0.5 || this.isStill ? 0.5 : u)
    const outlines = all.filter((outline) => this.isNear(group, outline))
    const tolerance = toleranceOf(edge)
    const polygons = isPlainGroup(this.part.groups[group]!)
      ? outlines.map((outline) => flattenByArea(outline, HALF_A_LEVEL))
      : outlines.map((outline) => flattenOutline(outline, tolerance))
    pushUnion(polygons, this.buffer)
    return this.buffer.view()
  }

  /** Whether an outline of a group can touch the wanted pixels. */
  private isNear(group: number, outline: HomogeneousOutline): boolean {
    // What reaches behind the vanishing line may be anywhere.
    if (!this.wanted || reachesBehind(outline)) return true
    const reach = this.groupReach(group) + finishReach(this.part.finish)
    return boxesOverlap(grown(boundsOfOutline(outline), reach + 1), this.wanted)
  }

  /** Narrowest ramp from nothing to all among the Part's edges, target pixels; 0 where one is hard. */
  get rampWidth(): number {
    return Math.min(...this.edgeRanges.map(({ narrowest }) => rampWidthOf(narrowest)))
  }

  /** The edge of each group where it is narrowest and where it is widest, while the shutter is open. */
  get edgeRanges(): readonly EdgeRange[] {
    if (!this.sweptBox) this.measure()
    return this.edges
  }

  get isStill(): boolean {
    return this.sweep < 1e-3
  }

  /** Largest way in target pixels that any control point goes while the shutter is open. */
  get sweep(): number {
    if (this.largestSweep < 0) this.measure()
    return this.largestSweep
  }

  /** Box of everything the Part touches while the shutter is open, without feather. */
  get box(): Box {
    if (!this.sweptBox) this.measure()
    return this.sweptBox!
  }

  /** The same with feather, growth and blur. */
  get reachedBox(): Box {
    const reach = Math.max(0, ...this.edgeRanges.map((_, g) => this.groupReach(g))) + finishReach(this.part.finish)
    return grown(this.box, reach)
  }

  /** Box of what a group touches while the shutter is open, with its feather, growth and focus, before the Part's finish. */
  groupBox(group: number): Box {
    if (!this.sweptBox) this.measure()
    return grown(this.groupBoxes[group]!, this.groupReach(group))
  }

  private groupReach(group: number): number {
    return edgeReach(this.edgeRanges[group]!.widest) + this.focusReach(group)
  }

  /** Farthest that the focus of a group carries anything, target pixels. */
  focusReach(group: number): number {
    const { focus = 0, spread, field } = this.part.groups[group]!
    return (field ? variedReach(field.most) : blurReach(focus)) + spreadReach(spread)
  }

  private measure() {
    const box = emptyBox()
    let largest = 0
    this.groupBoxes = this.part.groups.map(emptyBox)
    this.edges = this.part.groups.map(({ edge }) => ({ narrowest: { ...edge }, widest: { ...edge } }))
    for (const [g, group] of this.part.groups.entries()) {
      let previous: Float64Array[] | null = null
      let ways: Float64Array[] = []
      for (const u of this.motionBlur ? OPEN : MIDDLE) {
        const wide = group.wideOutlinesAt?.(u)
        for (const { pointWidths } of wide ?? []) widen(this.edges[g]!, group.edge, pointWidths)
        const projected = (wide?.map(({ outline }) => outline) ?? group.outlinesAt(u)).map(projectControlPoints)
        for (const points of projected) widenBox(this.groupBoxes[g]!, boundsOf(points))
        if (previous) {
          projected.forEach((points, shape) => {
            const way = (ways[shape] ??= new Float64Array(points.length / 2))
            const before = previous![shape]
            // A stroke can be cut into other pieces at another time.
            if (before?.length !== points.length || way.length !== points.length / 2) return
            for (let i = 0; i < way.length; i++) {
              way[i]! += Math.hypot(points[2 * i]! - before[2 * i]!, points[2 * i + 1]! - before[2 * i + 1]!)
              if (way[i]! > largest) largest = way[i]!
            }
          })
        } else ways = []
        previous = projected
      }
      widenBox(box, this.groupBoxes[g]!)
    }
    this.sweptBox = box
    this.largestSweep = largest
  }
}

interface EdgeRange {
  narrowest: EdgeProfile
  widest: EdgeProfile
}

/** Takes in what the points of an outline add to the widths of its edge. */
function widen({ narrowest, widest }: EdgeRange, edge: EdgeProfile, widths: Float64Array | null) {
  for (let i = 0; widths && i < widths.length; i += WIDTHS_STRIDE) {
    const inner = Math.max(0, edge.innerFeather + widths[i]!)
    const outer = Math.max(0, edge.outerFeather + widths[i + 1]!)
    narrowest.innerFeather = Math.min(narrowest.innerFeather, inner)
    narrowest.outerFeather = Math.min(narrowest.outerFeather, outer)
    widest.innerFeather = Math.max(widest.innerFeather, inner)
    widest.outerFeather = Math.max(widest.outerFeather, outer)
  }
}

function reachesBehind(outline: HomogeneousOutline): boolean {
  for (let i = 2; i < outline.length; i += 3) if (outline[i]! <= SMALLEST_WEIGHT) return true
  return false
}

function projectControlPoints(outline: HomogeneousOutline): Float64Array {
  const out = new Float64Array((outline.length / 3) * 2)
  for (let i = 0; i < outline.length / 3; i++) {
    const w = Math.max(SMALLEST_WEIGHT, outline[3 * i + 2]!)
    out[2 * i] = outline[3 * i]! / w
    out[2 * i + 1] = outline[3 * i + 1]! / w
  }
  return out
}

/** Of an outline that does not reach behind the vanishing line, which lies between its control points. */
function boundsOfOutline(outline: HomogeneousOutline): Box {
  const box = emptyBox()
  for (let i = 0; i < outline.length; i += 3) {
    const [x, y] = [outline[i]! / outline[i + 2]!, outline[i + 1]! / outline[i + 2]!]
    if (x < box.left) box.left = x
    if (x > box.right) box.right = x
    if (y < box.top) box.top = y
    if (y > box.bottom) box.bottom = y
  }
  return box
}

const emptyBox = (): Box => ({ left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity })

function widenBox(box: Box, other: Box) {
  box.left = Math.min(box.left, other.left)
  box.top = Math.min(box.top, other.top)
  box.right = Math.max(box.right, other.right)
  box.bottom = Math.max(box.bottom, other.bottom)
}
