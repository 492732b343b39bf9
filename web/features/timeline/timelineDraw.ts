import {
  allOf,
  findObject,
  isSameKey,
  type Bookmark,
  type ChannelOf,
  type KeyAddress,
  type RotoDocument,
} from '@tender-lasso/core/document'
import { orderChanges, type OrderChange } from '@tender-lasso/core/evaluation'
import type { ReadStretches } from '../../media'
import { css, partColour, SHOT_COLOUR, trackColour } from '../../store'
import { FOLD_WIDTH, middleOfRow, PIN_WIDTH, ROW_HEIGHT, RULER_HEIGHT, ROWS_TOP, THUMBNAIL_HEIGHT, thumbnailSlots, xOfFrame, type TimelineLayout } from './timelineLayout' // prettier-ignore
import { channelsOf, isBelowItsShape, type TimelineRow } from './timelineRows'
import { drawLane, drawTrackThread } from './timelineTracks'

export interface TimelinePicture {
  document: RotoDocument
  rows: readonly TimelineRow[]
  chosen: readonly KeyAddress[]
  held: ReadonlySet<number>
  thumbnails: ReadonlyMap<number, CanvasImageSource>
  /** Width of the picture as it is seen, in its heights. */
  pictureAspect: number
  /** Stretches of the plate that are read; null: all of it. */
  read: ReadStretches
  /** Marked stretch, both ends included. */
  range: readonly [number, number] | null
  /** Rubber band: x, y, x, y. */
  band: readonly [number, number, number, number] | null
}

/** True when the two pictures look the same: of shapes only the knots show, not where their points are. */
export function isSamePicture(a: TimelinePicture, b: TimelinePicture): boolean {
  return (
    a.held === b.held &&
    a.read === b.read &&
    a.chosen === b.chosen &&
    a.band === b.band &&
    a.range === b.range &&
    a.rows.length === b.rows.length &&
    a.rows.every((row, i) => isSameRow(row, b.rows[i]!)) &&
    (a.document === b.document ||
      (a.rows.every((row) => coloursOf(a.document, row) === coloursOf(b.document, row)) &&
        bookmarksOf(a.document) === bookmarksOf(b.document) &&
        orderOf(a.document) === orderOf(b.document)))
  )
}

const bookmarksOf = (document: RotoDocument) =>
  allOf(document, 'bookmark')
    .map(({ name, range }) => `${name} ${range.join()}`)
    .join()

const orderOf = (document: RotoDocument) =>
  orderChanges(document)
    .map(({ frame, partIds }) => `${frame} ${partIds.join()}`)
    .join(';')

function isSameRow(a: TimelineRow, b: TimelineRow): boolean {
  if (a.kind !== b.kind || a.name !== b.name) return false
  if (a.kind === 'track' || a.kind === 'lane') return 'track' in b && b.track === a.track
  if (!('part' in b) || b.part?.life !== a.part?.life || b.part?.hidden !== a.part?.hidden) return false
  if (a.kind === 'part' && (b.kind !== 'part' || a.isFolded !== b.isFolded || a.isPinned !== b.isPinned)) return false
  const [before, after] = [channelsOf(a), channelsOf(b)]
  return before.length === after.length && before.every((channel, i) => {
    const other = after[i]!
    return (
      lifeOf(channel) === lifeOf(other) &&
      hiddenOf(channel) === hiddenOf(other) &&
      channel.keys.length === other.keys.length &&
      channel.keys.every(
        (key, k) =>
          key.time === other.keys[k]!.time &&
          key.interpolation === other.keys[k]!.interpolation &&
          !key.touched === !other.keys[k]!.touched,
      )
    )
  }) // prettier-ignore
}

const lifeOf = ({ object }: ChannelOf) => ('life' in object ? object.life : null)
const hiddenOf = ({ object }: ChannelOf) => ('hidden' in object ? object.hidden : NEVER)
const NEVER: readonly (readonly [number, number])[] = []

