import { Problem } from '../errors'

/** Lists and objects within one another: a document's own data go 12 deep at most. */
const DEEPEST = 64

/**
 * The value of a JSON text from outside.
 *
 * @throws Problem 400 `invalid-json`, 422 `too-deep` or `nul-character`: neither a schema nor a database is to meet those
 */
export function parsedJson(text: string): unknown {
  let depth = 0
  let isInString = false
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i)
    if (isInString) {
      if (code === 34) isInString = false
      else if (code === 92) {
        if (text.startsWith('u0000', i + 1))
          throw new Problem(422, 'nul-character', 'Text cannot hold the character NUL')
        i++
      }
    } else if (code === 34) isInString = true
    else if (code === 91 || code === 123) {
      if (++depth > DEEPEST) throw new Problem(422, 'too-deep', `The data are nested more than ${DEEPEST} deep`)
    } else if (code === 93 || code === 125) depth--
  }
  try {
    return JSON.parse(text)
  } catch {
    throw new Problem(400, 'invalid-json', 'The request is not valid JSON')
  }
}

/**
 * The JSON body of a request, read up to a size.
 *
 * @throws Problem as {@link parsedJson}, 413 `too-large`
 */
export async function readJson(request: Request, most: number): Promise<unknown> {
  if (!request.body) return parsedJson('')
  const decoder = new TextDecoder()
  let text = ''
  let read = 0
  for await (const chunk of request.body as unknown as AsyncIterable<Uint8Array>) {
    read += chunk.length
    if (read > most) throw new Problem(413, 'too-large', `The request is larger than ${Math.round(most / 2 ** 20)} MB`)
    text += decoder.decode(chunk, { stream: true })
  }
  return parsedJson(text + decoder.decode())
}
