import type { ServerResponse } from 'node:http'
import { GET as getFrame } from '../app/api/shots/[shotId]/frames/[frame]/[tier]/route'
import { GET as getTiles } from '../app/api/shots/[shotId]/tiles/route'

type Answering = (request: Request) => Promise<Response>

/**
 * The handler of a route of pictures, to be called without Next.js in between; null where an address is of another one.
 *
 * A page that is opened asks for a hundred pictures, a track for tiles all the time, and Next.js takes five times as
 * long to find a handler as these take to answer: docs/decisions/0058-pictures-past-next.md.
 *
 * @param path  of an address, nothing in it encoded any more
 */
export function pictureRoute(method: string, path: string): Answering | null {
  if (method !== 'GET') return null
  const [, api, shots, shotId, kind, frame, tier, ...more] = path.split('/')
  if (api !== 'api' || shots !== 'shots' || !shotId || more.length > 0) return null
  if (kind === 'tiles' && frame === undefined)
    return (request) => getTiles(request, { params: Promise.resolve({ shotId }) })
  if (kind === 'frames' && frame && tier)
    return (request) => getFrame(request, { params: Promise.resolve({ shotId, frame, tier }) })
  return null
}

/** Sends the answer of such a route, beside the headers that are set already. */
export async function sendAnswer(answer: Response, response: ServerResponse): Promise<void> {
  response.writeHead(answer.status, Object.fromEntries(answer.headers))
  // These are whole already; a stream of the other kind in between takes longer than sending them.
  if (answer.body) for await (const bytes of answer.body as unknown as AsyncIterable<Uint8Array>) response.write(bytes)
  response.end()
}