function coloursOf(document: RotoDocument, row: TimelineRow): string {
  if (row.kind === 'track' || row.kind === 'lane') return css(trackColour(document, row.track))
  if (row.part) return css(partColour(document, row.part))
  const track = row.kind === 'keys' ? findObject(document, 'track', row.channel.id) : undefined
  return track ? css(trackColour(document, track)) : SHOT_COLOUR
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
  drawBookmarks(context, layout, allOf(picture.document, 'bookmark'))
  drawThumbnails(context, layout, picture)
  if (picture.read) drawUnread(context, layout, picture.read)
  if (picture.range) drawRange(context, layout, picture.range)
  for (const change of orderChanges(picture.document)) drawOrderChange(context, layout, picture, change)
  context.save()
  context.beginPath()
  context.rect(0, ROWS_TOP - 4, layout.width, layout.height)
  context.clip()
  picture.rows.forEach((row, i) => {
    const y = middleOfRow(layout, i)
    // Hundreds of tracks have rows, of which a dozen can be seen.
    if (y > ROWS_TOP - ROW_HEIGHT && y < layout.height + ROW_HEIGHT) drawRow(context, layout, picture, row, y)
  })
  context.restore()
  if (picture.band) drawBand(context, picture.band)
}

function drawBand(context: CanvasRenderingContext2D, [x, y, toX, toY]: readonly [number, number, number, number]) {
  context.strokeStyle = '#6fb3a0'
  context.lineWidth = 1
  context.strokeRect(Math.min(x, toX) + 0.5, Math.min(y, toY) + 0.5, Math.abs(toX - x), Math.abs(toY - y))
}

/** A flag on the ruler where a bookmark stands, with a line as long as its stretch; its name where there is room. */
function drawBookmarks(context: CanvasRenderingContext2D, layout: TimelineLayout, bookmarks: readonly Bookmark[]) {
  for (const { name, range } of bookmarks) {
    const [left, right] = [xOfFrame(layout, range[0]), xOfFrame(layout, range[1])]
    context.fillStyle = '#cfccc5'
    context.beginPath()
    context.moveTo(left, RULER_HEIGHT - 3)
    context.lineTo(left, RULER_HEIGHT - 13)
    context.lineTo(left + 7, RULER_HEIGHT - 10)
    context.lineTo(left + 1, RULER_HEIGHT - 7)
    context.lineTo(left + 1, RULER_HEIGHT - 3)
    context.fill()
    if (right > left) context.fillRect(left, RULER_HEIGHT - 4, right - left, 1.5)
    context.textAlign = 'left'
    context.textBaseline = 'middle'
    context.font = "10.5px 'Spline Sans Variable', sans-serif"
    const width = context.measureText(name).width
    // Over the numbers of the ruler, so that it can be read.
    context.fillStyle = '#202020'
    context.fillRect(left + 9, 2, width + 4, 12)
    context.fillStyle = '#ece9e2'
    context.fillText(name, left + 11, 8.5)
  }
}

/** Size of the mark where one passes another, CSS pixels. */
const CROSSING = 9

/**
 * Two threads that cross below the thumbnails, in the colours of the Parts of which one has passed the other: the one that is in front from then on lies on top.
 */
