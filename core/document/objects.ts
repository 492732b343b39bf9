import { z } from 'zod'
import { FULL_STRENGTH } from '../motion'
import { BOUNDS } from './bounds'
import { channelSchema, type Channel } from './channel'
import { misfitOfChannels, type ChannelKind } from './channelRegistry'
import { finite, frameRange, id, matrix, name, numbers, pixelAspect, point, wholeFrame, words } from './fields'
import { outputSchema } from './output'
import { trackSchema, type Track } from './track'

/**
 * The roto document: one per shot, a flat map of small objects, each stored and compared by itself.
 * Numbers that come by the thousand are Float64Array, everything else is plain JSON.
 */
export const SCHEMA_VERSION = 4

/** Numbers of one control point within a key: see {@link POINT}. */
export const POINT_STRIDE = 11

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
  focus: 10,
} as const

const channels = z.record(z.string(), channelSchema).default({})

/** Channels that the registry has, each with numbers that it may have. */
function reportMisfitChannels(
  object: { kind: ChannelKind; channels: Record<string, Channel>; pointIds?: readonly string[] },
  context: z.RefinementCtx,
) {
  const points = object.pointIds ? new Set(object.pointIds) : null
  const message = misfitOfChannels(object.kind, object.channels, points)
  if (message !== null) context.addIssue({ code: 'custom', message })
}

const shotSchema = z
  .object({
    kind: z.literal('shot'),
    id: z.literal('shot'),
    width: z.number().int().positive().max(16384),
    height: z.number().int().positive().max(16384),
    pixelAspect,
    range: frameRange,
    rate: z.object({
      numerator: z.number().int().positive().max(1_000_000),
      denominator: z.number().int().positive().max(100_000),
    }),
    /** The shutter of Parts that have none of their own. */
    channels,
  })
  .superRefine(reportMisfitChannels)

const subjectSchema = z.object({
  kind: z.literal('subject'),
  id,
  name,
  /** Index into the colour-blind-safe set of hues. */
  hue: z.number().int().min(0).max(7),
  order: finite,
})

const share = z.number().min(0).max(2)

/** Share of each channel of the track's motion since the reference frame that is taken over. */
const strengthSchema = z.object({
  x: share,
  y: share,
  rotation: share,
  scale: share,
  skew: share,
  perspective: share,
})

/** `base`: constant map applied before the motion, so that attaching changes nothing on the reference frame. */
const moverSchema = z.object({
  trackId: id,
  referenceFrame: wholeFrame,
  base: matrix,
  strength: strengthSchema.default(FULL_STRENGTH),
})

/** Motion of a Mover that was dropped or replaced exactly: samples as they were, applied from a reference frame. */
const frozenMoverSchema = z.object({
  firstFrame: wholeFrame,
  matrices: numbers,
  present: z.array(z.union([z.literal(0), z.literal(1)])).max(BOUNDS.stretch),
  pivot: point,
  pixelAspect: pixelAspect.default(1),
  referenceFrame: wholeFrame,
  base: matrix,
})

/** A place of the picture on the reference frame that a track carries along. */
const trackedPlace = z.object({ to: z.literal('track'), trackId: id, referenceFrame: wholeFrame, place: point })

/**
 * Where the pivot of a Part is held, whatever moves the Part: at a place of what carries it (in the space in which that
 * stores its points), at such places keyed over time (its channel `pivot`), or where a track carries a place.
 */
const pinSchema = z.discriminatedUnion('to', [
  z.object({ to: z.literal('parent'), place: point }),
  z.object({ to: z.literal('keys') }),
  trackedPlace,
])

/** What a shape is turned and scaled about: a place of its own space, or one that a track carries. */
const shapePivotSchema = z.discriminatedUnion('to', [z.object({ to: z.literal('shape'), place: point }), trackedPlace])

/** What can be moved by a track in place of inherited motion. Carriers: oldest first, each acts on the earlier ones. */
const frozenMovers = z.array(frozenMoverSchema).max(100)
const movedFields = { mover: moverSchema.nullable(), frozenMovers }

/** Points of a shape that a track moves otherwise than the shape. */
const movedPointsSchema = z.object({ pointIds: z.array(id).min(1).max(BOUNDS.points), ...movedFields })

/** Frames on which it goes on as ever, but its matte is empty: first and last of each, in order and apart. */
const hiddenStretches = z
  .array(frameRange)
  .max(BOUNDS.stretch)
  .refine(
    (all) => all.every(([from], i) => i === 0 || from > all[i - 1]![1] + 1),
    'hidden stretches lie apart, in order',
  )
  .default([])

