import { find, shapesOf, type Keyed, type Part, type RotoDocument, type Track } from '@tender-lasso/core/document'
import { css, partColour } from '../../state/colours'
import { mainTrackId, type Selection } from '../../state/shotStore'
import { trackColour } from '../../state/trackColour'
import { RULER_HEIGHT, ROW_HEIGHT, ROWS_TOP, THUMBNAIL_HEIGHT, xOfFrame, type TimelineLayout } from './timelineLayout'
import { drawLane, drawTrackThread, TRACK_LANES, type TrackLane } from './timelineTracks'

export type TimelineRow =
  | { kind: 'keys'; name: string; keyed: Keyed; part: Part }
  | { kind: 'track'; name: string; track: Track }
  | { kind: 'lane'; name: string; track: Track; lane: TrackLane }

/** Rows of what is selected: its pose's thread when it has one, its shapes', its track with lanes below, then other selected tracks. */
export function rowsOf(document: RotoDocument, selection: Selection): TimelineRow[] {
  const rows: TimelineRow[] = []
  const part = selection.partId ? find(document, 'part', selection.partId) : undefined
  if (part) {
    if (part.keys.length) rows.push({ kind: 'keys', name: `${part.name}, pose`, keyed: part, part })
    const shapes = shapesOf(document, part.id)
    for (const shape of shapes)
      rows.push({
        kind: 'keys',
        name: shapes.length > 1 ? `${part.name}, ${shape.name}` : part.name,
        keyed: shape,
        part,
      })
  }
  const trackId = mainTrackId(selection) ?? part?.mover?.trackId
  const main = trackId ? find(document, 'track', trackId) : undefined
  if (main) {
    rows.push({ kind: 'track', name: main.name, track: main })
    for (const lane of TRACK_LANES) rows.push({ kind: 'lane', name: lane.name, track: main, lane })
  }
  for (const id of selection.trackIds.toReversed()) {
    const track = id === main?.id ? undefined : find(document, 'track', id)
    if (track) rows.push({ kind: 'track', name: track.name, track })
  }
  return rows
}

export interface TimelinePicture {
  document: RotoDocument
  rows: readonly TimelineRow[]
  selectedTimes: readonly number[]
  held: ReadonlySet<number>
  thumbnails: ReadonlyMap<number, CanvasImageSource>
  /** Key being dragged: from which time to which. */
  drag: { from: number; to: number } | null
  /** Marked stretch, both ends included. */
  range: readonly [number, number] | null
}

/** True when the two pictures look the same: of shapes only the knots show, not where their points are. */
export function isSamePicture(a: TimelinePicture, b: TimelinePicture): boolean {
  return (
    a.held === b.held &&
    a.selectedTimes === b.selectedTimes &&
    a.drag?.from === b.drag?.from &&
    a.drag?.to === b.drag?.to &&
    a.range === b.range &&
    a.rows.length === b.rows.length &&
    a.rows.every((row, i) => isSameRow(row, b.rows[i]!)) &&
    (a.document === b.document || a.rows.every((row) => coloursOf(a.document, row) === coloursOf(b.document, row)))
  )
}

function isSameRow(a: TimelineRow, b: TimelineRow): boolean {
  if (a.name !== b.name) return false
  if (a.kind !== 'keys') return b.kind === a.kind && b.track === a.track
  return (
    b.kind === 'keys' &&
    b.part.life === a.part.life &&
    a.keyed.keys.length === b.keyed.keys.length &&
    a.keyed.keys.every(
      (key, i) => key.time === b.keyed.keys[i]!.time && key.interpolation === b.keyed.keys[i]!.interpolation,
    )
  )
}

function coloursOf(document: RotoDocument, row: TimelineRow): string {
  return css(row.kind === 'keys' ? partColour(document, row.part) : trackColour(document, row.track))
}

export function drawTimeline(
  context: CanvasRenderingContext2D,
  layout: TimelineLayout,
  picture: TimelinePicture,
  ratio: number,
) {
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  context.fillStyle = '#202020'
  context.fillRect(0, 0, layout.width, layout.height)
  drawRuler(context, layout, picture)
  drawThumbnails(context, layout, picture)
  if (picture.range) drawRange(context, layout, picture.range)
  picture.rows.forEach((row, i) => drawRow(context, layout, picture, row, ROWS_TOP + i * ROW_HEIGHT + ROW_HEIGHT / 2))
}

