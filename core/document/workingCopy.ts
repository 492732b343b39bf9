import { DocumentError } from '../errors'
import { BOUNDS } from './bounds'
import { areWithin } from './fields'
import { keySchema, NO_KEYS, type Channel, type Key } from './channel'
import { channelDefinition, firstChannel, misfitOfKey, type ChannelDefinition } from './channelRegistry'
import { objectSchema, type Channelled, type DocumentObject, type RotoDocument } from './objects'
import type { Conflict, Patch } from './patches'
import { sameValue } from './sameValue'
import { blockSchema, type Track } from './track'

type PatchOf<Kind extends Patch['kind']> = Extract<Patch, { kind: Kind }>

/** An object that patches have touched: a copy of its own, with what of it is its own already. */
interface Touched {
  object: DocumentObject
  /** Names of its channels whose lists of keys are copies. */
  ownLists: Set<string> | null
  /** Something was put in that only the schema can judge. */
  isUnchecked: boolean
  /** All of it was put in. */
  isNew: boolean
}

/**
 * A document while patches are applied to it: every object, key and list is copied once, when it is first touched, and
 * what is left behind is looked at once, in the end. The document itself stays as it is.
 */
export class WorkingCopy {
  private readonly objects: Map<string, DocumentObject>
  private readonly touched = new Map<string, Touched>()
  private isChanged = false

  constructor(private readonly document: RotoDocument) {
    this.objects = new Map(document.objects)
  }

  /**
   * Applies one patch, or says why it does not fit; then nothing has changed.
   *
   * @throws DocumentError `invalid-patch` when the patch can fit no document
   */
  apply(patch: Patch): Conflict | null {
    const conflict = this.tried(patch)
    if (!conflict) this.isChanged = true
    return conflict
  }

  private tried(patch: Patch): Conflict | null {
    const object = this.objects.get(patch.id)
    if (patch.kind === 'object') return this.applyObject(patch, object ?? null)
    if (!object) return conflict(patch, 'the object is gone')
    switch (patch.kind) {
      case 'field':
        return this.applyField(patch, object)
      case 'constant':
        return this.applyConstant(patch, channelled(object, patch.channel))
      case 'key':
        return this.applyKey(patch, channelled(object, patch.channel))
      case 'values':
        return this.applyValues(patch, channelled(object, patch.channel))
      case 'block':
        return object.kind === 'track' ? this.applyBlock(patch, object) : conflict(patch, 'only tracks have blocks')
    }
  }

  /**
   * The document as the patches leave it.
   *
   * @throws DocumentError `invalid-patch` when an object that they touched is not whole
   */
  finished(): RotoDocument {
    if (!this.isChanged) return this.document
    for (const [id, touched] of this.touched) if (touched.isUnchecked) this.objects.set(id, wholeObject(touched))
    return { objects: this.objects }
  }

  /** The copy of an object that may be written to. */
  private own(object: DocumentObject): Touched {
    let own = this.touched.get(object.id)
    if (!own) {
      own = { object: { ...object }, ownLists: null, isUnchecked: false, isNew: false }
      this.touched.set(object.id, own)
      this.objects.set(object.id, own.object)
    }
    return own
  }

  /** A channel that may be written to, its list of keys too. */
  private ownChannel({ object, name }: Addressed): Channel {
    const own = this.own(object)
    const copy = own.object as Channelled
    if (!own.ownLists) {
      own.ownLists = new Set()
      copy.channels = { ...copy.channels }
    }
    const there = copy.channels[name]
    if (there && own.ownLists.has(name)) return there
    own.ownLists.add(name)
    return (copy.channels[name] = { ...there, keys: there?.keys.slice() ?? [] })
  }

  /** A channel that says nothing any more is not stored. */
  private dropIfEmpty({ object, name }: Addressed, channel: Channel) {
    if (channel.constant || channel.keys.length) return
    delete (this.own(object).object as Channelled).channels[name]
  }

  private applyObject(patch: PatchOf<'object'>, object: DocumentObject | null): Conflict | null {
    const { id, before, after } = patch
    if ((before && before.id !== id) || (after && after.id !== id)) throw refused(`The patch for ${id} carries another object`) // prettier-ignore
    if (before && after && before.kind !== after.kind) throw refused(`A ${before.kind} cannot become a ${after.kind}`)
    if (before?.kind === 'shot') throw refused('The shot itself cannot be deleted or replaced')
    if (!sameValue(object, before)) {
      return conflict(patch, object ? `${object.kind} was changed meanwhile` : 'the object is gone')
    }
    this.touched.delete(id)
    if (after === null) this.objects.delete(id)
    else {
      this.objects.set(id, after)
      const own = this.own(after)
      own.isUnchecked = true
      own.isNew = true
    }
    return null
  }

