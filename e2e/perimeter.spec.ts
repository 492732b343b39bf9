import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { expect, test } from './test'
import { PORT } from './playwright.config'

/** A page of somebody else's, on another port of this machine: another origin, though the same site. */
const VICTIM = `http://127.0.0.1:${PORT}`
let server: Server
let foreign: string

test.beforeAll(async () => {
  server = createServer((_request, response) => {
    response.setHeader('Content-Type', 'text/html')
    response.end('<!doctype html><title>elsewhere</title><p>elsewhere</p>')
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  foreign = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
})
test.afterAll(() => server.close())

test('a page of another origin neither writes nor reads anything, whatever it sends', async ({ page }) => {
  const statuses: string[] = []
  page.on('response', (response) => {
    if (response.url().startsWith(VICTIM)) statuses.push(`${response.request().method()} ${new URL(response.url()).pathname} ${response.status()}`) // prettier-ignore
  })
  const board = async () => (await fetch(`${VICTIM}/api/board`)).text()
  // While the demonstration is still being read, the board changes by itself.
  await expect.poll(board, { timeout: 60_000 }).not.toContain('ingesting')
  const boardBefore = await board()
  await page.goto(foreign)
  const outcomes = await page.evaluate(async (victim) => {
    const asked = async (path: string, init: RequestInit) => {
      try {
        const answer = await fetch(`${victim}${path}`, init)
        return `${answer.type} ${answer.status} ${(await answer.text().catch(() => '')).length}`
      } catch (error) {
        return String(error)
      }
    }
    const plain = { method: 'POST', mode: 'no-cors' as const, headers: { 'Content-Type': 'text/plain' } }
    return Promise.all([
      asked('/api/projects', { ...plain, body: JSON.stringify({ name: 'Intruder' }) }),
      asked('/api/shots/demoWS010/edits', { ...plain, body: JSON.stringify({ batches: [{}] }) }),
      asked('/api/board', { method: 'GET' }),
      asked('/api/uploads', { method: 'POST', headers: { 'Tus-Resumable': '1.0.0', 'Upload-Length': '4' } }),
      asked('/api/shots/demoWS010', { method: 'DELETE' }),
      asked('/api/shots/demoWS010/frames/1001/display', { method: 'GET', mode: 'no-cors' as const }),
    ])
  }, VICTIM)
  // Nothing could be read: an opaque answer or none at all.
  for (const outcome of outcomes) expect(outcome).toMatch(/^(opaque 0 0|TypeError: Failed to fetch)$/)
  // A form, which no preflight asks for.
  await page.setContent(
    `<form method="post" action="${VICTIM}/api/projects" enctype="text/plain"><input name='{"name":"Intruder","x":"' value='"}'></form>`,
  )
  await Promise.all([page.waitForNavigation(), page.locator('form').evaluate((form: HTMLFormElement) => form.submit())])
  await expect(page.locator('body')).toContainText('foreign-page')
  await page.goto(foreign)
  await page.setContent(`<img src="${VICTIM}/api/shots/demoWS010/frames/1001/display">`)
  await page.waitForTimeout(500)
  expect(await page.locator('img').evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(0)
  expect(statuses.length).toBeGreaterThan(3)
  for (const status of statuses) expect(status).toMatch(/ 403$/)
  expect(await board()).toBe(boardBefore)
  // A link from there opens the application.
  await page.setContent(`<a href="${VICTIM}/">to the board</a>`)
  await page.getByRole('link').click()
  await expect(page.getByRole('heading', { name: 'Tender Lasso' })).toBeVisible()
})

test('another name for this machine, a body that is too deep or no JSON, are refused as what they are', async () => {
  const asked = async (path: string, init: RequestInit = {}) => {
    const answer = await fetch(`${VICTIM}${path}`, init)
    return [answer.status, ((await answer.json()) as { title: string }).title]
  }
  const json = { method: 'POST', headers: { 'Content-Type': 'application/json' } }
  expect(await asked('/api/projects', { ...json, body: '['.repeat(5000) })).toEqual([422, 'too-deep'])
  expect(await asked('/api/projects', { ...json, body: '{"name":"a\\u0000b"}' })).toEqual([422, 'nul-character'])
  expect(await asked('/api/projects', { method: 'POST', body: '{"name":"a"}' })).toEqual([415, 'json-only'])
  expect(await asked('/api/projects', { ...json, body: `{"name":"${'x'.repeat(5e6)}"}` })).toEqual([413, 'too-large'])
  expect(await asked('/api/shots/a%00b/edits?since=0')).toEqual([404, 'not-found'])
  expect(await asked('/api/shots/demoWS010/events?since=abc')).toEqual([422, 'invalid-input'])
  expect(await asked('/api/shots/nobody/events?since=0')).toEqual([404, 'not-found'])
  expect(await asked('/api/shots/demoWS010/events?since=99999')).toEqual([409, 'beyond-the-log'])
  const batch = (more: object) => ({ batchId: 'b1', clientId: 'c1', clientSequence: 0, author: 'I', baseSequence: 0, schemaVersion: 2, label: 'l', undoes: null, patches: [{ kind: 'field', id: 'shot', field: 'width', before: 1280, after: 4 }], ...more }) // prettier-ignore
  const sent = (more: object) => asked('/api/shots/demoWS010/edits', { ...json, body: JSON.stringify({ batches: [batch(more)] }) }) // prettier-ignore
  expect(await sent({})).toEqual([422, 'invalid-patch'])
  expect(await sent({ label: 'x'.repeat(201) })).toEqual([422, 'invalid-batch'])
  expect(await sent({ clientSequence: 2 ** 31 })).toEqual([422, 'invalid-batch'])
  expect(await sent({ author: 'server' })).toEqual([422, 'invalid-batch'])
})

test('what is wrong with a setting is said in words', async () => {
  const rate = { numerator: 24, denominator: 1 }
  const settings = { name: 'a', firstFrame: 1001, rate, pixelAspect: 1, colourEncoding: 'sRGB' }
  const files = [{ upload: '0'.repeat(32), name: 'a.png' }]
  const words = async (more: object) => {
    const body = JSON.stringify({ projectId: 'p', files, settings: { ...settings, ...more } })
    const answer = await fetch(`${VICTIM}/api/shots`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body }) // prettier-ignore
    return ((await answer.json()) as { detail: string }).detail
  }
  expect(await words({ firstFrame: 99_999_999 })).toBe('The first frame is too large: 9999999 at most')
  expect(await words({ pixelAspect: 0 })).toBe('The pixel aspect is too small: 0.1 at least')
  expect(await words({ name: ' ' })).toBe('The name: a shot needs a name')
  expect(await words({ name: 'x'.repeat(81) })).toBe('The name is too long: 80 letters at most')
  expect(await words({ firstFrame: 'one' })).toBe('The first frame is missing or not what it should be')
})

test('an upload that was not sent whole is not taken for the file', async () => {
  const tus = { 'Tus-Resumable': '1.0.0' }
  const made = await fetch(`${VICTIM}/api/uploads`, { method: 'POST', headers: { ...tus, 'Upload-Length': '100' } })
  expect(made.headers.get('access-control-allow-origin')).toBeNull()
  const place = made.headers.get('location')!
  const headers = { ...tus, 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' }
  await fetch(new URL(place, VICTIM), { method: 'PATCH', headers, body: new Uint8Array(40).fill(7) })
  const files = [{ upload: place.split('/').at(-1)!, name: 'a.0001.png' }]
  const json = { method: 'POST', headers: { 'Content-Type': 'application/json' } }
  const answer = await fetch(`${VICTIM}/api/inspect`, { ...json, body: JSON.stringify({ files }) })
  expect(answer.status).toBe(422)
  const { title, detail } = (await answer.json()) as { title: string; detail: string }
  expect(title).toBe('unfinished-upload')
  expect(detail).toContain('a.0001.png has not been sent whole (40 of 100 bytes)')
  const wrong = { files: [{ upload: '0'.repeat(32), name: 'b.png' }] }
  const gone = await fetch(`${VICTIM}/api/inspect`, { ...json, body: JSON.stringify(wrong) })
  expect(((await gone.json()) as { title: string }).title).toBe('no-such-upload')
})
