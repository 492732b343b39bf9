import { fieldSet, keysCarried, keysMoved, keysPutDown } from '@tender-lasso/core/edits'
import {
  findObject,
  isSameKey,
  type ChannelOf,
  type KeyAddress,
  type Part,
  type Patch,
  type RotoDocument,
  type Shape,
} from '@tender-lasso/core/document'
import { frameOfX, middleOfRow, rowAt, ROWS_TOP, ROW_HEIGHT, timeOfX, xOfFrame, type TimelineLayout } from './timelineLayout' // prettier-ignore
import { channelsOf, type TimelineRow } from './timelineRows'

/** What the pointer has taken hold of. */
export type Held =
  | { kind: 'scrub' }
  | { kind: 'range'; start: number }
  | { kind: 'band'; x: number; y: number; toX: number; toY: number; kept: readonly KeyAddress[] }
  | { kind: 'knots'; chosen: readonly KeyAddress[]; grabbed: number; to: number; how: 'move' | 'stretch' | 'copy' }
  | { kind: 'life'; owner: Part | Shape; end: 0 | 1; to: number }

export interface TimelinePress {
  x: number
  y: number
  shift: boolean
  alt: boolean
  mod: boolean
}

/** What is on the timeline when a gesture begins. */
export interface TimelineScene {
  document: RotoDocument
  layout: TimelineLayout
  rows: readonly TimelineRow[]
  chosen: readonly KeyAddress[]
  frame: number
}

const KNOT_REACH = 6
const SNAP_REACH = 5

const keyAddresses = ({ id, channel, keys }: ChannelOf): KeyAddress[] => keys.map(({ time }) => ({ id, channel, time }))

/** Keys under a knot of a row: of a Part's thread all that share the frame. */
function knotAt({ layout, rows }: TimelineScene, x: number, y: number): KeyAddress[] {
  const row = rows[rowAt(layout, y)]
  if (!row) return []
  const all = channelsOf(row).flatMap(keyAddresses)
  const near = all.filter(({ time }) => Math.abs(xOfFrame(layout, time) - x) <= KNOT_REACH)
  const [nearest] = near.toSorted((a, b) => Math.abs(xOfFrame(layout, a.time) - x) - Math.abs(xOfFrame(layout, b.time) - x)) // prettier-ignore
  return near.filter(({ time }) => time === nearest!.time)
}

/** First and last frame at which something of a row can be seen, and whose life it is. */
function lifeEndAt({ layout, rows }: TimelineScene, x: number, y: number): Extract<Held, { kind: 'life' }> | null {
  const row = rows[rowAt(layout, y)]
  if (row?.kind !== 'part' && row?.kind !== 'keys') return null
  const owner = row.kind === 'keys' && row.channel.object.kind === 'shape' ? row.channel.object : row.part
  if (!owner) return null
  const [from, to] = owner.life ?? [layout.first, layout.last]
  for (const end of [0, 1] as const) {
    const at = xOfFrame(layout, end === 0 ? from - 0.5 : to + 0.5)
    if (Math.abs(at - x) <= KNOT_REACH) return { kind: 'life', owner, end, to: end === 0 ? from : to }
  }
  return null
}

/** A press: what it takes hold of, and what is chosen from then on. */
export function pressed(scene: TimelineScene, press: TimelinePress): { held: Held; chosen: readonly KeyAddress[] } {
  const { layout, chosen } = scene
  const { x, y } = press
  const knots = knotAt(scene, x, y)
  if (knots.length) {
    const isIn = knots.every((knot) => chosen.some((one) => isSameKey(one, knot)))
    let next = chosen
    if (press.shift)
      next = isIn ? chosen.filter((one) => !knots.some((knot) => isSameKey(one, knot))) : [...chosen, ...knots]
    else if (!isIn) next = knots
    const how = press.alt ? 'stretch' : press.mod ? 'copy' : 'move'
    const grabbed = knots[0]!.time
    return { held: { kind: 'knots', chosen: next, grabbed, to: grabbed, how }, chosen: next }
  }
  const life = lifeEndAt(scene, x, y)
  if (life) return { held: life, chosen }
  if (press.shift) return { held: { kind: 'range', start: frameOfX(layout, x) }, chosen }
  if (y < ROWS_TOP || x < layout.nameWidth) return { held: { kind: 'scrub' }, chosen: [] }
  const kept = press.mod ? chosen : []
  return { held: { kind: 'band', x, y, toX: x, toY: y, kept }, chosen: kept }
}

