import { z } from 'zod'
import { BOUNDS } from './bounds'
import { channelSchema, type Channel } from './channel'
import { misfitOfChannels } from './channelRegistry'
import { finite, frameRange, id, matrix, name, notes, numbers, pixelAspect, point, polygon, sampleNumbers, wholeFrame } from './fields' // prettier-ignore

/** Frames of a track are stored in blocks, so that an edit of one stretch does not carry the whole track. */
export const BLOCK_FRAMES = 32

/**
 * Numbers of one frame of a track: state, 3x3 matrix, match 0..1, share of pixels kept 0..1, residual (of 1), stamp of
 * what it was made from, frame of the pattern it was compared with, how far it missed when tracked back (below).
 */
export const SAMPLE_STRIDE = 16
export const SAMPLE = {
  state: 0,
  matrix: 1,
  match: 10,
  kept: 11,
  residual: 12,
  stamp: 13,
  patternFrame: 14,
  returned: 15,
} as const

/** In place of a way back: nobody asked for it, or the sample is from before it was stored. Others are 1 and the pixels. */
export const RETURNED = { notAsked: -1, notStored: 0 } as const

/** How a sample came about. Only `tracked` was seen in the picture. */
export const SAMPLE_STATE = { missing: 0, tracked: 1, placed: 2, bridged: 3, combined: 4 } as const

const trackModelSchema = z.enum(['position', 'similarity', 'affine', 'perspective'])

/** What the tracker looks at. */
const preprocessingSchema = z.object({
  /** best: the channel whose pattern holds its place best, chosen on the reference frame. */
  channel: z.enum(['luma', 'red', 'green', 'blue', 'best']),
  /** Gaussian sigma in pixels. */
  blur: z.number().min(0).max(8),
  sharpen: z.number().min(0).max(2),
  localContrast: z.boolean(),
  texture: z.enum(['all', 'corners', 'edges']),
  /** Share of the pixels that are sampled. */
  density: z.number().min(0.02).max(1),
  /** Whether the pattern is blurred as each frame is, by the shot's shutter. Missing in tracks of before: it was not. */
  motionBlur: z.boolean().optional(),
  /** Whether a point's pattern may turn, shrink and shear. Missing in tracks of before: it might not. */
  follows: z.boolean().optional(),
})

export const DEFAULT_PREPROCESSING: z.infer<typeof preprocessingSchema> = {
  channel: 'luma',
  blur: 0,
  sharpen: 0,
  localContrast: false,
  texture: 'all',
  density: 1,
  motionBlur: true,
  follows: true,
}

/**
 * An outline that lies on the surface (`rides`, in pixels of the reference frame) or on the picture; its channel
 * `leaveOut:` and its id has the points.
 */
const leaveOutOutline = z.object({ kind: z.literal('outline'), id, rides: z.boolean() })
/** A Part that stands in front: its outlines, over its shutter, with a margin. */
const leaveOutPart = z.object({ kind: z.literal('part'), partId: id })

/** Name of the channel of a leave-out's outline. */
export const leaveOutChannel = (leaveOutId: string) => `leaveOut:${leaveOutId}`

interface LeavingOut {
  leaveOut: readonly ({ kind: 'outline'; id: string } | { kind: 'part' })[]
  channels: Record<string, Channel>
}

/** Each outline that is left out has points. */
function misfitOfLeaveOuts({ leaveOut, channels }: LeavingOut): string | null {
  const isEmpty = leaveOut.some((one) => {
    const channel = one.kind === 'outline' ? channels[leaveOutChannel(one.id)] : undefined
    return one.kind === 'outline' && !channel?.constant && !channel?.keys.length
  })
  return isEmpty ? 'a leave-out has no outline' : null
}

/** Another pattern from `frame` on, away from the reference frame; `matrix` is the track's motion there. */
const referenceSchema = z.object({ frame: wholeFrame, outlines: z.array(polygon).min(1).max(BOUNDS.list), matrix })

/** A stretch without picture evidence: channels about the pivot run from one frame to the other with these slopes. */
const bridgeSchema = z.object({
  from: wholeFrame,
  to: wholeFrame,
  /** Change of each channel per frame, on leaving `from` and on arriving at `to`. */
  leaving: numbers,
  arriving: numbers,
})

/** Kept apart from the samples, so that it can be taken away. Strength 0 leaves a channel as it is. */
const smoothingSchema = z.object({
  method: z.enum(['polynomial', 'spline']),
  position: z.number().min(0).max(100),
  rotation: z.number().min(0).max(100),
  scale: z.number().min(0).max(100),
  perspective: z.number().min(0).max(100),
  range: frameRange.nullable(),
})

