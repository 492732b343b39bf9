import { Problem } from '../errors'

/** What the gate looks at of a request, names of headers in lower case. */
export interface AskedFor {
  method: string
  /** Path without its query. */
  path: string
  header(name: string): string | undefined
}

export interface GateSettings {
  /** Port that the server listens on. */
  port: number
  /** Names beside those of this machine under which it is reached. */
  hosts: readonly string[]
}

const API = '/api/'
/** Files that other programs read, never a page of ours. */
const LIVE = '/live/'
const UPLOADS = '/api/uploads'
const SAFE_METHODS = new Set(['GET', 'HEAD', 'OPTIONS'])

/** Most bytes of a JSON body: edits carry outlines by the thousand. */
const LARGEST_JSON = 4 * 2 ** 20
export const LARGEST_EDITS = 96 * 2 ** 20

/** How large the JSON body of a request may be. */
export const largestBody = (path: string) => (/^\/api\/shots\/[^/]+\/edits$/.test(path) ? LARGEST_EDITS : LARGEST_JSON)

/**
 * The one gate before every route: known hosts, requests of this application's own pages only, JSON bodies of a limited
 * size. A page of another origin can neither write nor read here, whatever it sends; what is not a browser sends neither
 * `Origin` nor fetch metadata and is let in, since it could send what it likes.
 *
 * RFC 9110 (Host, Content-Type), the fetch metadata specification (Sec-Fetch-Site).
 *
 * @returns null when the request may go on
 */
export function refusal(request: AskedFor, settings: GateSettings): Problem | null {
  const { method, path, header } = request
  const host = header('host')?.toLowerCase()
  if (!host || !isKnownHost(host, settings)) {
    return new Problem(421, 'unknown-host', 'The application is not known by this name; TENDER_LASSO_HOSTS tells it further ones') // prettier-ignore
  }
  const isApi = path === '/api' || path.startsWith(API) || path.startsWith(LIVE)
  const origin = header('origin')
  if (origin !== undefined && !isOwnOrigin(origin, host) && (isApi || !SAFE_METHODS.has(method))) return foreign()
  const site = header('sec-fetch-site')
  if (site !== undefined && site !== 'same-origin') {
    // A link from elsewhere, or an address that was typed, opens a page; nothing else comes from outside.
    const isOpening =
      SAFE_METHODS.has(method) && (site === 'none' || (header('sec-fetch-mode') === 'navigate' && !isApi))
    if (!isOpening) return foreign()
  }
  if (SAFE_METHODS.has(method) || path === UPLOADS || path.startsWith(`${UPLOADS}/`)) return null
  const hasBody = header('transfer-encoding') !== undefined || Number(header('content-length') ?? 0) > 0
  const type = header('content-type')?.split(';')[0]?.trim().toLowerCase()
  if (hasBody && type !== 'application/json') {
    return new Problem(415, 'json-only', 'A request to change something carries JSON (Content-Type: application/json)')
  }
  const length = Number(header('content-length') ?? 0)
  return length > largestBody(path) ? tooLarge(path) : null
}

const tooLarge = (path: string) =>
  new Problem(413, 'too-large', `The request is larger than ${Math.round(largestBody(path) / 2 ** 20)} MB`)

const foreign = () => new Problem(403, 'foreign-page', 'Only the pages of this application may ask for this')

function isKnownHost(host: string, { port, hosts }: GateSettings): boolean {
  const name = host.replace(/:\d+$/, '')
  if (hosts.includes(host) || hosts.includes(name)) return true
  return ['localhost', '127.0.0.1', '[::1]'].some((own) => host === `${own}:${port}` || (port === 80 && host === own))
}

/** The page was had from this very host: a proxy may have taken off the encryption, so both schemes will do. */
function isOwnOrigin(origin: string, host: string): boolean {
  const own = origin.toLowerCase()
  return own === `http://${host}` || own === `https://${host}`
}
