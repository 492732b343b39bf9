import { z } from 'zod'
import { invert, type Matrix3 } from '../geometry'
import { keysCarried, keysPutDown } from './keyTimes'
import { formChanged, type Keying } from './change'
import { familyOf, familyRenewed, shapeRenewed } from './copies'
import { depthBetween, objectAdded } from './objects'
import {
  depthOn,
  partsByDepth,
  pointWorldsAt,
  worldAt,
  mappedPoints,
  pointsEachMapped,
  shapePointsAt,
  wholeKeys,
} from '../evaluation'
import {
  channelName,
  constantChannel,
  id,
  liftedKey,
  liftedObject,
  numbers,
  SCHEMA_VERSION,
  withOutlineKeys,
  type KeyAddress,
  allOf,
  findObject,
  keySchema,
  partSchema,
  POINT_STRIDE,
  POSE_STRIDE,
  shapeSchema,
  type Part,
  type RotoDocument,
  type Shape,
  type Patch,
  toJson,
  outlineKeys,
} from '../document'

const contentSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('keys'),
    carried: z.array(z.object({ id, channel: channelName, after: z.number().int().min(0), key: keySchema })).min(1),
  }),
  /** Points as they lie on the plate. */
  z.object({
    kind: z.literal('points'),
    points: z.array(z.object({ id, values: numbers.refine((v) => v.length === POINT_STRIDE) })).min(1),
  }),
  /** Shapes whose keys lie on the plate. */
  z.object({ kind: z.literal('shapes'), shapes: z.array(shapeSchema).min(1) }),
  z.object({ kind: z.literal('parts'), parts: z.array(partSchema).min(1), shapes: z.array(shapeSchema) }),
])

/** What is on the clipboard: text, so that it goes from one shot to another, marked with the schema version. */
const clipboardSchema = z.object({ tenderLasso: z.literal(SCHEMA_VERSION), content: contentSchema })
export type ClipboardContent = z.infer<typeof contentSchema>

export function clipboardText(content: ClipboardContent): string {
  return toJson({ tenderLasso: SCHEMA_VERSION, content })
}

/** A clipboard of before in the form of today; what is none is left to the schema to refuse. */
function lifted(clipboard: unknown): unknown {
  const former = formerClipboard.safeParse(clipboard)
  if (!former.success) return clipboard
  const { tenderLasso, content } = former.data
  // The first of them stood for schema version 2.
  const version = tenderLasso === 1 ? 2 : tenderLasso
  const { carried, points, shapes, parts } = content
  const objects = (list: unknown[] | undefined) => list?.map((object) => liftedObject(object, version))
  return {
    tenderLasso: SCHEMA_VERSION,
    content: {
      ...content,
      ...(carried && { carried: carried.map((one) => liftedCarried(one, version)) }),
      ...(points && { points: points.map((point) => liftedKey(point, 'outline', version)) }),
      ...(shapes && { shapes: objects(shapes) }),
      ...(parts && { parts: objects(parts) }),
    },
  }
}

const formerCarried = z.looseObject({
  id: z.string(),
  channel: z.string().optional(),
  key: z.looseObject({ values: numbers }),
})

/** A key that is carried: version 2 put the name of its list, where it was not the first one, into the id. */
function liftedCarried({ id: owner, channel, key, ...rest }: z.infer<typeof formerCarried>, version: number) {
  const [objectId, ofPart] = version === 2 ? owner.split('/') : [owner, channel]
  const name = ofPart ?? (key.values.length === POSE_STRIDE ? 'pose' : 'outline')
  return { ...rest, id: objectId, channel: name, key: liftedKey(key, name, version) }
}

const formerClipboard = z.object({
  tenderLasso: z.union([z.literal(1), z.literal(3)]),
  content: z.looseObject({
    carried: z.array(formerCarried).optional(),
    points: z.array(z.unknown()).optional(),
    shapes: z.array(z.unknown()).optional(),
    parts: z.array(z.unknown()).optional(),
  }),
})

/** The content of a clipboard text, or null when it is something else. */
export function clipboardContent(text: string): ClipboardContent | null {
  try {
    const parsed = clipboardSchema.safeParse(lifted(JSON.parse(text)))
    return parsed.success ? parsed.data.content : null
  } catch {
    return null
  }
}

export interface CopySource {
  keys: readonly KeyAddress[]
  pointIds: ReadonlySet<string>
  shapeIds: readonly string[]
  partId: string | null
}

/** What is selected, the smallest thing first: keys, points as they lie on a frame, shapes, a Part with what it carries. */
export function selectionCopied(document: RotoDocument, selected: CopySource, frame: number): ClipboardContent | null {
  const carried = selected.keys.length ? keysCarried(document, selected.keys) : []
  if (carried.length) return { kind: 'keys', carried }
  const shapes = selected.shapeIds.flatMap((shapeId) => findObject(document, 'shape', shapeId) ?? [])
  if (selected.pointIds.size) {
    const points = shapes.flatMap((shape) => {
      const onPlate = pointsEachMapped(shapePointsAt(shape, frame), pointWorldsAt(document, shape, frame))
      return shape.pointIds.flatMap((pointId, i) =>
        selected.pointIds.has(pointId)
          ? [{ id: pointId, values: onPlate.slice(i * POINT_STRIDE, (i + 1) * POINT_STRIDE) }]
          : [],
      )
    })
    if (points.length) return { kind: 'points', points }
  }
  if (shapes.length) return { kind: 'shapes', shapes: shapes.map((shape) => onPlate(document, shape)) }
  const part = selected.partId === null ? undefined : findObject(document, 'part', selected.partId)
  if (!part) return null
  const { parts, shapes: own } = familyOf(document, part.id)
  return { kind: 'parts', parts: [...parts], shapes: [...own] }
}

