import { DocumentError } from '../errors'
import { objectSchema, SCHEMA_VERSION, type DocumentObject } from './objects'
import { liftedObject } from './upcasters'

/**
 * Compact binary form of one object: "TLOB", schema version, length of the JSON part, JSON padded to 8 bytes, then all numbers
 * as little-endian Float64. In the JSON a typed array stands as {"$f64": [offset, length]}. Equal objects give equal
 * bytes, so a hash of them names the object.
 */
const MAGIC = 0x424f4c54
/** Up to schema version 2 all objects were marked with a 1. */
const OLDEST = 1
const HEADER_BYTES = 12

export function encodeObject(object: DocumentObject): Uint8Array<ArrayBuffer> {
  const arrays: Float64Array[] = []
  let offset = 0
  const json = JSON.stringify(sorted(object), (_key, value: unknown) => {
    if (!(value instanceof Float64Array)) return value
    const reference = { $f64: [offset, value.length] }
    arrays.push(value)
    offset += value.length
    return reference
  })
  const text = new TextEncoder().encode(json)
  const numbersAt = HEADER_BYTES + text.length + padding(text.length)
  const bytes = new Uint8Array(numbersAt + offset * 8)
  const view = new DataView(bytes.buffer)
  view.setUint32(0, MAGIC, true)
  view.setUint32(4, SCHEMA_VERSION, true)
  view.setUint32(8, text.length, true)
  bytes.set(text, HEADER_BYTES)
  let at = numbersAt
  for (const array of arrays) {
    bytes.set(new Uint8Array(array.buffer, array.byteOffset, array.byteLength), at)
    at += array.byteLength
  }
  return bytes
}

/** @throws DocumentError `invalid-object` when the bytes are not an object of this form */
export function decodeObject(bytes: Uint8Array): DocumentObject {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const version = bytes.length < HEADER_BYTES || view.getUint32(0, true) !== MAGIC ? 0 : view.getUint32(4, true)
  if (version < OLDEST || version > SCHEMA_VERSION) {
    throw new DocumentError('invalid-object', `These bytes are not a stored document object of version ${SCHEMA_VERSION} or before`) // prettier-ignore
  }
  const textLength = view.getUint32(8, true)
  const numbersAt = HEADER_BYTES + textLength + padding(textLength)
  if (numbersAt > bytes.length) throw new DocumentError('invalid-object', 'The stored object is cut short')
  // A Node Buffer's own slice would be a view of a pool; the typed array's copies.
  const numbers = new Float64Array(Uint8Array.prototype.slice.call(bytes, numbersAt).buffer)
  const json = new TextDecoder().decode(bytes.subarray(HEADER_BYTES, HEADER_BYTES + textLength))
  const parsed = objectSchema.safeParse(liftedObject(withNumbers(JSON.parse(json), numbers), version))
  if (!parsed.success) {
    throw new DocumentError('invalid-object', `The stored object is not valid: ${parsed.error.issues[0]?.message}`)
  }
  return parsed.data
}

/** The same data with its typed arrays, all of them windows on the object's own numbers. */
function withNumbers(value: unknown, numbers: Float64Array): unknown {
  if (typeof value !== 'object' || value === null) return value
  if (Array.isArray(value)) {
    for (let i = 0; i < value.length; i++) value[i] = withNumbers(value[i], numbers)
    return value
  }
  const fields = value as Record<string, unknown>
  const reference = fields.$f64 as [number, number] | undefined
  if (reference) return numbers.subarray(reference[0], reference[0] + reference[1])
  for (const key of Object.keys(fields)) fields[key] = withNumbers(fields[key], numbers)
  return fields
}

const padding = (length: number) => (8 - ((HEADER_BYTES + length) % 8)) % 8

/** The same data with object keys in alphabetical order, so that equal objects have equal bytes. */
function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted)
  if (typeof value !== 'object' || value === null || value instanceof Float64Array) return value
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([key, inner]) => [key, sorted(inner)]),
  )
}

/** Several objects in one stream: each preceded by its length in 8 bytes, so that numbers stay aligned. */
export function encodeObjects(encoded: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const total = encoded.reduce((sum, bytes) => sum + 8 + bytes.length, 0)
  const out = new Uint8Array(total)
  const view = new DataView(out.buffer)
  let at = 0
  for (const bytes of encoded) {
    view.setUint32(at, bytes.length, true)
    out.set(bytes, at + 8)
    at += 8 + bytes.length
  }
  return out
}

/** @throws DocumentError `invalid-object` as {@link decodeObject} */
export function decodeObjects(stream: Uint8Array): DocumentObject[] {
  const view = new DataView(stream.buffer, stream.byteOffset, stream.byteLength)
  const objects: DocumentObject[] = []
  for (let at = 0; at < stream.length;) {
    const length = view.getUint32(at, true)
    objects.push(decodeObject(stream.subarray(at + 8, at + 8 + length)))
    at += 8 + length
  }
  return objects
}
