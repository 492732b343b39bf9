import { batchSchema, type EditBatch } from './batches'
import { DocumentError } from '../errors'

/** JSON text with typed arrays as plain lists; numbers keep all their digits. */
export function toJson(value: unknown): string {
  const parts: string[] = []
  write(value, parts)
  return parts.join('')
}

/** By hand, since `JSON.stringify` with a replacer calls it for each of a million numbers. */
function write(value: unknown, parts: string[]) {
  if (value instanceof Float64Array) parts.push('[', value.join(','), ']')
  else if (Array.isArray(value)) {
    // Lists of numbers are most of what is sent.
    if (typeof value[0] === 'number') return void parts.push(JSON.stringify(value))
    parts.push('[')
    value.forEach((one, i) => {
      if (i > 0) parts.push(',')
      write(one ?? null, parts)
    })
    parts.push(']')
  } else if (typeof value === 'object' && value !== null) {
    let separator = '{'
    for (const [key, inner] of Object.entries(value)) {
      if (inner === undefined) continue
      parts.push(separator, JSON.stringify(key), ':')
      write(inner, parts)
      separator = ','
    }
    parts.push(separator === '{' ? '{}' : '}')
  } else parts.push(JSON.stringify(value))
}

/** @throws DocumentError `invalid-batch` naming the first thing that is wrong */
export function batchFromJson(value: unknown): EditBatch {
  const parsed = batchSchema.safeParse(value)
  if (parsed.success) return parsed.data
  const issue = parsed.error.issues[0]
  throw new DocumentError('invalid-batch', `The edit is not valid at ${issue?.path.join('.')}: ${issue?.message}`)
}
