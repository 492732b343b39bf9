import { z } from 'zod'

/**
 * The roto document: one per shot, a flat map of small objects, each stored and compared by itself.
 * Numbers that come by the thousand are Float64Array, everything else is plain JSON.
 */
export const SCHEMA_VERSION = 1

/** Numbers of one control point within a key: see {@link POINT}. */
export const POINT_STRIDE = 10

/** Places of a control point's numbers. Tangents are relative to the point; pixels of the moved space. */
export const POINT = {
  x: 0,
  y: 1,
  inX: 2,
  inY: 3,
  outX: 4,
  outY: 5,
  innerFeather: 6,
  outerFeather: 7,
  tension: 8,
  width: 9,
} as const

/** Frames of a track are stored in blocks, so that an edit of one stretch does not carry the whole track. */
export const BLOCK_FRAMES = 32

/** Numbers of one frame of a track: state, 3x3 matrix, match 0..1, share of pixels kept 0..1. */
export const SAMPLE_STRIDE = 12
export const SAMPLE = { state: 0, matrix: 1, match: 10, kept: 11 } as const
export const SAMPLE_STATE = { missing: 0, tracked: 1 } as const

const finite = z.number()

/** One loop: a document has millions of numbers, and all are looked at each time it is opened. */
function areFinite(values: Float64Array): boolean {
  for (let i = 0; i < values.length; i++) if (!Number.isFinite(values[i])) return false
  return true
}

const id = z.string().regex(/^[A-Za-z0-9_-]{1,40}$/, 'an id has 1 to 40 letters, digits, - or _')
const name = z.string().trim().min(1).max(120)
const point = z.tuple([finite, finite])
const numbers = z
  .union([z.instanceof(Float64Array), z.array(finite)])
  .transform((value): Float64Array => (value instanceof Float64Array ? value : Float64Array.from(value)))
  .refine(areFinite, 'numbers must be finite')
const wholeFrame = z.number().int().min(-1e7).max(1e7)
const frameRange = z.tuple([wholeFrame, wholeFrame]).refine(([a, b]) => a <= b, 'first frame after last frame')
const shutter = z.object({ angle: z.number().min(0).max(720), phase: z.number().min(-720).max(720) })

export const interpolationSchema = z.enum(['linear', 'smooth', 'hold'])

export const keySchema = z.object({
  time: z.number().min(-1e7).max(1e7),
  interpolation: interpolationSchema,
  values: numbers,
})

export const shotSchema = z.object({
  kind: z.literal('shot'),
  id: z.literal('shot'),
  width: z.number().int().positive().max(16384),
  height: z.number().int().positive().max(16384),
  pixelAspect: z.number().min(0.1).max(10),
  range: frameRange,
  rate: z.object({ numerator: z.number().int().positive(), denominator: z.number().int().positive() }),
  shutter,
})

export const subjectSchema = z.object({
  kind: z.literal('subject'),
  id,
  name,
  /** Index into the colour-blind-safe set of hues. */
  hue: z.number().int().min(0).max(7),
  order: finite,
})

/** Constant 3x3 map applied before the motion, so that attaching changes nothing on the reference frame. */
const base = numbers.refine((m) => m.length === 9, 'a base is a 3x3 matrix')

const moverSchema = z.object({ trackId: id, referenceFrame: wholeFrame, base })

/** Motion of a Mover that was dropped or replaced exactly: samples as they were, applied from a reference frame. */
const carrierSchema = z.object({
  firstFrame: wholeFrame,
  matrices: numbers,
  present: z.array(z.union([z.literal(0), z.literal(1)])),
  pivot: point,
  referenceFrame: wholeFrame,
  base,
})

export const partSchema = z.object({
  kind: z.literal('part'),
  id,
  subjectId: id,
  parentId: id.nullable(),
  name,
  shade: z.number().int().min(0).max(11),
  /** Smaller is nearer to the camera. */
  depth: finite,
  pivot: point,
  mover: moverSchema.nullable(),
  /** Oldest first; each acts on what the earlier ones have moved. */
  carriers: z.array(carrierSchema),
  holdsOut: z.boolean(),
  visible: z.boolean(),
  locked: z.boolean(),
  life: frameRange.nullable(),
  /** null: the shot's shutter. */
  shutter: shutter.nullable(),
})

