/** Stored data of before, of which nothing is known until it is looked at. */
export type Fields = Record<string, unknown>

export const isFields = (value: unknown): value is Fields =>
  typeof value === 'object' && value !== null && !Array.isArray(value) && !ArrayBuffer.isView(value)

/** The items of a list that have fields; what is none has none. */
export const fieldsIn = (value: unknown): Fields[] => (Array.isArray(value) ? value.filter(isFields) : [])

/** A list of numbers, typed or plain, or an empty one. */
export const numbersIn = (value: unknown): number[] =>
  Array.isArray(value) || value instanceof Float64Array ? Array.from(value as ArrayLike<number>) : []
