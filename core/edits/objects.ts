import {
  allOf,
  findObject,
  type DocumentObject,
  type Part,
  type RotoDocument,
  type Patch,
  sameValue,
  seamsOf,
  channelOf,
} from '../document'
import { depthOn, partsByDepth } from '../evaluation'
import { constantSet } from './constants'
import { valuesKeyed } from './keys'

/** A new object. */
export function objectAdded(object: DocumentObject): Patch {
  return { kind: 'object', id: object.id, before: null, after: object }
}

/** What of the objects of one document is another in the next; made and deleted ones are not looked for. */
export function objectsChanged(before: RotoDocument, after: RotoDocument): Patch[] {
  return [...after.objects].flatMap(([id, object]): Patch[] => {
    const former = before.objects.get(id)
    return former && former !== object ? [{ kind: 'object', id, before: former, after: object }] : []
  })
}

/** What makes one document into another; kept versions, outputs and the shot itself stay as they are. */
export function documentRestored(now: RotoDocument, then: RotoDocument): Patch[] {
  const ids = new Set([...now.objects.keys(), ...then.objects.keys()])
  return [...ids].flatMap((id): Patch[] => {
    const [before, after] = [now.objects.get(id) ?? null, then.objects.get(id) ?? null]
    const kind = (before ?? after)!.kind
    if (kind === 'version' || kind === 'output' || kind === 'shot' || sameValue(before, after)) return []
    return [{ kind: 'object', id, before, after }]
  })
}

/** One property changed. */
export function fieldSet<O extends DocumentObject, F extends keyof O & string>(
  object: O,
  field: F,
  after: O[F],
): Patch {
  const plain = (value: unknown): unknown => {
    if (value instanceof Float64Array) return Array.from(value)
    if (Array.isArray(value)) return value.map(plain)
    if (typeof value !== 'object' || value === null) return value
    return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, plain(inner)]))
  }
  return { kind: 'field', id: object.id, field, before: plain(object[field]), after: plain(after) } as Patch
}

/**
 * The objects and all that hangs on them: a Subject's Parts, a Part's children, instances and shapes, a shape's Seams. What hangs goes
 * first. Tracks that leave a deleted Part out do so no longer.
 */
export function objectsDeleted(document: RotoDocument, ids: readonly string[]): Patch[] {
  const order: DocumentObject[] = []
  const visit = (id: string) => {
    const object = document.objects.get(id)
    if (!object || order.includes(object)) return
    if (object.kind === 'subject') {
      allOf(document, 'part').forEach((part) => part.subjectId === id && visit(part.id))
    } else if (object.kind === 'part') {
      allOf(document, 'part').forEach((part) => (part.parentId === id || part.instance?.of === id) && visit(part.id))
      allOf(document, 'shape').forEach((shape) => shape.partId === id && visit(shape.id))
    } else if (object.kind === 'shape') {
      seamsOf(document, id).forEach((seam) => visit(seam.id))
    }
    order.push(object)
  }
  ids.forEach(visit)
  const gone = new Set(order.map(({ id }) => id))
  const kept = allOf(document, 'track').flatMap((track): Patch[] => {
    const leaveOut = track.leaveOut.filter((one) => one.kind !== 'part' || !gone.has(one.partId))
    const isSame = gone.has(track.id) || leaveOut.length === track.leaveOut.length
    return isSame ? [] : [fieldSet(track, 'leaveOut', leaveOut)]
  })
  return [...kept, ...order.map((object) => ({ kind: 'object' as const, id: object.id, before: object, after: null }))]
}

/**
 * The Part put between two others of the depth list of a frame; `index` counts in the list without it, 0 = nearest. A Part
 * that has depth keys gets one on the frame, any other stands there from then on on all frames.
 */
export function partReordered(document: RotoDocument, partId: string, index: number, frame: number): Patch[] {
  const part = findObject(document, 'part', partId)
  if (!part) return []
  const others = partsByDepth(document, frame).filter((p) => p.id !== partId)
  const place = (at: number) => (others[at] ? depthOn(others[at], frame) : undefined)
  const depth = depthBetween(place(index - 1), place(index))
  if (depth === depthOn(part, frame)) return []
  const channel = channelOf(part, 'depth')
  return channel.keys.length ? valuesKeyed(channel, frame, Float64Array.of(depth)) : constantSet(channel, [depth])
}

/** All depths that a Part has on any frame. */
export function depthsOf(part: Part): number[] {
  const { constant, keys } = channelOf(part, 'depth')
  return [constant![0]!, ...keys.map(({ values }) => values[0]!)]
}

/**
 * Depths for new Parts, the nearest of them and the step to the next: nearest of all, but behind those that hold out and were
 * told to stay in front, whatever their depth is on other frames.
 */
export function depthsOfNewParts(document: RotoDocument, count = 1): { depth: number; step: number } {
  const parts = allOf(document, 'part')
  const front = parts.filter((part) => part.holdsOut && part.staysInFront).flatMap(depthsOf)
  if (front.length === 0) return { depth: Math.min(1, ...parts.flatMap(depthsOf)) - count, step: 1 }
  const behind = Math.max(...front)
  const farther = parts.flatMap(depthsOf).filter((depth) => depth > behind)
  const step = farther.length ? (Math.min(...farther) - behind) / (count + 1) : 1
  return { depth: behind + step, step }
}

/** The Part one place nearer or farther on a frame; null where it is the first or the last already. */
export function partStepped(document: RotoDocument, partId: string, way: -1 | 1, frame: number): Patch[] | null {
  const order = partsByDepth(document, frame)
  const to = order.findIndex(({ id }) => id === partId) + way
  return to < 0 || to >= order.length ? null : partReordered(document, partId, to, frame)
}

/** A number between two neighbours, either of which may be missing. */
export function depthBetween(nearer: number | undefined, farther: number | undefined): number {
  if (nearer === undefined) return farther === undefined ? 0 : farther - 1
  return farther === undefined ? nearer + 1 : (nearer + farther) / 2
}