function drawRuler(context: CanvasRenderingContext2D, layout: TimelineLayout, picture: TimelinePicture) {
  const perFrame = (layout.width - layout.nameWidth) / (layout.last - layout.first + 1)
  const step = [1, 2, 5, 10, 20, 50, 100, 200, 500].find((s) => s * perFrame >= 46) ?? 1000
  context.font = "10.5px 'Spline Sans Mono', monospace"
  context.textAlign = 'center'
  context.textBaseline = 'middle'
  for (let frame = layout.first; frame <= layout.last; frame++) {
    const x = xOfFrame(layout, frame)
    const isNamed = frame % step === 0 || frame === layout.first
    if (isNamed) {
      context.fillStyle = '#8f8c86'
      context.fillText(String(frame), x, 8)
    }
    // A held frame is underlined: what plays without waiting is seen at a glance.
    context.fillStyle = picture.held.has(frame) ? '#6d7f78' : '#333333'
    context.fillRect(x - perFrame / 2 + 0.5, RULER_HEIGHT - 3, Math.max(1, perFrame - 1), 2)
  }
}

function drawRange(context: CanvasRenderingContext2D, layout: TimelineLayout, [from, to]: readonly [number, number]) {
  const [left, right] = [xOfFrame(layout, from - 0.5), xOfFrame(layout, to + 0.5)]
  context.fillStyle = 'rgb(236 233 226 / 0.09)'
  context.fillRect(left, RULER_HEIGHT, right - left, layout.height - RULER_HEIGHT)
  context.fillStyle = '#cfccc5'
  context.fillRect(left, RULER_HEIGHT - 3, right - left, 2)
}

function drawThumbnails(context: CanvasRenderingContext2D, layout: TimelineLayout, picture: TimelinePicture) {
  for (const [frame, image] of picture.thumbnails) {
    const bitmap = image as ImageBitmap
    const width = (THUMBNAIL_HEIGHT * bitmap.width) / bitmap.height
    context.drawImage(image, xOfFrame(layout, frame) - width / 2, RULER_HEIGHT, width, THUMBNAIL_HEIGHT)
  }
  context.fillStyle = '#202020'
  context.fillRect(0, RULER_HEIGHT, layout.nameWidth, THUMBNAIL_HEIGHT)
  context.fillRect(layout.width - 12, RULER_HEIGHT, 12, THUMBNAIL_HEIGHT)
}

function drawRow(
  context: CanvasRenderingContext2D,
  layout: TimelineLayout,
  picture: TimelinePicture,
  row: TimelineRow,
  y: number,
) {
  context.textAlign = 'left'
  context.font = "12px 'Spline Sans Variable', sans-serif"
  context.fillStyle = row.kind === 'lane' ? '#8f8c86' : '#cfccc5'
  context.fillText(fittedText(context, row.name, layout.nameWidth - 18), 10, y)
  if (row.kind === 'keys') drawThread(context, layout, picture, row, y)
  else if (row.kind === 'track') drawTrackThread(context, layout, picture.document, row.track, y)
  else drawLane(context, layout, row.track, row.lane, y)
}

function fittedText(context: CanvasRenderingContext2D, text: string, width: number): string {
  if (context.measureText(text).width <= width) return text
  let cut = text
  while (cut.length > 1 && context.measureText(`${cut}…`).width > width) cut = cut.slice(0, -1)
  return `${cut}…`
}

/** A thread with a knot for each key; bare where the Part does not live. */
function drawThread(
  context: CanvasRenderingContext2D,
  layout: TimelineLayout,
  picture: TimelinePicture,
  row: Extract<TimelineRow, { kind: 'keys' }>,
  y: number,
) {
  const colour = partColour(picture.document, row.part)
  const [from, to] = row.part.life ?? [layout.first, layout.last]
  context.strokeStyle = css(colour, 0.9)
  context.lineWidth = 1.3
  context.beginPath()
  context.moveTo(xOfFrame(layout, from), y)
  context.lineTo(xOfFrame(layout, to), y)
  context.stroke()
  for (const key of row.keyed.keys) {
    const time = picture.drag?.from === key.time ? picture.drag.to : key.time
    const isSelected = picture.selectedTimes.includes(key.time)
    drawKnot(context, xOfFrame(layout, time), y, css(colour), isSelected, key.interpolation)
  }
}

/** Round: smooth; pointed: linear; flat: held. Filled when selected. */
function drawKnot(
  context: CanvasRenderingContext2D,
  x: number,
  y: number,
  colour: string,
  isSelected: boolean,
  interpolation: string,
) {
  const r = 4.2
  context.beginPath()
  if (interpolation === 'smooth') context.arc(x, y, r, 0, 2 * Math.PI)
  else if (interpolation === 'linear') {
    context.moveTo(x, y - r - 0.6)
    context.lineTo(x + r + 0.6, y)
    context.lineTo(x, y + r + 0.6)
    context.lineTo(x - r - 0.6, y)
    context.closePath()
  } else context.rect(x - r, y - 3, 2 * r, 6)
  context.fillStyle = isSelected ? '#ece9e2' : '#202020'
  context.strokeStyle = isSelected ? '#ece9e2' : colour
  context.lineWidth = 1.5
  context.fill()
  context.stroke()
}
