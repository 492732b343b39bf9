import { find, POSE_STRIDE, type Key, type Keyed, type RotoDocument } from '../objects'
import type { Patch } from '../patches'
import { keyPatch } from './keyPatches'

/** Some keys of some shapes and Parts, as they are chosen in the timeline. */
export interface ChosenKey {
  id: string
  time: number
}

/** The chosen keys by what they belong to, in the order of time; those that are not there are left out. */
export function chosenByObject(document: RotoDocument, chosen: readonly ChosenKey[]): { keyed: Keyed; keys: Key[] }[] {
  const ids = [...new Set(chosen.map(({ id }) => id))]
  return ids.flatMap((id) => {
    const keyed = find(document, 'shape', id) ?? find(document, 'part', id)
    const keys = keyed?.keys.filter((key) => chosen.some((one) => one.id === id && one.time === key.time)) ?? []
    return keyed && keys.length ? [{ keyed, keys }] : []
  })
}

/** Patches that give what is keyed other keys, and nothing where no key is another. */
function keysReplaced(keyed: Keyed, after: ReadonlyMap<number, Key>): Patch[] {
  const before = new Map(keyed.keys.map((key) => [key.time, key]))
  const times = [...new Set([...before.keys(), ...after.keys()])]
  const patches = times.flatMap((time) => {
    const [was, is] = [before.get(time) ?? null, after.get(time) ?? null]
    return was === is ? [] : [keyPatch(keyed, time, was, is)]
  })
  // Made before deleted: a shape has a key at every moment.
  return patches.sort((a, b) => Number(isDeleting(a)) - Number(isDeleting(b)))
}

const isDeleting = (patch: Patch) => patch.kind === 'key' && patch.after === null

/**
 * The chosen keys at other times; a key that stands in their way gives way. Where two chosen ones come together the
 * later one stays.
 *
 * @param to  new time of a key; rounded to whole frames
 */
export function keysMoved(document: RotoDocument, chosen: readonly ChosenKey[], to: (time: number) => number): Patch[] {
  return chosenByObject(document, chosen).flatMap(({ keyed, keys }) => {
    const moving = new Set(keys)
    const after = new Map(keyed.keys.filter((key) => !moving.has(key)).map((key) => [key.time, key]))
    for (const key of keys) {
      const time = Math.round(to(key.time))
      after.set(time, time === key.time ? key : { ...key, time })
    }
    return keysReplaced(keyed, after)
  })
}

/** Times from the first to the last of the chosen keys, the other way round. */
export function keysReversed(document: RotoDocument, chosen: readonly ChosenKey[]): Patch[] {
  const times = chosen.map(({ time }) => time)
  const [first, last] = [Math.min(...times), Math.max(...times)]
  return keysMoved(document, chosen, (time) => first + last - time)
}

/** The chosen keys taken away; of a shape one key stays, the first. */
export function keysDeleted(document: RotoDocument, chosen: readonly ChosenKey[]): Patch[] {
  return chosenByObject(document, chosen).flatMap(({ keyed, keys }) => {
    const keepsOne = keyed.kind === 'shape' && keys.length === keyed.keys.length
    return (keepsOne ? keys.slice(1) : keys).map((key) => keyPatch(keyed, key.time, key, null))
  })
}

/** A key as it is carried about: of which object, how many frames after the first of them. */
export interface CarriedKey {
  id: string
  after: number
  key: Key
}

/** The chosen keys to be put down elsewhere, counted from the earliest. */
export function keysCarried(document: RotoDocument, chosen: readonly ChosenKey[]): CarriedKey[] {
  const first = Math.min(...chosen.map(({ time }) => time))
  return chosenByObject(document, chosen).flatMap(({ keyed, keys }) =>
    keys.map((key) => ({ id: keyed.id, after: key.time - first, key })),
  )
}

/**
 * Carried keys put down from `frame` on, in place of keys that stand there.
 *
 * @param onto  what gets them in place of what they were taken from: of as many numbers; others are passed over
 * @param times  how often they follow one another, each time behind the last by the length of the whole and one frame
 */
export function keysPutDown(
  document: RotoDocument,
  carried: readonly CarriedKey[],
  frame: number,
  onto: (id: string) => string = (id) => id,
  times = 1,
): Patch[] {
  const length = Math.max(0, ...carried.map(({ after }) => after)) + 1
  const ids = [...new Set(carried.map(({ id }) => id))]
  return ids.flatMap((id) => {
    const keyed = find(document, 'shape', onto(id)) ?? find(document, 'part', onto(id))
    if (!keyed) return []
    const after = new Map(keyed.keys.map((key) => [key.time, key]))
    for (const one of carried) {
      if (one.id !== id || !fits(keyed, one.key)) continue
      for (let round = 0; round < times; round++) {
        const time = frame + one.after + round * length
        // Points of another shape have other names: there the key holds all.
        const { touched, ...key } = one.key
        after.set(time, { ...key, time, ...(touched && keyed.id === id ? { touched } : {}) })
      }
    }
    return keysReplaced(keyed, after)
  })
}

const fits = (keyed: Keyed, key: Key) =>
  key.values.length === (keyed.kind === 'part' ? POSE_STRIDE : keyed.keys[0]!.values.length)
