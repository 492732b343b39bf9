import type { EdgeGroup, ScenePart } from '@tender-lasso/core/raster'
import { CORNER, CORNER_STRIDE, cubicOutline, type OutlinesOfShot, type WrittenOutlines } from '../outlines'
import { BAKED_OUTLINES_FORMAT, type BakedFalloff, type BakedOutlines } from './schema'

const DECIMALS = 4
const rounded = (value: number): number => Number(value.toFixed(DECIMALS)) + 0

/** The outlines of a shot at mid-shutter as JSON, frame by frame, with the edges that are the same all along an outline. */
export function writeBakedOutlines(shot: OutlinesOfShot): WrittenOutlines {
  const { title, width, height, pixelAspect, rate, frames } = shot
  const lost = new Set<string>()
  let deviation = 0
  const cornersOf = (group: EdgeGroup) =>
    group.outlinesAt(0.5).map((outline) => {
      const written = cubicOutline(outline)
      deviation = Math.max(deviation, written.deviation)
      return cornerList(written.corners)
    })
  const layerOf = (group: EdgeGroup, n: number) => {
    const { edge, opacity, focus = 0, operation = 'add' } = group
    if (group.wideOutlinesAt) lost.add('feather of single points')
    if (group.focusedOutlines) lost.add('focus blur of single points')
    return {
      operation: n === 0 ? ('add' as const) : operation,
      opacity: rounded(opacity),
      featherIn: rounded(edge.innerFeather),
      featherOut: rounded(edge.outerFeather),
      falloff: falloffOf(edge),
      grow: rounded(edge.grow),
      focus: rounded(focus),
      outlines: cornersOf(group),
    }
  }
  const partOf = ({ id, holdsOut, spares = [], finish, groups }: ScenePart) => {
    if (spares.length > 0) lost.add('holdouts of single pairs')
    return {
      ...shot.nameOf(id),
      holdsOut,
      blur: rounded(finish?.blur ?? 0),
      blackPoint: rounded(finish?.blackPoint ?? 0),
      whitePoint: rounded(finish?.whitePoint ?? 1),
      opacity: rounded(finish?.opacity ?? 1),
      layers: groups.map(layerOf),
    }
  }
  const baked: BakedOutlines = {
    format: BAKED_OUTLINES_FORMAT,
    version: 1,
    name: title,
    plate: { width, height, pixelAspect, framesPerSecond: rate },
    frames: frames.map(({ frame, scene }) => ({ frame, parts: scene.parts.map(partOf) })),
  }
  return {
    text: `${JSON.stringify(baked)}\n`,
    deviation: deviation + Math.SQRT1_2 * 10 ** -DECIMALS,
    lost: [...lost],
  }
}

const falloffOf = ({ falloff = 'smooth' }: EdgeGroup['edge']): BakedFalloff =>
  typeof falloff === 'string' ? falloff : [falloff[0], falloff[1]]

function cornerList(corners: readonly number[]) {
  const at = (i: number): [number, number] => [rounded(corners[i]!), rounded(corners[i + 1]!)]
  return Array.from({ length: corners.length / CORNER_STRIDE }, (_, n) => {
    const from = n * CORNER_STRIDE
    return {
      anchor: at(from + CORNER.anchor),
      leaving: at(from + CORNER.leaving),
      arriving: at(from + CORNER.arriving),
    }
  })
}