  private applyField(patch: PatchOf<'field'>, object: DocumentObject): Conflict | null {
    const { field } = patch
    if (FIXED_FIELDS.has(field) || !Object.hasOwn(object, field)) {
      throw refused(`A ${object.kind} has no changeable property "${field}"`)
    }
    if (!sameValue((object as Record<string, unknown>)[field], patch.before)) {
      return conflict(patch, `${field} was changed meanwhile`)
    }
    const own = this.own(object)
    // Only the schema knows what the property may hold (and turns plain lists into typed arrays).
    ;(own.object as Record<string, unknown>)[field] = patch.after
    own.isUnchecked = true
    return null
  }

  private applyConstant(patch: PatchOf<'constant'>, at: Addressed): Conflict | null {
    const there = at.object.channels[at.name]?.constant ?? null
    if (!sameValue(there, patch.before)) return conflict(patch, `${at.definition.label} was changed meanwhile`)
    const channel = this.ownChannel(at)
    if (patch.after) channel.constant = Float64Array.from(patch.after)
    else delete channel.constant
    this.dropIfEmpty(at, channel)
    this.own(at.object).isUnchecked = true
    return null
  }

  private applyKey(patch: PatchOf<'key'>, at: Addressed): Conflict | null {
    const { object, definition } = at
    const keys = object.channels[at.name]?.keys ?? NO_KEYS
    const place = placeOf(keys, patch.time)
    const there = keys[place]?.time === patch.time ? keys[place]! : null
    if (!sameValue(there, patch.before)) return conflict(patch, `the key at ${patch.time} was changed meanwhile`)
    if (patch.after) {
      const misfit = misfitOfKey(definition, pointSetOf(object), patch.after)
      if (patch.after.time !== patch.time || misfit) return conflict(patch, misfit ?? 'the key is of another time')
      if (!keySchema.safeParse(patch.after).success) throw refused('The key is not valid')
      if (!there && keys.length >= BOUNDS.keys) throw refused(`A channel has ${BOUNDS.keys} keys at most`)
    } else if (object.kind === 'shape' && definition.lastKeyStays && there && keys.length === 1) {
      // Two artists can each take away a key while the other one still stands: the second comes too late.
      return conflict(patch, 'it is the only key left, and a shape keeps at least one')
    }
    const channel = this.ownChannel(at)
    channel.keys.splice(place, there ? 1 : 0, ...(patch.after ? [patch.after] : []))
    this.dropIfEmpty(at, channel)
    // What refers to the channel may need a key of it.
    if (channel.keys.length === 0) this.own(object).isUnchecked = true
    return null
  }

  private applyValues(patch: PatchOf<'values'>, at: Addressed): Conflict | null {
    const { times, indices, before, after } = patch
    if (!areWithin(after, BOUNDS.number)) throw refused('A number of a key is out of all bounds')
    const there = at.object.channels[at.name]?.keys ?? NO_KEYS
    const count = indices.length
    const places = times.map((time) => placeOf(there, time))
    const room = times.length === 1 ? null : new KeyRoom(there[0]?.values.length ?? 0, times.length)
    // Each key is read once, while it is in the processor's cache; nothing is put in place before all of them fit.
    const written: Key[] = []
    for (let k = 0; k < times.length; k++) {
      const key = there[places[k]!]
      if (key?.time !== times[k]) return conflict(patch, `the key at ${times[k]} is gone`)
      const values = room?.copyOf(key.values) ?? key.values.slice()
      for (let i = 0, n = k * count; i < count; i++, n++) {
        const index = indices[i]!
        // Beyond the end stands undefined, which no number equals.
        if (values[index] !== before[n]) return conflict(patch, `numbers of the key at ${times[k]} were changed meanwhile`) // prettier-ignore
        values[index] = after[n]!
      }
      written.push({ ...key, values })
    }
    const { keys } = this.ownChannel(at)
    for (let k = 0; k < times.length; k++) keys[places[k]!] = written[k]!
    // Bounds of single numbers are looked at in the end; those of outlines are as wide as any number's.
    if (!at.definition.isPerPoint) this.own(at.object).isUnchecked = true
    return null
  }