/** Numbers of a key of a Part's pose: the way of the pivot and turn and size about it, in the space that carries it. */
export const POSE_STRIDE = 5
/** x, y: pixels; rotation: radians of square pixels, not wrapped; scales: natural logarithms. */
export const POSE = { x: 0, y: 1, rotation: 2, logScaleX: 3, logScaleY: 4 } as const

/** What a shape can do to those of its Part that lie below it. */
export const OPERATIONS = ['add', 'subtract', 'intersect', 'difference'] as const

/** Early: most is lost near the full side; late: near the side where it has faded out. */
export const FALLOFFS = ['smooth', 'linear', 'early', 'late', 'own'] as const

/**
 * A Part that shows the shapes of another one, and follows it: where that is, or as its reflection about a line.
 */
const instanceSchema = z.object({
  of: id,
  /** The shapes that it shows; null: all of them, also those that are drawn later. */
  shapeIds: z.array(id).min(1).nullable().default(null),
  /** What its parent does comes on top of what it follows, as in a Subject that is shown again as a whole. */
  withParent: z.boolean().default(false),
  mirror: z
    .object({
      /** Two places of the line, plate pixels of the reference frame. */
      line: numbers.refine(
        (line) => line.length === 4 && (line[0] !== line[2] || line[1] !== line[3]),
        'a line goes through two places',
      ),
      referenceFrame: wholeFrame,
      /** What carries the line; null: it stays where it is. */
      trackId: id.nullable(),
    })
    .nullable(),
})

export const partSchema = z
  .object({
    kind: z.literal('part'),
    id,
    subjectId: id,
    parentId: id.nullable(),
    name,
    shade: z.number().int().min(0).max(11),
    pivot: point,
    ...movedFields,
    pin: pinSchema.nullable().default(null),
    holdsOut: z.boolean(),
    /** Parts behind it that it does not cut all the same; ids of Parts that are gone mean nothing. */
    spares: z.array(id).max(BOUNDS.points).default([]),
    /** New Parts are put behind it. */
    staysInFront: z.boolean().default(false),
    /** It has no shapes of its own then. */
    instance: instanceSchema.nullable().default(null),
    visible: z.boolean(),
    locked: z.boolean(),
    life: frameRange.nullable(),
    hidden: hiddenStretches,
    /** false: the shot's shutter. */
    hasOwnShutter: z.boolean(),
    /** Its pose (without keys the Part is where what carries it puts it), its depth and the like. */
    channels,
  })
  .superRefine(reportMisfitChannels)

export const shapeSchema = z
  .object({
    kind: z.literal('shape'),
    id,
    partId: id,
    name,
    order: finite,
    /** What the points mean: on the curve with tangents, or corners of the polygon that a cubic B-spline rounds. */
    curve: z.enum(['bezier', 'bspline']).default('bezier'),
    /** false: a stroke along the points, as wide at each as the point says. */
    isClosed: z.boolean().default(true),
    /** Between keys: every coordinate by itself, or the turn and size of the outline and of its tangents. */
    interpolateBy: z.enum(['coordinates', 'turning']).default('coordinates'),
    life: frameRange.nullable().default(null),
    hidden: hiddenStretches,
    /** What it does to the shapes of its Part that lie below it. */
    operation: z.enum(OPERATIONS).default('add'),
    /** How its feather runs from none to full. */
    falloff: z.enum(FALLOFFS).default('smooth'),
    /** Of a falloff of one's own: how steep it is where the edge has faded out and where it is full; between it is a cubic. */
    falloffSlopes: z.tuple([z.number().min(0).max(3), z.number().min(0).max(3)]).default([0, 0]),
    /** false: it is as it lies at the middle of the shutter. */
    motionBlur: z.boolean().default(true),
    /** By the id of a point how much of the motion within the shutter it takes part in, 0 to 1; missing: all. Ids of points that are gone mean nothing. */
    blurWeights: z.record(id, z.number().min(0).max(1)).default({}),
    pointIds: z.array(id).min(2).max(BOUNDS.points),
    /** Per point: a corner has free tangents, a smooth point has both on one line. */
    corners: z.array(z.boolean()).max(BOUNDS.points),
    visible: z.boolean(),
    mover: moverSchema.nullable().default(null),
    frozenMovers: frozenMovers.default([]),
    movedPoints: z.array(movedPointsSchema).max(BOUNDS.points).default([]),
    /** null: the middle of what is selected. */
    pivot: shapePivotSchema.nullable().default(null),
    /** The outline, what of its edge belongs to all of it, and its opacity. */
    channels: z.object({ outline: channelSchema }).catchall(channelSchema),
  })
  .refine((s) => s.corners.length === s.pointIds.length, 'one corner flag a point')
  .refine((s) => new Set(s.pointIds).size === s.pointIds.length, 'point ids repeat')
  .superRefine((s, context) => {
    if (s.channels.outline.keys.length === 0) context.addIssue({ code: 'custom', message: 'a shape has a key' })
    const points = new Set(s.pointIds)
    if (s.movedPoints.some((moved) => moved.pointIds.some((one) => !points.has(one))))
      context.addIssue({ code: 'custom', message: "points that a track moves are not the shape's" })
  })
  .superRefine(reportMisfitChannels)

