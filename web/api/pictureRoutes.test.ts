import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { closeOrm, migrate } from '@tender-lasso/server/database'
import { keys, mediaStore } from '@tender-lasso/server/store'
import { newId } from '@tender-lasso/core/document'
import { pictureRoute, sendAnswer } from './pictureRoutes'

const shotId = newId()
const bytes = Uint8Array.from({ length: 300_000 }, (_, i) => (i * i) % 251)
let server: Server
let host: string

beforeAll(async () => {
  await migrate()
  await mediaStore().put(keys.frame(shotId, 1001, 'display'), bytes)
  server = createServer((request, response) => {
    const answering = pictureRoute(request.method!, new URL(request.url!, host).pathname)
    response.setHeader('X-Content-Type-Options', 'nosniff')
    if (!answering) return void response.writeHead(599).end()
    void answering(new Request(host + request.url)).then((answer) => sendAnswer(answer, response))
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  host = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
})
afterAll(async () => {
  server.close()
  server.closeAllConnections()
  await mediaStore().delete(keys.framesOf(shotId))
  await closeOrm()
})

describe('pictures, answered before Next.js', () => {
  it('come byte for byte with type, length and how long they may be kept, beside what is set already', async () => {
    const answer = await fetch(`${host}/api/shots/${shotId}/frames/1001/display`)
    expect(answer.status).toBe(200)
    expect(Object.fromEntries(answer.headers)).toMatchObject({
      'content-type': 'image/jpeg',
      'content-length': String(bytes.length),
      'cache-control': 'private, max-age=86400',
      'x-content-type-options': 'nosniff',
    })
    expect(new Uint8Array(await answer.arrayBuffer())).toEqual(bytes)
  })

  it('that are not there, or cannot be, are refused as everywhere', async () => {
    const refusals = [
      ['frames/1001/secret', 422],
      ['frames/first/display', 422],
      ['tiles?frames=1001', 422],
      ['frames/1002/display', 404],
    ] as const
    for (const [rest, status] of refusals) {
      const answer = await fetch(`${host}/api/shots/${shotId}/${rest}`)
      expect([rest, answer.status]).toEqual([rest, status])
      expect(answer.headers.get('content-type')).toBe('application/problem+json')
      expect(await answer.json()).toMatchObject({ status })
    }
  })

  it('go on for the others where somebody goes away while one is on its way', async () => {
    const address = `${host}/api/shots/${shotId}/frames/1001/display`
    for (let i = 0; i < 20; i++) {
      const leaving = new AbortController()
      const asked = fetch(address, { signal: leaving.signal })
      setTimeout(() => leaving.abort(), i / 4)
      await asked.then((answer) => answer.arrayBuffer()).catch(() => undefined)
    }
    expect((await (await fetch(address)).arrayBuffer()).byteLength).toBe(bytes.length)
  })

  it('are nothing else: other routes, other ways of asking and longer addresses are left to Next.js', () => {
    const frame = `/api/shots/${shotId}/frames/1001/display`
    expect(pictureRoute('GET', frame)).not.toBeNull()
    for (const method of ['POST', 'HEAD', 'DELETE']) expect(pictureRoute(method, frame)).toBeNull()
    const others = ['/', '/api/shots', `/api/shots/${shotId}`, `/api/shots/${shotId}/document`, `/api/shots/${shotId}/tiles/1`, `${frame}/more`, `/shots/${shotId}/frames/1001/display`, '/api/shots//tiles'] // prettier-ignore
    for (const other of others) expect([other, pictureRoute('GET', other)]).toEqual([other, null])
  })
})
