import { z } from 'zod'
import { BOUNDS } from './bounds'

/** Kinds of values that the objects of a document are made of. */
export const finite = z.number().min(-BOUNDS.number).max(BOUNDS.number)

/** One loop: a document has millions of numbers, and all are looked at each time it is opened. */
export function areWithin(values: ArrayLike<number>, bound: number): boolean {
  // A comparison with NaN is false.
  for (let i = 0; i < values.length; i++) if (!(Math.abs(values[i]!) <= bound)) return false
  return true
}

const areNumbers = (value: unknown): value is number[] | Float64Array =>
  value instanceof Float64Array || (Array.isArray(value) && value.every((one) => typeof one === 'number'))

/** Many numbers, looked at in one loop: as a typed array or, as JSON has them, a plain list. */
export const numberList = (bound: number = BOUNDS.number) =>
  z.custom<number[] | Float64Array>(
    (value) => areNumbers(value) && areWithin(value, bound),
    `numbers must lie between -${bound} and ${bound}`,
  )

const boundedNumbers = (bound: number) =>
  numberList(bound).transform((value): Float64Array =>
    value instanceof Float64Array ? value : Float64Array.from(value),
  )

export const numbers = boundedNumbers(BOUNDS.number)
export const sampleNumbers = boundedNumbers(BOUNDS.sample)

const isOwnName = (text: string) => text in {}

/** Names that every JavaScript object has, such as __proto__, would stand for something else in a plain object. */
export const id = z
  .string()
  .regex(/^[A-Za-z0-9_-]{1,40}$/, 'an id has 1 to 40 letters, digits, - or _')
  .refine((text) => !isOwnName(text), 'this id cannot be used')

/** Text for people, in one line. */
export const words = (most: number) =>
  z
    .string()
    .trim()
    .min(1)
    .max(most)
    // eslint-disable-next-line no-control-regex
    .refine((text) => !/[\u0000-\u001f\u007f]/.test(text), 'control characters cannot be used')

/** Text for people in several lines. */
export const notes = z
  .string()
  .max(4000)
  .refine((text) => !text.includes('\0'), 'control characters cannot be used')

export const name = words(120)
/** Width of a pixel over its height. */
export const pixelAspect = z.number().min(0.1).max(10)
export const point = z.tuple([finite, finite])
export const matrix = numbers.refine((m) => m.length === 9, 'a 3x3 matrix has 9 numbers')
/** Closed polygon x0, y0, x1, y1 ... */
export const polygon = numbers.refine((r) => r.length >= 6 && r.length % 2 === 0, 'a polygon has 3 points or more')
export const wholeFrame = z.number().int().min(-BOUNDS.frame).max(BOUNDS.frame)
export const frameRange = z
  .tuple([wholeFrame, wholeFrame])
  .refine(([a, b]) => a <= b, 'first frame after last frame')
  .refine(([a, b]) => b - a < BOUNDS.stretch, `a stretch has ${BOUNDS.stretch} frames at most`)
