import type { Key, RotoDocument, Patch } from '../document'
import { keyListOf, type KeyList } from './keyLists'

/** A key as it is chosen in the timeline: of which list, see {@link KeyList}, and when. */
export interface ChosenKey {
  id: string
  time: number
}

/** The chosen keys by the list they stand in, in the order of time; those that are not there are left out. */
function chosenByList(document: RotoDocument, chosen: readonly ChosenKey[]): { list: KeyList; keys: Key[] }[] {
  const ids = [...new Set(chosen.map(({ id }) => id))]
  return ids.flatMap((id) => {
    const list = keyListOf(document, id)
    const keys = list?.keys.filter((key) => chosen.some((one) => one.id === id && one.time === key.time)) ?? []
    return list && keys.length ? [{ list, keys }] : []
  })
}

/**
 * The chosen keys at other times; a key that stands in their way gives way. Where two chosen ones come together the
 * later one stays.
 *
 * @param to  new time of a key; rounded to whole frames
 */
export function keysMoved(document: RotoDocument, chosen: readonly ChosenKey[], to: (time: number) => number): Patch[] {
  return chosenByList(document, chosen).flatMap(({ list, keys }) => {
    const moving = new Set(keys)
    const after = byTime(list.keys.filter((key) => !moving.has(key)))
    for (const key of keys) {
      const time = Math.round(to(key.time))
      after.set(time, time === key.time ? key : { ...key, time })
    }
    return list.replaced(after)
  })
}

const byTime = (keys: readonly Key[]) => new Map(keys.map((key) => [key.time, key]))

/** Times from the first to the last of the chosen keys, the other way round. */
export function keysReversed(document: RotoDocument, chosen: readonly ChosenKey[]): Patch[] {
  const times = chosen.map(({ time }) => time)
  const [first, last] = [Math.min(...times), Math.max(...times)]
  return keysMoved(document, chosen, (time) => first + last - time)
}

/** The chosen keys taken away; of a shape, and of a pivot, one key stays, the first. */
export function keysDeleted(document: RotoDocument, chosen: readonly ChosenKey[]): Patch[] {
  return chosenByList(document, chosen).flatMap(({ list, keys }) => {
    const gone = new Set(list.keepsOne && keys.length === list.keys.length ? keys.slice(1) : keys)
    return list.replaced(byTime(list.keys.filter((key) => !gone.has(key))))
  })
}

/** A key as it is carried about: of which list, how many frames after the first of them. */
export interface CarriedKey {
  id: string
  after: number
  key: Key
}

/** The chosen keys to be put down elsewhere, counted from the earliest. */
export function keysCarried(document: RotoDocument, chosen: readonly ChosenKey[]): CarriedKey[] {
  const first = Math.min(...chosen.map(({ time }) => time))
  return chosenByList(document, chosen).flatMap(({ list, keys }) =>
    keys.map((key) => ({ id: list.id, after: key.time - first, key })),
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
    const list = keyListOf(document, onto(id))
    if (!list) return []
    const after = byTime(list.keys)
    for (const one of carried) {
      if (one.id !== id || one.key.values.length !== list.stride) continue
      for (let round = 0; round < times; round++) {
        const time = frame + one.after + round * length
        // Points of another shape have other names: there the key holds all.
        const { touched, ...key } = one.key
        after.set(time, { ...key, time, ...(touched && list.id === id ? { touched } : {}) })
      }
    }
    return list.replaced(after)
  })
}