function drawOrderChange(
  context: CanvasRenderingContext2D,
  layout: TimelineLayout,
  { document }: TimelinePicture,
  { frame, partIds }: OrderChange,
) {
  const x = xOfFrame(layout, frame - 0.5)
  if (frame <= layout.first || x > layout.width - 12) return
  const [front, back] = [partIds[0]!, partIds.at(-1)!].map((id) => {
    const part = findObject(document, 'part', id)
    return part ? css(partColour(document, part)) : SHOT_COLOUR
  })
  const [top, bottom] = [RULER_HEIGHT + THUMBNAIL_HEIGHT - CROSSING, RULER_HEIGHT + THUMBNAIL_HEIGHT]
  const stroke = (fromY: number, toY: number, colour: string, width: number) => {
    context.strokeStyle = colour
    context.lineWidth = width
    context.beginPath()
    context.moveTo(x - CROSSING, fromY)
    context.bezierCurveTo(x - 2, fromY, x + 2, toY, x + CROSSING, toY)
    context.stroke()
  }
  context.fillStyle = 'rgb(24 24 24 / 0.8)'
  context.fillRect(x - CROSSING, top - 2, 2 * CROSSING, CROSSING + 4)
  stroke(top, bottom, back!, 1.6)
  stroke(bottom, top, '#181818', 4)
  stroke(bottom, top, front!, 1.6)
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

/** Frames that are not read yet are hatched where their thumbnails will be. */
function drawUnread(
  context: CanvasRenderingContext2D,
  layout: TimelineLayout,
  read: NonNullable<TimelinePicture['read']>,
) {
  context.save()
  context.beginPath()
  let from = layout.first
  for (const [first, last] of [...read, [layout.last + 1, layout.last] as const]) {
    const [left, right] = [xOfFrame(layout, from - 0.5), xOfFrame(layout, first - 0.5)]
    if (right > left) context.rect(left, RULER_HEIGHT, right - left, THUMBNAIL_HEIGHT)
    from = last + 1
  }
  context.clip()
  context.strokeStyle = '#4a4844'
  context.lineWidth = 1
  context.beginPath()
  for (let x = layout.nameWidth - THUMBNAIL_HEIGHT; x < layout.width; x += 7) {
    context.moveTo(x, RULER_HEIGHT + THUMBNAIL_HEIGHT)
    context.lineTo(x + THUMBNAIL_HEIGHT, RULER_HEIGHT)
  }
  context.stroke()
  context.restore()
}

function drawThumbnails(context: CanvasRenderingContext2D, layout: TimelineLayout, picture: TimelinePicture) {
  for (const { frame, x, width } of thumbnailSlots(layout, picture.pictureAspect)) {
    const image = picture.thumbnails.get(frame)
    if (image) context.drawImage(image, x, RULER_HEIGHT, width, THUMBNAIL_HEIGHT)
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
  context.textBaseline = 'middle'
  context.font = "12px 'Spline Sans Variable', sans-serif"
  context.fillStyle = row.kind === 'lane' || row.kind === 'keys' ? '#8f8c86' : '#cfccc5'
  const left = FOLD_WIDTH + (row.kind !== 'keys' ? 0 : isBelowItsShape(row.channel) ? 18 : 8)
  context.fillText(fittedText(context, row.name, layout.nameWidth - left - PIN_WIDTH - 4), left, y)
  if (row.kind === 'part') drawPartSigns(context, layout, row, y)
  if (row.kind === 'part' || row.kind === 'keys') drawThread(context, layout, picture, row, y)
  else if (row.kind === 'track') drawTrackThread(context, layout, picture.document, row.track, y)
  else drawLane(context, layout, row.track, row.lane, y)
}

/** What unfolds the Part, and whether its rows stay. */
function drawPartSigns(
  context: CanvasRenderingContext2D,
  layout: TimelineLayout,
  row: Extract<TimelineRow, { kind: 'part' }>,
  y: number,
) {
  if (row.members.length > 1) context.fillText(row.isFolded ? '▸' : '▾', 6, y)
  const x = layout.nameWidth - PIN_WIDTH + 6
  context.strokeStyle = row.isPinned ? '#ece9e2' : '#5a5a5a'
  context.fillStyle = '#ece9e2'
  context.lineWidth = 1
  context.beginPath()
  context.arc(x, y - 2, 2.6, 0, 2 * Math.PI)
  if (row.isPinned) context.fill()
  context.moveTo(x, y + 1)
  context.lineTo(x, y + 6)
  context.stroke()
}

function fittedText(context: CanvasRenderingContext2D, text: string, width: number): string {
  if (context.measureText(text).width <= width) return text
  let cut = text
  while (cut.length > 1 && context.measureText(`${cut}…`).width > width) cut = cut.slice(0, -1)
  return `${cut}…`
}

/** A thread with a knot for each key; bare where the Part or the shape does not live, beneath and faint where it is hidden. */
function drawThread(
  context: CanvasRenderingContext2D,
  layout: TimelineLayout,
  picture: TimelinePicture,
  row: Extract<TimelineRow, { kind: 'part' | 'keys' }>,
  y: number,
) {
  const colour = coloursOf(picture.document, row)
  const life = (row.kind === 'keys' ? lifeOf(row.channel) : null) ?? row.part?.life ?? null
  const [from, to] = life ?? [layout.first, layout.last]
  context.strokeStyle = colour
  context.lineWidth = 1.3
  const hidden = [...(row.part?.hidden ?? []), ...(row.kind === 'keys' ? hiddenOf(row.channel) : NEVER)]
  drawHidden(context, layout, hidden, [from, to], y)
  context.beginPath()
  for (const [start, end] of stretchesBetween(hidden, [from, to])) {
    context.moveTo(xOfFrame(layout, start), y)
    context.lineTo(xOfFrame(layout, end), y)
  }
  if (life) {
    // A cut end: the thread stops there.
    for (const end of [xOfFrame(layout, from - 0.5), xOfFrame(layout, to + 0.5)]) {
      context.moveTo(end, y - 5)
      context.lineTo(end, y + 5)
    }
  }
  context.stroke()
  const drawn = new Set<number>()
  for (const channel of channelsOf(row)) {
    for (const key of channel.keys) {
      const isChosen = picture.chosen.some((one) => isSameKey(one, { ...channel, time: key.time }))
      if (drawn.has(key.time) && !isChosen) continue
      drawn.add(key.time)
      drawKnot(context, xOfFrame(layout, key.time), y, colour, isChosen, key.interpolation, !!key.touched)
    }
  }
}

/** Where a thread lies open: from and to, real frames. */
function stretchesBetween(hidden: readonly Range[], [from, to]: Range): Range[] {
  const out: Range[] = []
  let start = from
  for (const [first, last] of hidden.toSorted(([a], [b]) => a - b)) {
    if (first - 0.5 > start) out.push([start, Math.min(to, first - 0.5)])
    start = Math.max(start, last + 0.5)
  }
  if (start < to || (start === from && from === to)) out.push([start, to])
  return out
}

type Range = readonly [number, number]

/** Pixels by which a thread goes down where something passes over it. */
const BENEATH = 5

/** A hidden stretch: the thread dips, and goes on faint. */
function drawHidden(
  context: CanvasRenderingContext2D,
  layout: TimelineLayout,
  hidden: readonly Range[],
  [from, to]: Range,
  y: number,
) {
  context.save()
  context.globalAlpha = 0.45
  for (const [first, last] of hidden) {
    const [left, right] = [xOfFrame(layout, Math.max(from, first - 0.5)), xOfFrame(layout, Math.min(to, last + 0.5))]
    const slope = Math.min(6, (right - left) / 3)
    context.beginPath()
    context.moveTo(left, y)
    context.bezierCurveTo(left + slope / 2, y, left + slope / 2, y + BENEATH, left + slope, y + BENEATH)
    context.lineTo(right - slope, y + BENEATH)
    context.bezierCurveTo(right - slope / 2, y + BENEATH, right - slope / 2, y, right, y)
    context.stroke()
  }
  context.restore()
}

const KNOT_RADIUS = 4.2

/** Round: smooth; pointed: linear; drawn in: eased; flat: held. Filled when chosen; smaller where not all points are held. */
function drawKnot(
  context: CanvasRenderingContext2D,
  x: number,
  y: number,
  colour: string,
  isChosen: boolean,
  interpolation: string,
  isPartial: boolean,
) {
  const r = isPartial ? KNOT_RADIUS * 0.65 : KNOT_RADIUS
  context.beginPath()
  if (interpolation === 'smooth') context.arc(x, y, r, 0, 2 * Math.PI)
  else if (interpolation === 'hold') context.rect(x - r, y - 3, 2 * r, 6)
  else {
    const reach = r + 0.6
    context.moveTo(x, y - reach)
    for (const [dx, dy] of [[1, 0], [0, 1], [-1, 0], [0, -1]] as const) {
      const [toX, toY] = [x + dx * reach, y + dy * reach]
      if (interpolation === 'ease') context.quadraticCurveTo(x, y, toX, toY)
      else context.lineTo(toX, toY)
    } // prettier-ignore
    context.closePath()
  }
  context.fillStyle = isChosen ? '#ece9e2' : '#202020'
  context.strokeStyle = isChosen ? '#ece9e2' : colour
  context.lineWidth = 1.5
  context.fill()
  context.stroke()
}
