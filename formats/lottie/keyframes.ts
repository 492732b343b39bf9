import { z } from 'zod'

/** Numbers that a file may hold: as far as any picture goes. */
export const number = z.number().min(-1e7).max(1e7)
const handle = z.looseObject({
  x: z.union([number, z.array(number).min(1)]),
  y: z.union([number, z.array(number).min(1)]),
})

/** A value over time: one, or keys in the order of their times. */
export interface Animated<T> {
  /** One without a time where nothing changes. */
  keys: { time: number; value: T; easing: Easing }[]
}

/** How a value goes from its key to the next one: not at all, straight, by u^2 (3 - 2 u), or by a Bezier curve (CSS Easing, cubic-bezier). */
export type Easing = 'hold' | 'linear' | 'ease' | readonly [number, number, number, number]

const MOST_KEYS = 100_000

/** A property of the Lottie specification, of which a value is what `value` reads. */
export function animated<T>(value: z.ZodType<T>) {
  // In a key a value stands in a list of one, but for numbers, which are a list themselves.
  const inKey = z.union([z.tuple([value]).transform(([one]) => one), value])
  const key = z.looseObject({
    t: number,
    s: inKey.optional(),
    e: inKey.optional(),
    h: z.number().optional(),
    i: handle.optional(),
    o: handle.optional(),
  })
  return z
    .looseObject({ k: z.union([z.array(key).min(1).max(MOST_KEYS), value]) })
    .transform(({ k }, context): Animated<T> => {
      if (!isKeys<T>(k)) return { keys: [{ time: 0, value: k as T, easing: 'hold' }] }
      const keys: Animated<T>['keys'] = []
      for (const [n, one] of k.entries()) {
        // Files of an earlier kind say where a way ends and not where the last key is.
        const own = one.s ?? k[n - 1]?.e
        if (own === undefined) {
          context.addIssue({ code: 'custom', message: `key ${n + 1} has no value` })
          return z.NEVER
        }
        if (n > 0 && one.t < k[n - 1]!.t) {
          context.addIssue({ code: 'custom', message: `key ${n + 1} comes before the one in front of it` })
          return z.NEVER
        }
        keys.push({ time: one.t, value: own, easing: easingOf(one) })
      }
      return { keys }
    })
}

interface RawKey<T> {
  t: number
  s?: T
  e?: T
  h?: number
  i?: z.infer<typeof handle>
  o?: z.infer<typeof handle>
}

const isKeys = <T>(k: unknown): k is RawKey<T>[] =>
  Array.isArray(k) && typeof k[0] === 'object' && k[0] !== null && 't' in k[0]

const first = (value: number | number[]) => (typeof value === 'number' ? value : value[0]!)
const isNear = (a: number, b: number) => Math.abs(a - b) < 1e-3

function easingOf({ h, i, o }: RawKey<unknown>): Easing {
  if (h === 1) return 'hold'
  if (!i || !o) return 'linear'
  const [x1, y1, x2, y2] = [first(o.x), first(o.y), first(i.x), first(i.y)]
  if (isNear(x1, y1) && isNear(x2, y2)) return 'linear'
  if (isNear(x1, 1 / 3) && isNear(y1, 0) && isNear(x2, 2 / 3) && isNear(y2, 1)) return 'ease'
  return [Math.min(1, Math.max(0, x1)), y1, Math.min(1, Math.max(0, x2)), y2]
}

/** Share of the way at a share of the time. */
export function eased(easing: Easing, u: number): number {
  if (easing === 'hold') return 0
  if (easing === 'linear') return u
  if (easing === 'ease') return u * u * (3 - 2 * u)
  const [x1, y1, x2, y2] = easing
  const at = (a: number, b: number, s: number) => 3 * a * s * (1 - s) ** 2 + 3 * b * s * s * (1 - s) + s ** 3
  // x rises all the way: halving finds the place.
  let [from, to] = [0, 1]
  for (let n = 0; n < 40; n++) {
    const middle = (from + to) / 2
    if (at(x1, x2, middle) < u) from = middle
    else to = middle
  }
  return at(y1, y2, (from + to) / 2)
}

/** The value at a time. @param mixed  what lies between two values at a share of the way */
export function valueAt<T>({ keys }: Animated<T>, time: number, mixed: (a: T, b: T, share: number) => T): T {
  let n = 0
  while (n + 1 < keys.length && keys[n + 1]!.time <= time) n++
  const [from, to] = [keys[n]!, keys[n + 1]]
  if (!to || time <= from.time || from.easing === 'hold') return from.value
  return mixed(from.value, to.value, eased(from.easing, (time - from.time) / (to.time - from.time)))
}

export const isStill = ({ keys }: Animated<unknown>) => keys.length === 1
