import { z } from 'zod'
import { BOUNDS } from './bounds'
import { channelName, constantNumbers, keySchema, keyTime } from './channel'
import { id, numberList } from './fields'
import { objectSchema, type RotoDocument } from './objects'
import { blockIndex, blockValues } from './track'

/**
 * A patch says what stood at one place and what stands there now: a result, not a procedure. The union is closed:
 * - object: an object made, deleted, or changed in structure (points inserted, for instance)
 * - field:  one property of an object
 * - constant: the numbers of a channel where it has no keys; null: its initial ones
 * - key:    one key of a channel made, deleted or replaced
 * - values: some numbers of some keys of one channel, the same of each (of outlines: index = point * stride + number)
 * - block:  one block of a track's samples
 * A patch of keys that names no channel is of the object's first: the outline of a shape, the pose of a Part.
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
const constantPatch = z.object({
  kind: z.literal('constant'),
  id,
  channel: channelName,
  before: constantNumbers.nullable(),
  after: constantNumbers.nullable(),
})
const keyPatch = z.object({
  kind: z.literal('key'),
  id,
  channel: channelName.optional(),
  time: keyTime,
  before: keySchema.nullable(),
  after: keySchema.nullable(),
})
const valuesPatch = z
  .object({
    kind: z.literal('values'),
    id,
    channel: channelName.optional(),
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

const blockList = blockValues.transform((values) => Array.from(values)).nullable()
const blockPatch = z.object({
  kind: z.literal('block'),
  id,
  index: blockIndex,
  before: blockList,
  after: blockList,
})

export const patchSchema = z.discriminatedUnion('kind', [
  objectPatch,
  fieldPatch,
  constantPatch,
  keyPatch,
  valuesPatch,
  blockPatch,
])
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