/**
 * Points of two shapes that are one: a stretch of the borrower's outline is the owner's, whatever moves either. In the order
 * in which the borrower runs through them; where two neighbours are neighbours in both shapes, the line between is shared.
 */
const seamSchema = z
  .object({
    kind: z.literal('seam'),
    id,
    ownerId: id,
    borrowerId: id,
    pairs: z
      .array(z.object({ owner: id, borrower: id }))
      .min(1)
      .max(BOUNDS.points),
  })
  .refine((seam) => seam.ownerId !== seam.borrowerId, 'a shape cannot be tied to itself')
  .refine((seam) => new Set(seam.pairs.map((p) => p.owner)).size === seam.pairs.length, 'owner points repeat')
  .refine((seam) => new Set(seam.pairs.map((p) => p.borrower)).size === seam.pairs.length, 'borrower points repeat')

/** A line of the plate for points to catch on: upright at an x, level at a y. */
const guideSchema = z.object({ kind: z.literal('guide'), id, axis: z.enum(['x', 'y']), at: finite })

/** A frame or a stretch of frames with a name, for the artist to come back to. */
const bookmarkSchema = z.object({ kind: z.literal('bookmark'), id, name, range: frameRange })

/** A moment of the shot's log that the artist wants to keep and come back to. */
const versionSchema = z.object({
  kind: z.literal('version'),
  id,
  name,
  /** Place in the log: the document as it was after that batch. */
  sequence: z.number().int().min(0).max(BOUNDS.sequence),
  author: words(120),
  /** When it was kept, ISO 8601. */
  at: z.iso.datetime(),
})

/** Kinds are told apart first: an object is looked at by its own schema alone. */
export const objectSchema = z.discriminatedUnion('kind', [
  shotSchema,
  subjectSchema,
  partSchema,
  shapeSchema,
  trackSchema,
  bookmarkSchema,
  versionSchema,
  seamSchema,
  guideSchema,
  outputSchema,
])

export type Shot = z.infer<typeof shotSchema>
export type Subject = z.infer<typeof subjectSchema>
export type Mover = z.infer<typeof moverSchema>
export type Pin = z.infer<typeof pinSchema>
export type MovedPoints = z.infer<typeof movedPointsSchema>
export type Part = z.infer<typeof partSchema>
export type FrozenMover = z.infer<typeof frozenMoverSchema>
export type Instance = z.infer<typeof instanceSchema>
export type Shape = z.infer<typeof shapeSchema>
/** What a new Part is before anything is done to it. */
export const NEW_PART_FIELDS = {
  kind: 'part',
  mover: null,
  frozenMovers: [],
  pin: null,
  holdsOut: true,
  spares: [],
  staysInFront: false,
  instance: null,
  visible: true,
  locked: false,
  life: null,
  hidden: [],
  hasOwnShutter: false,
} satisfies Partial<Part>

/** What has numbers that change over time. */
export type Channelled = Shot | Part | Shape | Track
/** What has a form over time: a shape its outline, a Part its pose. */
export type Keyed = Part | Shape
/** A Part, a shape, or some points of one: what a track can move. */
export type MotionSource = Pick<Part, 'mover' | 'frozenMovers'>
export type Guide = z.infer<typeof guideSchema>
export type Seam = z.infer<typeof seamSchema>
export type Version = z.infer<typeof versionSchema>
export type Bookmark = z.infer<typeof bookmarkSchema>
export type DocumentObject = z.infer<typeof objectSchema>
export type ObjectKind = DocumentObject['kind']

/** Immutable; edits make a new one that shares what did not change. */
export interface RotoDocument {
  readonly objects: ReadonlyMap<string, DocumentObject>
}

export const EMPTY_DOCUMENT: RotoDocument = { objects: new Map() }

/** The object of that kind, or undefined. */
export function findObject<K extends ObjectKind>(
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
