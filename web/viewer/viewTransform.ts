import { motionAt, smoothMotion, type MotionSamples } from '@tender-lasso/core/motion'
import { findObject, type RotoDocument } from '@tender-lasso/core/document'
import { motionSamplesOf } from '@tender-lasso/core/evaluation'
import { identity, invert, multiply, type Matrix3 } from '@tender-lasso/core/geometry'
import type { View } from '../store'

/** From plate pixels to CSS pixels of the viewer: Steady first, then pixel aspect, zoom and pan. */
export function plateToScreen(view: View, document: RotoDocument, frame: number, pixelAspect: number): Matrix3 {
  const place = Float64Array.of(view.zoom * pixelAspect, 0, view.panX, 0, view.zoom, view.panY, 0, 0, 1)
  return multiply(place, steadyMap(view, document, frame))
}

/** Brings frame `frame` to where the track's reference frame shows it, or to where a camera on rails would. */
function steadyMap(view: View, document: RotoDocument, frame: number): Matrix3 {
  const track = view.steadyTrackId === null ? undefined : findObject(document, 'track', view.steadyTrackId)
  const samples = track && motionSamplesOf(track)
  const motion = samples && motionAt(samples, frame).matrix
  if (!motion) return identity()
  const rails = view.isSteadySmooth ? motionAt(onRails(samples), frame).matrix : null
  return rails ? multiply(rails, invert(motion)) : invert(motion)
}

/** Frames over which the way of the camera is evened out: it keeps going where it went, without its shake. */
const RAILS_STRENGTH = 12
const smoothed = new WeakMap<MotionSamples, MotionSamples>()

function onRails(samples: MotionSamples): MotionSamples {
  let rails = smoothed.get(samples)
  if (!rails) {
    const [position, rotation, scale, perspective] = [RAILS_STRENGTH, RAILS_STRENGTH, RAILS_STRENGTH, RAILS_STRENGTH]
    rails = smoothMotion(samples, { method: 'spline', position, rotation, scale, perspective, range: null })
    smoothed.set(samples, rails)
  }
  return rails
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
  const margin = 6
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