  private applyBlock(patch: PatchOf<'block'>, track: Track): Conflict | null {
    const at = track.blocks.findIndex((block) => block.index === patch.index)
    if (!sameValue(at < 0 ? null : track.blocks[at]!.values, patch.before)) {
      return conflict(patch, 'the track was changed meanwhile')
    }
    const blocks = track.blocks.filter((_, i) => i !== at)
    if (patch.after) {
      // By itself: nothing else of a track hangs on its blocks, and a run shows those of a hundred tracks again and again.
      const block = blockSchema.safeParse({ index: patch.index, values: patch.after })
      if (!block.success) throw refused(firstIssue('track', block.error.issues))
      if (blocks.length >= BOUNDS.keys) throw refused(`A track has ${BOUNDS.keys} blocks at most`)
      blocks.push(block.data)
    }
    blocks.sort((a, b) => a.index - b.index)
    ;(this.own(track).object as Track).blocks = blocks
    return null
  }
}

/** Memory for the numbers of several keys: one piece for all of them costs less than one each. */
class KeyRoom {
  private readonly room: Float64Array
  private taken = 0

  constructor(stride: number, keyCount: number) {
    this.room = new Float64Array(stride * keyCount)
  }

  /** null: keys of one channel that have other numbers of points each. */
  copyOf(values: Float64Array): Float64Array | null {
    if (this.taken + values.length > this.room.length) return null
    const copy = this.room.subarray(this.taken, this.taken + values.length)
    this.taken += values.length
    copy.set(values)
    return copy
  }
}

/**
 * The object as its schema has it. What was there before stays the same objects: keys and blocks that nobody changed are
 * known by them.
 *
 * @throws DocumentError `invalid-patch` naming the first thing that is wrong
 */
function wholeObject({ object, isNew }: Touched): DocumentObject {
  const parsed = objectSchema.safeParse(object)
  if (parsed.success) return isNew ? parsed.data : withOwnLists(parsed.data, object)
  throw refused(firstIssue(object.kind, parsed.error.issues))
}

function withOwnLists(parsed: DocumentObject, object: DocumentObject): DocumentObject {
  const own = { ...parsed }
  if ('channels' in own && 'channels' in object) own.channels = object.channels
  if (own.kind === 'track' && object.kind === 'track') own.blocks = object.blocks
  return own
}

const refused = (why: string) => new DocumentError('invalid-patch', why)

function conflict(patch: Patch, reason: string): Conflict {
  return { patch, objectId: patch.id, reason }
}

const FIXED_FIELDS = new Set(['kind', 'id', 'channels', 'pointIds', 'blocks'])

/** A channel of an object that patches are about. */
interface Addressed {
  object: Channelled
  name: string
  definition: ChannelDefinition
}

/** @throws DocumentError `invalid-patch` when objects of that kind have no such channel */
function channelled(object: DocumentObject, named: string | undefined): Addressed {
  const name = named ?? ('channels' in object ? firstChannel(object.kind) : '')
  const definition = channelDefinition(object.kind, name)
  if (!definition || !('channels' in object)) throw refused(`A ${object.kind} has no channel ${name}`)
  return { object, name, definition }
}

/** Ids of a shape's points, kept while the shape has them: a gesture may bring thousands of its keys. */
const pointSets = new WeakMap<readonly string[], ReadonlySet<string>>()

function pointSetOf(object: Channelled): ReadonlySet<string> | null {
  if (object.kind !== 'shape') return null
  let points = pointSets.get(object.pointIds)
  if (!points) pointSets.set(object.pointIds, (points = new Set(object.pointIds)))
  return points
}

/** Index of the first key that is not before that time: where a key of that time stands or belongs. */
function placeOf(keys: readonly Key[], time: number): number {
  let [low, high] = [0, keys.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (keys[middle]!.time < time) low = middle + 1
    else high = middle
  }
  return low
}

/**
 * What is wrong with the first of some objects that is not whole, in words, or null: parsed from its first to its last
 * number. A last look before a commit, which trusts nothing of how the objects came about.
 */
export function brokenObject(document: RotoDocument, ids: Iterable<string>): string | null {
  for (const id of ids) {
    const object = document.objects.get(id)
    const parsed = object && objectSchema.safeParse(object)
    if (parsed && !parsed.success) return firstIssue(object.kind, parsed.error.issues)
  }
  return null
}

function firstIssue(kind: string, issues: readonly { path: PropertyKey[]; message: string }[]): string {
  const [issue] = issues
  return `${issue?.path.join('.') || kind}: ${issue?.message ?? 'not valid'}`
}
