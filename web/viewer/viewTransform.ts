import { motionAt } from '@tender-lasso/core/motion'
import { find, motionSamplesOf, type RotoDocument } from '@tender-lasso/core/document'
import { identity, invert, multiply, type Matrix3 } from '@tender-lasso/core/geometry'
import type { View } from '../state/shotStore'

/** From plate pixels to CSS pixels of the viewer: Steady first, then pixel aspect, zoom and pan. */
export function plateToScreen(view: View, document: RotoDocument, frame: number, pixelAspect: number): Matrix3 {
  const place = Float64Array.of(view.zoom * pixelAspect, 0, view.panX, 0, view.zoom, view.panY, 0, 0, 1)
  return multiply(place, steadyMap(view, document, frame))
}

/** Brings frame `frame` to where the track's reference frame shows it. */
function steadyMap(view: View, document: RotoDocument, frame: number): Matrix3 {
  const track = view.steadyTrackId === null ? undefined : find(document, 'track', view.steadyTrackId)
  const motion = track && motionAt(motionSamplesOf(track), frame).matrix
  return motion ? invert(motion) : identity()
}

export type ViewPlace = Pick<View, 'zoom' | 'panX' | 'panY'>

export const isSamePlace = (a: ViewPlace, b: ViewPlace | null) =>
  b !== null && a.zoom === b.zoom && a.panX === b.panX && a.panY === b.panY

/** Zoom and pan that show the whole plate in the middle. */
export function fitted(
  width: number,
  height: number,
  plateWidth: number,
  plateHeight: number,
  pixelAspect: number,
): ViewPlace {
  const margin = 12
  const zoom = Math.min((width - 2 * margin) / (plateWidth * pixelAspect), (height - 2 * margin) / plateHeight)
  return {
    zoom,
    panX: (width - plateWidth * pixelAspect * zoom) / 2,
    panY: (height - plateHeight * zoom) / 2,
  }
}

/** The same view zoomed so that the point under the pointer stays there. */
export function zoomedAt(view: View, x: number, y: number, factor: number): ViewPlace {
  const zoom = Math.min(64, Math.max(0.02, view.zoom * factor))
  const ratio = zoom / view.zoom
  return { zoom, panX: x - (x - view.panX) * ratio, panY: y - (y - view.panY) * ratio }
}
