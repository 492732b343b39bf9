import {
  find,
  POSE_STRIDE,
  type Key,
  type Part,
  type Pin,
  type RotoDocument,
  type Shape,
  type Patch,
} from '../document'
import { keyPatch } from './keyPatches'
import { fieldSet } from './objects'

/** Keys of one thing, that are chosen, moved, copied and deleted like any others. */
export interface KeyList {
  /** Of a shape or of a Part's pose its own id; of other keys of a Part {@link pivotKeysId}, {@link depthKeysId}. */
  id: string
  owner: Part | Shape
  /** In the order of time. */
  keys: readonly Key[]
  /** Numbers of a key. */
  stride: number
  /** Without keys there would be nothing: the last one stays. */
  keepsOne: boolean
  /** Patches that put other keys, by their times, in place of all of them. */
  replaced(after: ReadonlyMap<number, Key>): Patch[]
}

const PIVOT = '/pivot'
const DEPTH = '/depth'
export const pivotKeysId = (partId: string) => partId + PIVOT
export const depthKeysId = (partId: string) => partId + DEPTH

/** Id of the Part or the shape that a list of keys belongs to. */
export const ownerIdOf = (listId: string) => listId.split('/')[0]!

/** The list with that id; null where the object or, of a pivot, its keys are gone. */
export function keyListOf(document: RotoDocument, listId: string): KeyList | null {
  const part = find(document, 'part', ownerIdOf(listId))
  if (!part) {
    const shape = find(document, 'shape', listId)
    return shape ? ownKeys(shape) : null
  }
  if (listId.endsWith(PIVOT)) return pivotKeys(part)
  return listId.endsWith(DEPTH) ? depthKeys(part) : ownKeys(part)
}

/** All that is keyed of a Part itself: its pose, its pivot, its place in depth. */
export function keyListsOfPart(part: Part): KeyList[] {
  return [ownKeys(part), pivotKeys(part), depthKeys(part)].flatMap((list) => (list?.keys.length ? [list] : []))
}

export function ownKeys(owner: Part | Shape): KeyList {
  return {
    id: owner.id,
    owner,
    keys: owner.keys,
    stride: owner.kind === 'part' ? POSE_STRIDE : owner.keys[0]!.values.length,
    keepsOne: owner.kind === 'shape',
    replaced(after) {
      const before = new Map(owner.keys.map((key) => [key.time, key]))
      const times = [...new Set([...before.keys(), ...after.keys()])]
      const patches = times.flatMap((time) => {
        const [was, is] = [before.get(time) ?? null, after.get(time) ?? null]
        return was === is ? [] : [keyPatch(owner, time, was, is)]
      })
      // Made before deleted: a shape has a key at every moment.
      return patches.sort((a, b) => Number(isDeleting(a)) - Number(isDeleting(b)))
    },
  }
}

const isDeleting = (patch: Patch) => patch.kind === 'key' && patch.after === null

/** Places of a pivot that has keys of its own, straight from one to the next. */
function pivotKeys(owner: Part): KeyList | null {
  const { pin } = owner
  if (pin?.to !== 'keys') return null
  const keys = pin.keys.map(({ frame, place }): Key => ({ time: frame, interpolation: 'linear', values: Float64Array.from(place) })) // prettier-ignore
  return {
    id: pivotKeysId(owner.id),
    owner,
    keys,
    stride: 2,
    keepsOne: true,
    replaced(after) {
      const next: Pin = {
        to: 'keys',
        keys: inOrder(after).map(({ time, values }) => ({ frame: time, place: [values[0]!, values[1]!] })),
      }
      return isSame(keys, after) ? [] : [fieldSet(owner, 'pin', next)]
    },
  }
}

/** Places of a Part in depth, each held until the next. */
function depthKeys(owner: Part): KeyList {
  const keys = owner.depthKeys.map(({ frame, depth }): Key => ({ time: frame, interpolation: 'hold', values: Float64Array.of(depth) })) // prettier-ignore
  return {
    id: depthKeysId(owner.id),
    owner,
    keys,
    stride: 1,
    keepsOne: false,
    replaced(after) {
      const next = inOrder(after).map(({ time, values }) => ({ frame: time, depth: values[0]! }))
      return isSame(keys, after) ? [] : [fieldSet(owner, 'depthKeys', next)]
    },
  }
}

const inOrder = (keys: ReadonlyMap<number, Key>) => [...keys.values()].sort((a, b) => a.time - b.time)

const isSame = (before: readonly Key[], after: ReadonlyMap<number, Key>) =>
  before.length === after.size && before.every((key) => after.get(key.time) === key)