/** The same hold with the pointer elsewhere. */
export function dragged(scene: TimelineScene, held: Held, x: number, y: number): Held {
  switch (held.kind) {
    case 'band':
      return { ...held, toX: x, toY: y }
    case 'knots':
      return { ...held, to: caught(scene, x, held.chosen) }
    case 'life':
      return { ...held, to: caught(scene, x + (held.end === 0 ? 0.5 : -0.5) * frameWidth(scene.layout), []) }
    default:
      return held
  }
}

const frameWidth = (layout: TimelineLayout) => xOfFrame(layout, layout.first + 1) - xOfFrame(layout, layout.first)

/** Frame under the pointer; keys that stay, bookmarks and the present frame catch it from nearby. */
function caught({ document, layout, rows, frame }: TimelineScene, x: number, moving: readonly KeyAddress[]): number {
  const staying = rows.flatMap((row) =>
    channelsOf(row)
      .flatMap(keyAddresses)
      .filter((key) => !moving.some((one) => isSameKey(one, key)))
      .map(({ time }) => time),
  )
  const marks = [...document.objects.values()].flatMap((object) => (object.kind === 'bookmark' ? object.range : []))
  const near = [...staying, ...marks, frame]
    .map((time) => ({ time, away: Math.abs(xOfFrame(layout, time) - x) }))
    .filter(({ away }) => away <= SNAP_REACH)
    .sort((a, b) => a.away - b.away)
  return near[0]?.time ?? Math.round(timeOfX(layout, x))
}

/** Where a chosen key comes to by the hold. */
export function heldTime({ grabbed, to, how }: Extract<Held, { kind: 'knots' }>, frame: number, time: number): number {
  if (how !== 'stretch' || grabbed === frame) return time + to - grabbed
  return Math.round(frame + ((time - frame) * (to - frame)) / (grabbed - frame))
}

/** True for keys and lives of a locked Part and of its shapes, and of a locked track. */
export function isLocked(document: RotoDocument, id: string): boolean {
  const partId = findObject(document, 'shape', id)?.partId ?? id
  return (findObject(document, 'part', partId) ?? findObject(document, 'track', id))?.locked ?? false
}

/** The edit that a hold stands for now; what is locked stays. */
export function patchesOf({ document, frame, layout }: TimelineScene, held: Held): Patch[] {
  if (held.kind === 'knots') {
    const free = held.chosen.filter(({ id }) => !isLocked(document, id))
    if (held.to === held.grabbed || free.length === 0) return []
    if (held.how !== 'copy') return keysMoved(document, free, (time) => heldTime(held, frame, time))
    const first = Math.min(...free.map(({ time }) => time))
    return keysPutDown(document, keysCarried(document, free), first + held.to - held.grabbed)
  }
  if (held.kind === 'life') {
    if (isLocked(document, held.owner.id)) return []
    const [from, to] = held.owner.life ?? [layout.first, layout.last]
    const life: [number, number] = held.end === 0 ? [Math.min(held.to, to), to] : [from, Math.max(held.to, from)]
    if (life[0] === from && life[1] === to) return []
    const isAll = life[0] <= layout.first && life[1] >= layout.last
    return [fieldSet(held.owner, 'life', isAll ? null : life)]
  }
  return []
}

/** Keys inside a band over the rows. */
export function keysInBand({ layout, rows }: TimelineScene, band: Extract<Held, { kind: 'band' }>): KeyAddress[] {
  const [left, right] = [Math.min(band.x, band.toX), Math.max(band.x, band.toX)]
  const [top, bottom] = [Math.min(band.y, band.toY), Math.max(band.y, band.toY)]
  const found = rows.flatMap((row, i) => {
    const y = middleOfRow(layout, i)
    if (y < top - ROW_HEIGHT / 4 || y > bottom + ROW_HEIGHT / 4) return []
    return channelsOf(row)
      .flatMap(keyAddresses)
      .filter(({ time }) => xOfFrame(layout, time) >= left && xOfFrame(layout, time) <= right)
  })
  const all = [...band.kept, ...found]
  return all.filter((key, i) => all.findIndex((other) => isSameKey(key, other)) === i)
}