export const shapeSchema = z
  .object({
    kind: z.literal('shape'),
    id,
    partId: id,
    name,
    order: finite,
    pointIds: z.array(id).min(2).max(4096),
    /** Per point: a corner has free tangents, a smooth point has both on one line. */
    corners: z.array(z.boolean()),
    edge: z.object({
      innerFeather: z.number().min(0).max(1000),
      outerFeather: z.number().min(0).max(1000),
      grow: z.number().min(-1000).max(1000),
    }),
    opacity: z.number().min(0).max(1),
    visible: z.boolean(),
    keys: z.array(keySchema).min(1),
  })
  .refine((s) => s.corners.length === s.pointIds.length, 'one corner flag a point')
  .refine((s) => new Set(s.pointIds).size === s.pointIds.length, 'point ids repeat')
  .refine((s) => s.keys.every((k) => k.values.length === s.pointIds.length * POINT_STRIDE), 'key of another length')
  .refine((s) => s.keys.every((k, i) => i === 0 || s.keys[i - 1]!.time < k.time), 'keys out of order')

export const trackModelSchema = z.enum(['position', 'similarity', 'affine', 'perspective'])

export const trackSchema = z.object({
  kind: z.literal('track'),
  id,
  name,
  model: trackModelSchema,
  order: finite,
  referenceFrame: wholeFrame,
  /** Closed polygon x0, y0, x1, y1 ... in plate pixels of the reference frame. */
  region: numbers.refine((r) => r.length >= 6 && r.length % 2 === 0, 'a region has 3 points or more'),
  /** Closed polygons of what must not be tracked, on the reference frame. */
  leaveOut: z.array(numbers),
  minimumMatch: z.number().min(0).max(1),
  pivot: point,
  blocks: z.array(z.object({ index: z.number().int(), values: numbers })),
})

export const objectSchema = z.union([shotSchema, subjectSchema, partSchema, shapeSchema, trackSchema])

export type Key = z.infer<typeof keySchema>
export type Shot = z.infer<typeof shotSchema>
export type Subject = z.infer<typeof subjectSchema>
export type Mover = z.infer<typeof moverSchema>
export type Part = z.infer<typeof partSchema>
export type Carrier = z.infer<typeof carrierSchema>
export type Shape = z.infer<typeof shapeSchema>
export type Track = z.infer<typeof trackSchema>
export type TrackModel = z.infer<typeof trackModelSchema>
export type DocumentObject = z.infer<typeof objectSchema>
export type ObjectKind = DocumentObject['kind']

/** Immutable; edits make a new one that shares what did not change. */
export interface RotoDocument {
  readonly objects: ReadonlyMap<string, DocumentObject>
}

export const EMPTY_DOCUMENT: RotoDocument = { objects: new Map() }

/** The object of that kind, or undefined. */
export function find<K extends ObjectKind>(
  document: RotoDocument,
  kind: K,
  objectId: string,
): Extract<DocumentObject, { kind: K }> | undefined {
  const object = document.objects.get(objectId)
  return object?.kind === kind ? (object as Extract<DocumentObject, { kind: K }>) : undefined
}

export function allOf<K extends ObjectKind>(document: RotoDocument, kind: K): Extract<DocumentObject, { kind: K }>[] {
  const found: Extract<DocumentObject, { kind: K }>[] = []
  for (const object of document.objects.values()) {
    if (object.kind === kind) found.push(object as Extract<DocumentObject, { kind: K }>)
  }
  return found
}

const ID_LETTERS = 'ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz23456789'

/** Random id of 12 letters (71 bits). */
export function newId(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(12)), (byte) => ID_LETTERS[byte % ID_LETTERS.length]).join('')
}
