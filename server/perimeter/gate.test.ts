import { describe, expect, it } from 'vitest'
import { largestBody, LARGEST_EDITS, parsedJson, readJson, refusal, type AskedFor } from './index'

const settings = { port: 4310, hosts: ['roto.example'] }

function asked(method: string, path: string, headers: Record<string, string> = {}): AskedFor {
  const all: Record<string, string> = { host: '127.0.0.1:4310', ...headers }
  return { method, path, header: (name) => all[name] }
}
const codeOf = (method: string, path: string, headers?: Record<string, string>) =>
  refusal(asked(method, path, headers), settings)?.code ?? null

const own = { origin: 'http://127.0.0.1:4310', 'sec-fetch-site': 'same-origin' }
const json = { 'content-type': 'application/json', 'content-length': '10' }
const EDITS = '/api/shots/abc/edits'

describe('the gate', () => {
  it('lets in what the application’s own pages ask for, and programs that are no browsers', () => {
    expect(codeOf('POST', EDITS, { ...own, ...json })).toBeNull()
    expect(codeOf('GET', EDITS, { 'sec-fetch-site': 'same-origin' })).toBeNull()
    expect(codeOf('DELETE', '/api/shots/abc', own)).toBeNull()
    expect(codeOf('POST', '/api/jobs/abc/cancel', { ...own, 'content-length': '0' })).toBeNull()
    expect(codeOf('POST', EDITS, json)).toBeNull()
    expect(
      codeOf('PATCH', '/api/uploads/abc', { ...own, 'content-type': 'application/offset+octet-stream' }),
    ).toBeNull()
    expect(codeOf('GET', '/', { 'sec-fetch-site': 'none', 'sec-fetch-mode': 'navigate' })).toBeNull()
    expect(codeOf('GET', '/shots/abc', { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate' })).toBeNull()
  })

  it('knows itself by its hosts alone, with their port', () => {
    for (const host of ['localhost:4310', '[::1]:4310', 'roto.example', 'roto.example:443', 'ROTO.example']) {
      expect(codeOf('GET', '/api/board', { host })).toBeNull()
    }
    for (const host of ['evil.example', 'evil.example:4310', '127.0.0.1:4311', '127.0.0.1', 'localhost', '127.0.0.1.evil.example:4310', '']) {
      expect(codeOf('GET', '/api/board', { host }), host).toBe('unknown-host')
    } // prettier-ignore
  })

  it('keeps pages of other origins out, whatever they send, uploads included', () => {
    for (const origin of ['https://evil.example', 'null', 'http://127.0.0.1:4999', 'http://localhost:4310']) {
      for (const [method, path] of [['POST', EDITS], ['GET', '/api/board'], ['GET', '/live/abc/def/1001.exr'], ['OPTIONS', '/api/uploads'], ['PATCH', '/api/uploads/abc'], ['DELETE', '/api/shots/abc']] as const) {
        expect(codeOf(method, path, { origin, 'content-type': 'text/plain' }), `${origin} ${path}`).toBe('foreign-page')
      }
    } // prettier-ignore
    for (const site of ['cross-site', 'same-site']) {
      expect(codeOf('GET', '/api/shots/abc/frames/1/display', { 'sec-fetch-site': site, 'sec-fetch-mode': 'no-cors' })).toBe('foreign-page') // prettier-ignore
      for (const path of ['/api/board', '/live/abc/def/manifest.json'])
        expect(codeOf('GET', path, { 'sec-fetch-site': site, 'sec-fetch-mode': 'navigate' })).toBe('foreign-page')
      expect(codeOf('POST', '/shots/abc', { 'sec-fetch-site': site, 'sec-fetch-mode': 'navigate' })).toBe(
        'foreign-page',
      )
    }
    expect(codeOf('POST', EDITS, { ...json, 'sec-fetch-site': 'none' })).toBe('foreign-page')
  })

  it('takes JSON of a limited size', () => {
    expect(codeOf('POST', EDITS, { ...own, 'content-type': 'text/plain', 'content-length': '3' })).toBe('json-only')
    expect(codeOf('POST', EDITS, { ...own, 'transfer-encoding': 'chunked' })).toBe('json-only')
    expect(codeOf('POST', EDITS, { ...own, 'content-type': 'application/json; charset=utf-8', 'content-length': '3' })).toBeNull() // prettier-ignore
    const large = String(LARGEST_EDITS)
    expect(codeOf('POST', EDITS, { ...own, ...json, 'content-length': large })).toBeNull()
    expect(codeOf('POST', '/api/projects', { ...own, ...json, 'content-length': large })).toBe('too-large')
    expect(codeOf('POST', EDITS, { ...own, ...json, 'content-length': `${large}0` })).toBe('too-large')
    expect(largestBody('/api/shots/abc/editsx')).toBeLessThan(LARGEST_EDITS)
  })
})

describe('JSON from outside', () => {
  it('is refused when it is nested deep or holds NUL, before anything walks through it', () => {
    const code = (text: string) => {
      try {
        parsedJson(text)
        return null
      } catch (error) {
        return (error as { code: string }).code
      }
    }
    expect(code('['.repeat(5000) + ']'.repeat(5000))).toBe('too-deep')
    expect(code('{"a":'.repeat(5000) + '1' + '}'.repeat(5000))).toBe('too-deep')
    expect(code('{"label":"a\\u0000b"}')).toBe('nul-character')
    expect(code('{"label":"a\\\\u0000b"}')).toBeNull()
    expect(code('{"label":"[[[[\\"{{{{"}')).toBeNull()
    expect(code('{"a":1')).toBe('invalid-json')
    expect(code('')).toBe('invalid-json')
  })

  it('without a length is read only as far as its limit', async () => {
    let given = 0
    const endless = new ReadableStream<Uint8Array>({
      pull(controller) {
        given += 1000
        controller.enqueue(new Uint8Array(1000).fill(32))
      },
    })
    const request = new Request('http://host/', { method: 'POST', body: endless, duplex: 'half' } as RequestInit)
    await expect(readJson(request, 10_000)).rejects.toMatchObject({ status: 413 })
    expect(given).toBeLessThan(20_000)
    const cut = new Request('http://host/', { method: 'POST', body: '{"word":"Glühwürmchen"}' })
    expect(await readJson(cut, 100)).toEqual({ word: 'Glühwürmchen' })
  })
})
