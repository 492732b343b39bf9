import { isFields, numbersIn, type Fields } from './json'
import type { Upcaster } from './upcaster'

/** Numbers of a point until version 3, and now that its focus blur follows them. */
const [FORMER, PRESENT] = [10, 11]
/** Numbers of the tangents of one value. */
const TANGENTS = 4

/** Version 4: a point of an outline has a focus blur of its own, the last of its numbers. */
export const focusAtPoints: Upcaster = {
  to: 4,
  object(object) {
    if (object.kind !== 'shape' || !isFields(object.channels) || !isFields(object.channels.outline)) return object
    const { outline, ...others } = object.channels
    const keys = Array.isArray(outline.keys) ? outline.keys.map(widened) : outline.keys
    return { ...object, channels: { outline: { ...outline, keys }, ...others } }
  },
  patch(patch) {
    // Without a channel it may as well be of a pose, whose five numbers are fewer than those of a point.
    if (patch.channel !== undefined && patch.channel !== 'outline') return [patch]
    if (patch.kind === 'key') return [{ ...patch, before: widened(patch.before), after: widened(patch.after) }]
    if (patch.kind !== 'values') return [patch]
    return [{ ...patch, indices: numbersIn(patch.indices).map((i) => i + Math.floor(i / FORMER)) }]
  },
}

/** A key of an outline with a number more for each point; any other as it is. */
export function widened(key: unknown): unknown {
  if (!isFields(key)) return key
  const values = numbersIn(key.values)
  if (values.length === 0 || values.length % FORMER !== 0) return key
  return {
    ...key,
    values: Float64Array.from(spread(values, FORMER, PRESENT)),
    ...(key.tangents !== undefined && {
      tangents: Float64Array.from(spread(numbersIn(key.tangents), FORMER * TANGENTS, PRESENT * TANGENTS)),
    }),
  } satisfies Fields
}

/** Groups of `former` numbers as groups of `present`, what is new being 0. */
function spread(values: readonly number[], former: number, present: number): number[] {
  const out = new Array<number>((values.length / former) * present).fill(0)
  values.forEach((value, i) => (out[Math.floor(i / former) * present + (i % former)] = value))
  return out
}
