import { z } from 'zod'
import { DocumentError } from '../errors'
import { sameValue } from './sameValue'
import {
  keySchema,
  objectSchema,
  POSE_STRIDE,
  type DocumentObject,
  type Key,
  type Keyed,
  type RotoDocument,
} from './objects'
import { liftedBlock, type Track } from './track'

/**
 * A patch says what stood at one place and what stands there now: a result, not a procedure. The union is closed:
 * - object: an object made, deleted, or changed in structure (points inserted, for instance)
 * - field:  one property of an object
 * - key:    one key of a shape, or of a Part's pose, made, deleted or replaced
 * - values: some numbers of one key (index = point * stride + channel)
 * - block:  one block of a track's samples
 */
const objectPatch = z.object({
  kind: z.literal('object'),
  id: z.string(),
  before: objectSchema.nullable(),
  after: objectSchema.nullable(),
})
const fieldPatch = z.object({
  kind: z.literal('field'),
  id: z.string(),
  field: z.string(),
  before: z.json(),
  after: z.json(),
})
const keyPatch = z.object({
  kind: z.literal('key'),
  id: z.string(),
  time: z.number(),
  before: keySchema.nullable(),
  after: keySchema.nullable(),
})
const valuesPatch = z
  .object({
    kind: z.literal('values'),
    id: z.string(),
    time: z.number(),
    indices: z.array(z.number().int().min(0)),
    before: z.array(z.number()),
    after: z.array(z.number()),
  })
  .refine((p) => p.indices.length === p.before.length && p.indices.length === p.after.length, 'lengths differ')
const blockValues = z
  .array(z.number())
  .transform((values) => Array.from(liftedBlock(values)))
  .nullable()
const blockPatch = z.object({
  kind: z.literal('block'),
  id: z.string(),
  index: z.number().int(),
  before: blockValues,
  after: blockValues,
})

export const patchSchema = z.union([objectPatch, fieldPatch, keyPatch, valuesPatch, blockPatch])
export type Patch = z.infer<typeof patchSchema>

/** Why a patch does not fit the document: what it expected is not there (any more). */
export interface Conflict {
  patch: Patch
  objectId: string
  reason: string
}

/**
 * The document with one patch applied, or the conflict when `before` is not what stands there.
 *
 * @throws DocumentError `invalid-patch` when the patch can fit no document
 */
export function applyPatch(document: RotoDocument, patch: Patch): RotoDocument | Conflict {
  const object = document.objects.get(patch.id)
  if (patch.kind === 'object') {
    if (!sameValue(object ?? null, patch.before)) {
      return conflict(patch, object ? `${object.kind} was changed meanwhile` : 'the object is gone')
    }
    return withObject(document, patch.id, patch.after)
  }
  if (!object) return conflict(patch, 'the object is gone')
  switch (patch.kind) {
    case 'field':
      return applyField(document, object, patch)
    case 'key':
      return isKeyed(object) ? applyKey(document, object, patch) : conflict(patch, NO_KEYS)
    case 'values':
      return isKeyed(object) ? applyValues(document, object, patch) : conflict(patch, NO_KEYS)
    case 'block':
      return object.kind === 'track' ? applyBlock(document, object, patch) : conflict(patch, 'only tracks have blocks')
  }
}

/** The document with patches made for it; one that does not fit is passed over. */
export function withPatchesApplied(document: RotoDocument, patches: readonly Patch[]): RotoDocument {
  return patches.reduce((before, patch) => {
    const after = applyPatch(before, patch)
    return isConflict(after) ? before : after
  }, document)
}

export function isConflict(result: RotoDocument | Conflict): result is Conflict {
  return 'reason' in result
}

/** The patch that takes this one back. */
export function inverted(patch: Patch): Patch {
  return { ...patch, before: patch.after, after: patch.before } as Patch
}

function conflict(patch: Patch, reason: string): Conflict {
  return { patch, objectId: patch.id, reason }
}