/** A shape with its keys where they lie on the plate, moved by nothing. */
function onPlate(document: RotoDocument, shape: Shape): Shape {
  const keys = wholeKeys(shape).map((key) => {
    const { touched: _, ...whole } = key
    return { ...whole, values: pointsEachMapped(key.values, pointWorldsAt(document, shape, key.time)) }
  })
  const pivot = shape.pivot?.to === 'track' ? null : shape.pivot
  return { ...withOutlineKeys(shape, keys), mover: null, frozenMovers: [], movedPoints: [], pivot }
}

export interface Pasted {
  patches: Patch[]
  /** What is new, to be selected. */
  shapeIds: string[]
  partId: string | null
}

/** Points lie where they lay on the plate, on this frame; null when no shape here has them. */
export function pointsPasted(
  document: RotoDocument,
  { points }: Extract<ClipboardContent, { kind: 'points' }>,
  selected: Pick<CopySource, 'shapeIds' | 'pointIds'>,
  frame: number,
  how: Keying,
): Patch[] | null {
  const shapes = allOf(document, 'shape')
  const known = points.some(({ id: pointId }) => shapes.some((shape) => shape.pointIds.includes(pointId)))
  // Of another shot or a deleted shape: onto the points selected here, in their order, when they are as many.
  const chosen = selected.shapeIds.flatMap((shapeId) => findObject(document, 'shape', shapeId)?.pointIds.filter((pointId) => selected.pointIds.has(pointId)) ?? []) // prettier-ignore
  if (!known && chosen.length !== points.length) return null
  const values = new Map(points.map((point, i) => [known ? point.id : chosen[i]!, point.values]))
  return shapes.flatMap((shape) => {
    if (!shape.pointIds.some((pointId) => values.has(pointId))) return []
    const worlds = pointWorldsAt(document, shape, frame)
    return formChanged(shape, frame, (_before, out) => putPoints(shape, values, worlds, out), how)
  })
}

function putPoints(
  shape: Shape,
  values: ReadonlyMap<string, Float64Array>,
  worlds: readonly Matrix3[],
  out: Float64Array,
) {
  shape.pointIds.forEach((pointId, i) => {
    const placed = values.get(pointId)
    if (placed) out.set(mappedPoints(placed, invert(worlds[i]!)), i * POINT_STRIDE)
  })
}

/** Keys from this frame on: on what they were copied from, or on the one thing selected when they come from one. */
export function keysPasted(
  document: RotoDocument,
  { carried }: Extract<ClipboardContent, { kind: 'keys' }>,
  onto: string | null,
  frame: number,
): { patches: Patch[]; chosen: KeyAddress[] } {
  const sources = new Set(carried.map((one) => one.id))
  const isOther = onto !== null && sources.size === 1
  const target = (source: string) => (isOther ? onto : source)
  return {
    patches: keysPutDown(document, carried, frame, target),
    chosen: carried.map(({ id, channel, after }) => ({ id: target(id), channel, time: frame + after })),
  }
}

/** Shapes put into a Part, where they lay on the plate on each of their keys. */
export function shapesPasted(
  document: RotoDocument,
  { shapes }: Extract<ClipboardContent, { kind: 'shapes' }>,
  part: Part,
): Pasted {
  const order = Math.max(-1, ...allOf(document, 'shape').flatMap((s) => (s.partId === part.id ? [s.order] : []))) + 1
  const made = shapes.map((shape, i) => {
    const keys = outlineKeys(shape).map((key) => ({ ...key, values: mappedPoints(key.values, invert(worldAt(document, part, key.time))) })) // prettier-ignore
    return shapeRenewed({ ...withOutlineKeys(shape, keys), partId: part.id, order: order + i })
  })
  return { patches: made.map(objectAdded), shapeIds: made.map((shape) => shape.id), partId: part.id }
}

/** Parts with what they carry, in front of all others; Movers whose track is not here are let go. */
export function partsPasted(
  document: RotoDocument,
  { parts, shapes }: Extract<ClipboardContent, { kind: 'parts' }>,
  subjectId: string,
  frame: number,
): Pasted {
  const renewed = familyRenewed({ parts, shapes })
  const nearest = partsByDepth(document, frame)[0]
  const front = depthBetween(undefined, nearest && depthOn(nearest, frame))
  const isHere = (trackId: string) => findObject(document, 'track', trackId) !== undefined
  const moved = <T extends Part | Shape>(object: T): T => ({
    ...object,
    mover: object.mover && isHere(object.mover.trackId) ? object.mover : null,
  })
  const known = new Set(renewed.parts.map((part) => part.id))
  const made = renewed.parts.map((part, i): Part => {
    const hasParent =
      part.parentId !== null && (known.has(part.parentId) || findObject(document, 'part', part.parentId))
    const pin = part.pin?.to === 'track' && !isHere(part.pin.trackId) ? null : part.pin
    return {
      ...moved(part),
      subjectId,
      parentId: hasParent ? part.parentId : null,
      pin: hasParent || part.parentId === null || pin?.to === 'track' ? pin : null,
      channels: { ...part.channels, depth: constantChannel(front - renewed.parts.length + 1 + i) },
    }
  })
  const outlines = renewed.shapes.map((shape) => ({
    ...moved(shape),
    movedPoints: shape.movedPoints.filter(({ mover }) => !mover || isHere(mover.trackId)),
    pivot: shape.pivot?.to === 'track' && !isHere(shape.pivot.trackId) ? null : shape.pivot,
  }))
  return { patches: [...made, ...outlines].map(objectAdded), shapeIds: [], partId: made[0]!.id }
}
