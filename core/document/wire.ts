import { batchSchema, type EditBatch } from './batches'
import { DocumentError } from '../errors'

/** JSON text with typed arrays as plain lists; numbers keep all their digits. */
export function toJson(value: unknown): string {
  return JSON.stringify(value, (_key, inner: unknown) => (inner instanceof Float64Array ? Array.from(inner) : inner))
}

/** @throws DocumentError `invalid-batch` naming the first thing that is wrong */
export function batchFromJson(value: unknown): EditBatch {
  const parsed = batchSchema.safeParse(value)
  if (parsed.success) return parsed.data
  const issue = parsed.error.issues[0]
  throw new DocumentError('invalid-batch', `The edit is not valid at ${issue?.path.join('.')}: ${issue?.message}`)
}