function withObject(document: RotoDocument, id: string, object: DocumentObject | null): RotoDocument {
  const objects = new Map(document.objects)
  if (object === null) objects.delete(id)
  else {
    if (object.id !== id)
      throw new DocumentError('invalid-patch', `The patch for ${id} carries the object ${object.id}`)
    objects.set(id, object)
  }
  return { objects }
}

const FIXED_FIELDS = new Set(['kind', 'id', 'keys', 'pointIds', 'blocks'])

function applyField(document: RotoDocument, object: DocumentObject, patch: Extract<Patch, { kind: 'field' }>) {
  if (FIXED_FIELDS.has(patch.field) || !(patch.field in object)) {
    throw new DocumentError('invalid-patch', `A ${object.kind} has no changeable property "${patch.field}"`)
  }
  if (!sameValue((object as Record<string, unknown>)[patch.field], patch.before)) {
    return conflict(patch, `${patch.field} was changed meanwhile`)
  }
  // Only the schema knows what the property may hold (and turns plain lists into typed arrays).
  const changed = objectSchema.safeParse({ ...object, [patch.field]: patch.after })
  if (!changed.success) {
    throw new DocumentError('invalid-patch', `${patch.field}: ${changed.error.issues[0]?.message ?? 'not valid'}`)
  }
  return withObject(document, object.id, changed.data)
}

const NO_KEYS = 'only shapes and Parts have keys'

const isKeyed = (object: DocumentObject): object is Keyed => object.kind === 'shape' || object.kind === 'part'

function applyKey(document: RotoDocument, keyed: Keyed, patch: Extract<Patch, { kind: 'key' }>) {
  const at = keyed.keys.findIndex((key) => key.time === patch.time)
  if (!sameValue(at < 0 ? null : keyed.keys[at], patch.before)) {
    return conflict(patch, `the key at ${patch.time} was changed meanwhile`)
  }
  const keys = keyed.keys.filter((_, i) => i !== at)
  if (patch.after) {
    const expected = keyed.kind === 'part' ? POSE_STRIDE : keyed.keys[0]!.values.length
    if (patch.after.time !== patch.time || patch.after.values.length !== expected) {
      return conflict(patch, 'the points of the shape were changed meanwhile')
    }
    keys.push(patch.after)
    keys.sort((a, b) => a.time - b.time)
  }
  // Two artists can each take away a key while the other one still stands: the second comes too late.
  if (keys.length === 0 && keyed.kind === 'shape')
    return conflict(patch, 'it is the only key left, and a shape keeps at least one')
  return withObject(document, keyed.id, { ...keyed, keys })
}

function applyValues(document: RotoDocument, keyed: Keyed, patch: Extract<Patch, { kind: 'values' }>) {
  const at = keyed.keys.findIndex((key) => key.time === patch.time)
  const key: Key | undefined = keyed.keys[at]
  if (!key) return conflict(patch, `the key at ${patch.time} is gone`)
  const values = key.values.slice()
  for (let i = 0; i < patch.indices.length; i++) {
    const index = patch.indices[i]!
    if (index >= values.length || values[index] !== patch.before[i]) {
      return conflict(patch, `points of the key at ${patch.time} were changed meanwhile`)
    }
    values[index] = patch.after[i]!
  }
  const keys = keyed.keys.slice()
  keys[at] = { ...key, values }
  return withObject(document, keyed.id, { ...keyed, keys })
}

function applyBlock(document: RotoDocument, track: Track, patch: Extract<Patch, { kind: 'block' }>) {
  const at = track.blocks.findIndex((block) => block.index === patch.index)
  if (!sameValue(at < 0 ? null : track.blocks[at]!.values, patch.before)) {
    return conflict(patch, 'the track was changed meanwhile')
  }
  const blocks = track.blocks.filter((_, i) => i !== at)
  if (patch.after) {
    blocks.push({ index: patch.index, values: Float64Array.from(patch.after) })
    blocks.sort((a, b) => a.index - b.index)
  }
  return withObject(document, track.id, { ...track, blocks })
}
