import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import next from 'next'
import type { Problem } from '@tender-lasso/server/errors'
import { log } from '@tender-lasso/server/log'
import { startLiveThreads } from '@tender-lasso/server/liveHandoff'
import { refusal } from '@tender-lasso/server/perimeter'
import { readSettings } from '@tender-lasso/server/settings'
import { pictureRoute, sendAnswer } from './api/pictureRoutes'

/** The web server: one gate before every route, page and file, then routes of pictures, then Next.js. PORT names the port of loopback. */
const port = Number(process.env.PORT ?? 4310)
const hostname = '127.0.0.1'
const app = next({ dev: false, dir: import.meta.dirname, hostname, port })
// Threads of the live hand-off, which the routes use.
startLiveThreads()
await app.prepare()
const handle = app.getRequestHandler()
const { hosts } = readSettings()

/** So long the rest of a request that was refused may come. */
const REFUSED_MS = 5000

/** Requests without end are closed after this, but for uploads, which may be long. */
const HEADERS_MS = 15_000

const KEPT_ALIVE_MS = 75_000

/** Of every answer. Isolated pages may share memory between workers. */
const PAGE_HEADERS = new Headers({
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'X-Content-Type-Options': 'nosniff',
  'Referrer-Policy': 'same-origin',
})

const server = createServer((request, response) => {
  response.setHeaders(PAGE_HEADERS)
  const path = pathOf(request)
  const problem = refusal(
    {
      method: request.method ?? 'GET',
      path,
      header: (name) => {
        const value = request.headers[name]
        return Array.isArray(value) ? value.join(', ') : value
      },
    },
    { port, hosts },
  )
  if (problem) return refuse(request, response, problem)
  answer(path, request, response).catch((error: unknown) => {
    log.error({ err: error }, 'a request failed unforeseen')
    if (!response.headersSent) response.writeHead(500)
    response.end()
  })
})
server.headersTimeout = HEADERS_MS
server.requestTimeout = 0
// Longer than browsers and proxies keep an idle connection: who closes first must not be the one that is about to be asked.
server.keepAliveTimeout = KEPT_ALIVE_MS
server.listen(port, hostname)

async function answer(path: string, request: IncomingMessage, response: ServerResponse) {
  const picture = pictureRoute(request.method ?? 'GET', path)
  if (!picture) return handle(request, response)
  await sendAnswer(await picture(new Request(`http://${hostname}:${port}${request.url}`)), response)
}

function pathOf(request: IncomingMessage): string {
  try {
    return decodeURIComponent(new URL(request.url ?? '/', 'http://host').pathname)
  } catch {
    return '/api/'
  }
}

function refuse(request: IncomingMessage, response: ServerResponse, { status, code, message }: Problem) {
  response.writeHead(status, { 'Content-Type': 'application/problem+json' })
  response.end(JSON.stringify({ type: `/problems/${code}`, title: code, status, detail: message }))
  // What is still being sent is not wanted; closing at once would take the answer from who is sending.
  request.resume()
  const timer = setTimeout(() => request.socket.destroy(), REFUSED_MS)
  request.once('close', () => clearTimeout(timer))
}

// A route that fails in an unforeseen way must not end the others.
process.on('unhandledRejection', (error) => log.error({ err: error }, 'unhandled'))
process.on('SIGTERM', () => {
  server.close(() => process.exit(0))
  server.closeAllConnections()
})
