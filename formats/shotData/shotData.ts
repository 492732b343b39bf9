import { z } from 'zod'
import { liftedObject, objectSchema, SCHEMA_VERSION, toJson, type DocumentObject } from '@tender-lasso/core/document'
import { FormatError } from '../errors'

export const SHOT_DATA_FORMAT = 'tender-lasso-shot'

/** Letters of a file that is read: a shot with a thousand shapes has a twentieth of it. */
const MOST_LETTERS = 400e6

const headSchema = z.object({
  format: z.literal(SHOT_DATA_FORMAT, 'this is not shot data of Tender Lasso'),
  version: z.literal(1, 'it is of a later version of the format'),
  /** Version of the objects' own schema. */
  schemaVersion: z.number().int().min(1),
  name: z.string().min(1).max(200),
  /** All of a shot, or some Parts and what they need. */
  whole: z.boolean(),
  objects: z.array(z.unknown()).max(100_000),
})

/** A shot, or some Parts of one, as objects of a document. */
export interface ShotData {
  name: string
  whole: boolean
  objects: DocumentObject[]
}

/** As JSON text; numbers keep all their digits, so that what is read back is the same to the last bit. */
export function shotDataText({ name, whole, objects }: ShotData): string {
  const kinds = ['shot', 'subject', 'track', 'part', 'shape', 'seam']
  const rank = ({ kind }: DocumentObject) => (kinds.includes(kind) ? kinds.indexOf(kind) : kinds.length)
  // Of a kind in the order in which they are there: regions that are united are so in that order.
  const ordered = [...objects].sort((a, b) => rank(a) - rank(b))
  return `${toJson({ format: SHOT_DATA_FORMAT, version: 1, schemaVersion: SCHEMA_VERSION, name, whole, objects: ordered })}\n`
}

/**
 * Shot data from text, of this version or an earlier one.
 *
 * @throws FormatError `not-shot-data` with the first thing that is wrong, in words
 */
export function readShotData(text: string): ShotData {
  if (text.length > MOST_LETTERS) throw wrong('the file is too large')
  const head = headSchema.safeParse(parsedJson(text))
  if (!head.success) throw wrong(head.error.issues[0]!.path.length > 0 ? `${head.error.issues[0]!.path.join('.')}: ${head.error.issues[0]!.message}` : head.error.issues[0]!.message) // prettier-ignore
  const { name, whole, schemaVersion } = head.data
  if (schemaVersion > SCHEMA_VERSION) throw wrong('it was written by a later version of the application')
  const ids = new Set<string>()
  const objects = head.data.objects.map((value, i) => {
    const parsed = objectSchema.safeParse(liftedObject(value, schemaVersion))
    if (!parsed.success) {
      const [issue] = parsed.error.issues
      throw wrong(`object ${i + 1} at ${issue!.path.join('.') || 'its beginning'}: ${issue!.message}`)
    }
    if (ids.has(parsed.data.id)) throw wrong(`two objects have the id ${parsed.data.id}`)
    ids.add(parsed.data.id)
    return parsed.data
  })
  return { name, whole, objects }
}

function parsedJson(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch (error) {
    // Nested too deep is a RangeError.
    throw wrong(error instanceof RangeError ? 'it is nested too deep' : 'it is no JSON')
  }
}

const wrong = (words: string) => new FormatError('not-shot-data', `The shot data cannot be read: ${words}`)
