import { z } from 'zod'
import { BOUNDS } from './bounds'
import { id, numberList } from './fields'
import { keySchema, objectSchema, type RotoDocument } from './objects'
import { blockIndex, blockValues } from './track'

/**
 * A patch says what stood at one place and what stands there now: a result, not a procedure. The union is closed:
 * - object: an object made, deleted, or changed in structure (points inserted, for instance)
 * - field:  one property of an object
 * - key:    one key of a shape, or of a Part's pose, made, deleted or replaced
 * - values: some numbers of some keys of one object, the same of each (index = point * stride + channel)
 * - block:  one block of a track's samples
 */
const objectPatch = z.object({
  kind: z.literal('object'),
  id,
  before: objectSchema.nullable(),
  after: objectSchema.nullable(),
})
const fieldPatch = z.object({
  kind: z.literal('field'),
  id,
  field: z.string().max(40),
  before: z.json(),
  after: z.json(),
})
const keyTime = z.number().min(-BOUNDS.frame).max(BOUNDS.frame)
const keyPatch = z.object({
  kind: z.literal('key'),
  id,
  time: keyTime,
  before: keySchema.nullable(),
  after: keySchema.nullable(),
})
const valuesPatch = z
  .object({
    kind: z.literal('values'),
    id,
    times: z.array(keyTime).min(1).max(BOUNDS.keys),
    indices: numberList().refine(
      (indices) => indices.every((i) => Number.isInteger(i) && i >= 0),
      'indices are counts',
    ),
    before: numberList(),
    after: numberList(),
  })
  .refine(({ times, indices, before, after }) => {
    const count = times.length * indices.length
    return before.length === count && after.length === count
  }, 'lengths differ')

/** Until schema version 1 a patch of values was of one key. */
function liftedPatch(value: unknown): unknown {
  if (typeof value !== 'object' || value === null || !('time' in value)) return value
  if (!('kind' in value) || value.kind !== 'values') return value
  const { time, ...rest } = value
  return { ...rest, times: [time] }
}

const blockList = blockValues.transform((values) => Array.from(values)).nullable()
const blockPatch = z.object({
  kind: z.literal('block'),
  id,
  index: blockIndex,
  before: blockList,
  after: blockList,
})

export const patchSchema = z.preprocess(
  liftedPatch,
  z.discriminatedUnion('kind', [objectPatch, fieldPatch, keyPatch, valuesPatch, blockPatch]),
)
export type Patch = z.infer<typeof patchSchema>

/** Why a patch does not fit the document: what it expected is not there (any more). */
export interface Conflict {
  patch: Patch
  objectId: string
  reason: string
}

export function isConflict(result: RotoDocument | Conflict): result is Conflict {
  return 'reason' in result
}

/** The patch that takes this one back. */
export function inverted(patch: Patch): Patch {
  return { ...patch, before: patch.after, after: patch.before } as Patch
}