/** average: the mean of all; join: one continues another; points: the motion that their centres make together. */
const combinationSchema = z.enum(['average', 'join', 'points'])

/** Place of a block: its frames are index * BLOCK_FRAMES and those behind it. */
export const blockIndex = z
  .number()
  .int()
  .min(-BOUNDS.frame / BLOCK_FRAMES)
  .max(BOUNDS.frame / BLOCK_FRAMES)

/** All numbers of a block, in today's layout. */
export const blockValues = sampleNumbers.refine(
  (values) => values.length === BLOCK_FRAMES * SAMPLE_STRIDE,
  'a block of another length',
)

const finiteStamp = z.number().min(0).max(BOUNDS.sample)

/** Fields of a track that nobody has touched yet. */
export const NEW_TRACK_FIELDS = {
  channels: {},
  surface: 'plane',
  leaveOut: [],
  search: [-40, -40, 40, 40],
  references: [],
  patternUpdate: { when: 'first', below: 0.9 },
  mostReturnError: null,
  preprocessing: DEFAULT_PREPROCESSING,
  bridges: [],
  smoothing: null,
  hue: null,
  notes: '',
  locked: false,
  visible: true,
  archived: false,
  madeFrom: null,
  pixelAspect: 1,
} satisfies Partial<Track>

/** One block of a track's samples. */
export const blockSchema = z.object({ index: blockIndex, values: blockValues })

export const trackSchema = z
  .object({
    kind: z.literal('track'),
    id,
    name,
    surface: z.enum(['plane', 'point']),
    model: trackModelSchema,
    order: finite,
    referenceFrame: wholeFrame,
    /** Closed polygons in plate pixels of the reference frame; where two lie over one another is a hole (even-odd). */
    outlines: z.array(polygon).min(1).max(BOUNDS.list),
    /** Where a point's pattern is looked for: left, top, right, bottom from the pattern's own box, plate pixels. */
    search: z.tuple([finite, finite, finite, finite]),
    leaveOut: z.array(z.discriminatedUnion('kind', [leaveOutOutline, leaveOutPart])).max(BOUNDS.list),
    references: z.array(referenceSchema).max(BOUNDS.list),
    patternUpdate: z.object({ when: z.enum(['first', 'every', 'weak']), below: z.number().min(0).max(1) }),
    preprocessing: preprocessingSchema,
    minimumMatch: z.number().min(0).max(1),
    /** Pixels by which a frame may miss the one before when tracked back to it; null: not asked. */
    mostReturnError: z.number().positive().max(100).nullable(),
    /** Centre about which the motion is split into channels; plate pixels of the reference frame. */
    pivot: point,
    /** Width of a pixel over its height, of the plate it was tracked on. */
    pixelAspect: pixelAspect.default(1),
    blocks: z
      .array(blockSchema)
      .max(BOUNDS.keys)
      .refine((blocks) => blocks.every((b, i) => i === 0 || blocks[i - 1]!.index < b.index), 'blocks out of order'),
    bridges: z.array(bridgeSchema).max(BOUNDS.list),
    smoothing: smoothingSchema.nullable(),
    /** Index into the set of hues; null: the hue of what it moves. */
    hue: z.number().int().min(0).max(7).nullable(),
    notes,
    locked: z.boolean(),
    visible: z.boolean(),
    archived: z.boolean(),
    /** For a track computed from others: how, from which, and the stamp of what they were. */
    madeFrom: z
      .object({ how: combinationSchema, trackIds: z.array(id).max(BOUNDS.list), stamp: finiteStamp })
      .nullable(),
    /** The reported place's offset, and outlines of leave-outs. */
    channels: z.record(z.string(), channelSchema).default({}),
  })
  .superRefine((track, context) => {
    const message = misfitOfChannels('track', track.channels, null) ?? misfitOfLeaveOuts(track)
    if (message !== null) context.addIssue({ code: 'custom', message })
  })

export type Track = z.infer<typeof trackSchema>
export type TrackModel = z.infer<typeof trackModelSchema>
export type Combination = z.infer<typeof combinationSchema>
export type TrackPreprocessing = z.infer<typeof preprocessingSchema>
export type LeaveOut = Track['leaveOut'][number]
export type Bridge = z.infer<typeof bridgeSchema>
export type Smoothing = z.infer<typeof smoothingSchema>
