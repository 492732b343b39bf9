import { allOf, type Track } from '@tender-lasso/core/document'
import { frameState, motionSamplesOf, rawSamplesOf, sampleAt, type FrameState } from '@tender-lasso/core/evaluation'
import { applyToPoint, movedPolygon, type Matrix3, matrixAt } from '@tender-lasso/core/geometry'
import type { MotionSamples } from '@tender-lasso/core/motion'
import { css, trackColour, mainTrackId, type ShotState } from '../store'
import { drawProofLaid } from './proofLaid'
import { strokePolygon } from './strokePolygon'
import { leaveOutOn, reportedCentre, searchBoxOn, shownOutlines } from './tools/trackHandles'
import { strokeCased } from './strokeCased'

/** Line of a region by how the frame is known: seen is whole, bridged dotted, not known dashed. */
const DASHES: Record<FrameState, number[]> = {
  tracked: [],
  doubtful: [9, 3],
  placed: [],
  combined: [],
  bridged: [1.5, 3.5],
  missing: [3, 5],
}

/** Regions of tracks where they are now; the selected ones with path, centre, search box and what they leave out. */
export function drawTracks(context: CanvasRenderingContext2D, state: ShotState, toScreen: Matrix3) {
  const { shown: document, frame, selection, step, tool } = state
  const main = mainTrackId(selection)
  for (const track of allOf(document, 'track')) {
    const isSelected = selection.trackIds.includes(track.id)
    const isShown = track.visible && !track.archived
    if (!isSelected && !(isShown && step === 'Track')) continue
    const isMain = track.id === main
    const colour = trackColour(document, track)
    context.strokeStyle = css(colour, isSelected ? 1 : 0.55)
    context.lineWidth = isSelected ? 1.4 : 1
    const known = frame === track.referenceFrame && !sampleAt(track, frame) ? 'tracked' : frameState(track, frame)
    context.setLineDash(DASHES[known])
    const outlines = shownOutlines(track, frame).map((outline) => movedPolygon(outline, toScreen))
    for (const outline of outlines) strokePolygon(context, outline)
    context.setLineDash([])
    const centre = reportedCentre(track, frame)
    if (centre) drawCentre(context, applyToPoint(toScreen, centre[0], centre[1]), known === 'placed')
    if (!isMain) continue
    context.lineWidth = 1
    context.setLineDash([8, 3])
    // What is left out: thin, of long dashes, so that it is not taken for a place that is not known.
    for (const leaveOut of track.leaveOut) {
      const outline = leaveOutOn(track, leaveOut, frame)
      if (outline) strokePolygon(context, movedPolygon(outline, toScreen))
    }
    if (track.surface === 'point') {
      const [left, top, right, bottom] = searchBoxOn(track, frame)
      context.setLineDash([2, 4])
      strokePolygon(context, movedPolygon([left, top, right, top, right, bottom, left, bottom], toScreen))
    }
    context.setLineDash([])
    drawPaths(context, track, toScreen)
    if (tool === 'adjust') for (const outline of outlines) drawCorners(context, outline)
  }
  drawPixelsUsed(context, state, toScreen)
  drawProofLaid(context, state, toScreen)
}

/** A cross where the track reports its place; with a ring when it was put there by hand. */
function drawCentre(
  context: CanvasRenderingContext2D,
  [x, y]: ArrayLike<number> & Iterable<number>,
  isPlaced: boolean,
) {
  context.beginPath()
  context.moveTo(x! - 5, y!)
  context.lineTo(x! + 5, y!)
  context.moveTo(x!, y! - 5)
  context.lineTo(x!, y! + 5)
  if (isPlaced) {
    context.moveTo(x! + 7, y!)
    context.arc(x!, y!, 7, 0, 2 * Math.PI)
  }
  strokeCased(context)
}

function drawCorners(context: CanvasRenderingContext2D, outline: ArrayLike<number>) {
  context.fillStyle = '#1c1c1c'
  for (let i = 0; i < outline.length; i += 2) {
    context.beginPath()
    context.rect(outline[i]! - 3, outline[i + 1]! - 3, 6, 6)
    context.fill()
    strokeCased(context)
  }
}

/** The way of the centre with a tick a frame; where it is smoothed or offset, what was followed lies faint beneath. */
function drawPaths(context: CanvasRenderingContext2D, track: Track, toScreen: Matrix3) {
  const motion = motionSamplesOf(track)
  const raw = rawSamplesOf(track)
  if (raw !== motion) {
    context.globalAlpha = 0.3
    drawPath(context, raw, toScreen, false)
  }
  context.globalAlpha = 0.65
  drawPath(context, motion, toScreen, true)
  context.globalAlpha = 1
}

function drawPath(context: CanvasRenderingContext2D, samples: MotionSamples, toScreen: Matrix3, ticks: boolean) {
  context.beginPath()
  let isOpen = false
  const places: number[] = []
  for (let i = 0; i < samples.present.length; i++) {
    if (!samples.present[i]) {
      isOpen = false
      continue
    }
    const plate = applyToPoint(matrixAt(samples.matrices, i), samples.pivot[0], samples.pivot[1])
    const [x, y] = applyToPoint(toScreen, plate[0]!, plate[1]!)
    if (isOpen) context.lineTo(x!, y!)
    else context.moveTo(x!, y!)
    places.push(x!, y!)
    isOpen = true
  }
  strokeCased(context)
  context.fillStyle = context.strokeStyle
  if (ticks) for (let i = 0; i < places.length; i += 2) context.fillRect(places[i]! - 1, places[i + 1]! - 1, 2, 2)
}

/** Pixels the track uses: chalk where they count whole, brick where they are not looked at. */
function drawPixelsUsed(
  context: CanvasRenderingContext2D,
  { pixelsUsed, frame, selection }: ShotState,
  toScreen: Matrix3,
) {
  if (!pixelsUsed || pixelsUsed.frame !== frame || pixelsUsed.trackId !== mainTrackId(selection)) return
  const { positions, weights } = pixelsUsed
  const size = Math.max(1, Math.min(4, Math.hypot(toScreen[0]!, toScreen[3]!) * 0.7))
  const place = [0, 0]
  for (const [isUsed, colour] of [[false, 'rgb(190 92 78 / 0.75)'], [true, 'rgb(236 233 226 / 0.3)']] as const) {
    context.fillStyle = colour
    for (let n = 0; n < weights.length; n++) {
      if (weights[n]! > 0.3 !== isUsed) continue
      applyToPoint(toScreen, positions[2 * n]!, positions[2 * n + 1]!, place)
      context.fillRect(place[0]! - size / 2, place[1]! - size / 2, size, size)
    }
  } // prettier-ignore
}
