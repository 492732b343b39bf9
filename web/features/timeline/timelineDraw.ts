import {
  allOf,
  find,
  motionSamplesOf,
  sampleAt,
  shapesOf,
  type Part,
  type RotoDocument,
  type Shape,
  type Track,
} from '@tender-lasso/core/document'
import { css, partColour } from '../../state/colours'
import type { Selection } from '../../state/shotStore'

/** Where things lie on the timeline, CSS pixels. */
export interface TimelineLayout {
  width: number
  height: number
  /** Room for the names of the rows. */
  nameWidth: number
  first: number
  last: number
}

export const RULER_HEIGHT = 18
export const THUMBNAIL_HEIGHT = 34
export const ROW_HEIGHT = 22
export const ROWS_TOP = RULER_HEIGHT + THUMBNAIL_HEIGHT + 6

export type TimelineRow =
  | { kind: 'shape'; name: string; shape: Shape; part: Part }
  | { kind: 'track'; name: string; track: Track }
  | { kind: 'match'; name: string; track: Track }

/** Rows of what is selected: its shapes' threads, its track with the match below. */
export function rowsOf(document: RotoDocument, selection: Selection): TimelineRow[] {
  const rows: TimelineRow[] = []
  const part = selection.partId ? find(document, 'part', selection.partId) : undefined
  if (part) {
    const shapes = shapesOf(document, part.id)
    for (const shape of shapes)
      rows.push({ kind: 'shape', name: shapes.length > 1 ? `${part.name}, ${shape.name}` : part.name, shape, part })
  }
  const trackId = selection.trackId ?? part?.mover?.trackId
  const track = trackId ? find(document, 'track', trackId) : undefined
  if (track) {
    rows.push({ kind: 'track', name: track.name, track })
    rows.push({ kind: 'match', name: 'match', track })
  }
  return rows
}

export function xOfFrame(layout: TimelineLayout, frame: number): number {
  const room = layout.width - layout.nameWidth - 14
  return layout.nameWidth + ((frame - layout.first + 0.5) / (layout.last - layout.first + 1)) * room
}

export function frameOfX(layout: TimelineLayout, x: number): number {
  const room = layout.width - layout.nameWidth - 14
  const frame = Math.floor(((x - layout.nameWidth) / room) * (layout.last - layout.first + 1)) + layout.first
  return Math.min(layout.last, Math.max(layout.first, frame))
}

export interface TimelinePicture {
  document: RotoDocument
  rows: readonly TimelineRow[]
  selectedTimes: readonly number[]
  held: ReadonlySet<number>
  thumbnails: ReadonlyMap<number, CanvasImageSource>
  /** Key being dragged: from which time to which. */
  drag: { from: number; to: number } | null
}

/** True when the two pictures look the same: of shapes only the knots show, not where their points are. */
export function isSamePicture(a: TimelinePicture, b: TimelinePicture): boolean {
  return (
    a.held === b.held &&
    a.selectedTimes === b.selectedTimes &&
    a.drag?.from === b.drag?.from &&
    a.drag?.to === b.drag?.to &&
    a.rows.length === b.rows.length &&
    a.rows.every((row, i) => isSameRow(row, b.rows[i]!)) &&
    (a.document === b.document || a.rows.every((row) => coloursOf(a.document, row) === coloursOf(b.document, row)))
  )
}

function isSameRow(a: TimelineRow, b: TimelineRow): boolean {
  if (a.name !== b.name) return false
  if (a.kind !== 'shape') return b.kind === a.kind && b.track === a.track
  return (
    b.kind === 'shape' &&
    b.part === a.part &&
    a.shape.keys.length === b.shape.keys.length &&
    a.shape.keys.every(
      (key, i) => key.time === b.shape.keys[i]!.time && key.interpolation === b.shape.keys[i]!.interpolation,
    )
  )
}

function coloursOf(document: RotoDocument, row: TimelineRow): string {
  const part = row.kind === 'shape' ? row.part : userOf(document, row.track)
  return part ? css(partColour(document, part)) : ''
}

/** The Part that a track moves: it wears its colour. */
function userOf(document: RotoDocument, track: Track): Part | undefined {
  return allOf(document, 'part').find((part) => part.mover?.trackId === track.id)
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
  context.fillStyle = row.kind === 'match' ? '#8f8c86' : '#cfccc5'
  context.fillText(fittedText(context, row.name, layout.nameWidth - 18), 10, y)
  if (row.kind === 'shape') drawThread(context, layout, picture, row, y)
  else if (row.kind === 'track') drawBraid(context, layout, picture.document, row.track, y)
  else drawMatch(context, layout, row.track, y)
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
  row: Extract<TimelineRow, { kind: 'shape' }>,
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
  for (const key of row.shape.keys) {
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

/** A tracked stretch is braided; a stretch without samples is a faint straight line. */
function drawBraid(
  context: CanvasRenderingContext2D,
  layout: TimelineLayout,
  document: RotoDocument,
  track: Track,
  y: number,
) {
  const user = userOf(document, track)
  const colour = user ? css(partColour(document, user)) : '#a9a6a0'
  const samples = motionSamplesOf(track)
  const has = (frame: number) => samples.present[frame - samples.firstFrame] === 1
  context.strokeStyle = '#3c3c3c'
  context.lineWidth = 1
  context.beginPath()
  context.moveTo(xOfFrame(layout, layout.first), y)
  context.lineTo(xOfFrame(layout, layout.last), y)
  context.stroke()
  context.strokeStyle = colour
  context.lineWidth = 1.1
  for (const phase of [0, Math.PI]) {
    context.beginPath()
    let isOpen = false
    for (let frame = layout.first; frame <= layout.last; frame++) {
      if (!has(frame)) {
        isOpen = false
        continue
      }
      const [left, right] = [xOfFrame(layout, frame - 0.5), xOfFrame(layout, frame + 0.5)]
      for (let x = left; x <= right; x += 2) {
        const place = y + 3 * Math.sin(x / 5 + phase)
        if (isOpen) context.lineTo(x, place)
        else context.moveTo(x, place)
        isOpen = true
      }
    }
    context.stroke()
  }
  const reference = xOfFrame(layout, track.referenceFrame)
  context.fillStyle = '#202020'
  context.strokeStyle = colour
  context.beginPath()
  context.rect(reference - 3, y - 5, 6, 10)
  context.fill()
  context.stroke()
}

/** Match score from the minimum (bottom) to 1 (top); doubtful stretches in ochre. */
function drawMatch(context: CanvasRenderingContext2D, layout: TimelineLayout, track: Track, y: number) {
  const half = ROW_HEIGHT / 2 - 3
  const heightOf = (match: number) => {
    const share = (match - track.minimumMatch) / Math.max(1e-6, 1 - track.minimumMatch)
    return y + half - Math.min(1, Math.max(0, share)) * 2 * half
  }
  context.lineWidth = 1.2
  let previous: { x: number; y: number; match: number } | null = null
  for (let frame = layout.first; frame <= layout.last; frame++) {
    const sample = sampleAt(track, frame)
    if (!sample) {
      previous = null
      continue
    }
    const here = { x: xOfFrame(layout, frame), y: heightOf(sample.match), match: sample.match }
    if (previous) {
      const isDoubtful = Math.min(previous.match, here.match) < track.minimumMatch + (1 - track.minimumMatch) / 2
      context.strokeStyle = isDoubtful ? '#c79a3b' : '#8fa39b'
      context.beginPath()
      context.moveTo(previous.x, previous.y)
      context.lineTo(here.x, here.y)
      context.stroke()
    }
    previous = here
  }
}
