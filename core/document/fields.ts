import { z } from 'zod'

/** Kinds of values that the objects of a document are made of. */
export const finite = z.number()

/** One loop: a document has millions of numbers, and all are looked at each time it is opened. */
function areFinite(values: Float64Array): boolean {
  for (let i = 0; i < values.length; i++) if (!Number.isFinite(values[i])) return false
  return true
}

export const id = z.string().regex(/^[A-Za-z0-9_-]{1,40}$/, 'an id has 1 to 40 letters, digits, - or _')
/** Of keys: the id of what they belong to, or of its pivot or its depth. */
export const keyListId = z.string().regex(/^[A-Za-z0-9_-]{1,40}(\/pivot|\/depth)?$/)
export const name = z.string().trim().min(1).max(120)
/** Width of a pixel over its height. */
export const pixelAspect = z.number().min(0.1).max(10)
export const point = z.tuple([finite, finite])
export const numbers = z
  .union([z.instanceof(Float64Array), z.array(finite)])
  .transform((value): Float64Array => (value instanceof Float64Array ? value : Float64Array.from(value)))
  .refine(areFinite, 'numbers must be finite')
export const matrix = numbers.refine((m) => m.length === 9, 'a 3x3 matrix has 9 numbers')
/** Closed polygon x0, y0, x1, y1 ... */
export const polygon = numbers.refine((r) => r.length >= 6 && r.length % 2 === 0, 'a polygon has 3 points or more')
export const wholeFrame = z.number().int().min(-1e7).max(1e7)
export const frameRange = z.tuple([wholeFrame, wholeFrame]).refine(([a, b]) => a <= b, 'first frame after last frame')
