import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { documentOf, testPart, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { NOTHING_SELECTED, setView, useShot } from '../store'
import { showDelivery, watchDelivery } from './deliveryShown'

const MATTES = [
  { partId: 'coat', name: 'Lamplighter_coat' },
  { partId: 'hat', name: 'Lamplighter_hat' },
]
const document = documentOf([testShot, testSubject, testPart('coat'), testPart('hat')])

/** What was asked for, and what is answered; a picture remembers whether it was closed. */
const server = { asked: [] as string[], answer: (): Promise<Response> | Response => picture() }
const closed: boolean[] = []
const picture = () => new Response('png', { headers: { 'Differing-Pixels': '12', 'Largest-Difference': '0.2500' } })
const problem = (detail: string) => Response.json({ title: 'x', detail }, { status: 404 })

let stop: () => void
beforeEach(() => {
  server.asked = []
  server.answer = picture
  closed.length = 0
  vi.stubGlobal('fetch', async (path: string, { signal }: { signal?: AbortSignal } = {}) => {
    server.asked.push(path)
    if (/exports\/\w+$/.test(path))
      return Response.json({ mattes: path.endsWith('empty') ? [] : MATTES, output: { scale: 0.5 } })
    const answer = await server.answer()
    signal?.throwIfAborted()
    return answer
  })
  vi.stubGlobal('createImageBitmap', () => {
    const at = closed.push(false) - 1
    return Promise.resolve({ close: () => (closed[at] = true) })
  })
  useShot.setState({ document, shown: document, frame: 1004, selection: NOTHING_SELECTED, saveState: 'saved', isPlaying: false, message: null, deliveredMatte: null }) // prettier-ignore
  setView({ delivery: null })
  stop = watchDelivery()
})
afterEach(() => {
  stop()
  vi.unstubAllGlobals()
})

const settled = () => vi.waitFor(() => expect(useShot.getState().deliveredMatte?.frame).toBe(useShot.getState().frame))
const shown = () => useShot.getState().deliveredMatte

describe('a delivery that is looked at', () => {
  it('shows the matte of the selected Part against the present, and follows frame, Part and edits', async () => {
    await showDelivery('job', 'Mattes v001')
    await settled()
    expect(useShot.getState().view.delivery).toMatchObject({ name: 'Mattes v001', scale: 0.5 })
    expect(shown()).toMatchObject({ matte: MATTES[0], difference: { differing: 12, largest: 0.25 }, trouble: null })
    expect(server.asked.at(-1)).toBe('/api/exports/job/mattes/coat/1004?against=now')
    useShot.setState({ frame: 1005, selection: { ...NOTHING_SELECTED, partId: 'hat' } })
    await settled()
    expect(server.asked.at(-1)).toBe('/api/exports/job/mattes/hat/1005?against=now')
    expect(closed).toEqual([true, false])
    // An edit counts once the server has it.
    const count = server.asked.length
    useShot.setState({ document: documentOf([testShot, testSubject, testPart('coat')]), saveState: 'saving' })
    expect(server.asked).toHaveLength(count)
    useShot.setState({ saveState: 'saved' })
    await vi.waitFor(() => expect(server.asked).toHaveLength(count + 1))
    // Not while it plays, but where it stops.
    useShot.setState({ isPlaying: true, frame: 1010 })
    expect(server.asked).toHaveLength(count + 1)
    useShot.setState({ isPlaying: false })
    await vi.waitFor(() => expect(server.asked.at(-1)).toContain('/1010?'))
  })

  it('as delivered does not ask for the present, nor wait for edits', async () => {
    await showDelivery('job', 'Mattes v001')
    await settled()
    useShot.setState({ saveState: 'saving' })
    setView({ delivery: { ...useShot.getState().view.delivery!, isCompared: false } })
    await vi.waitFor(() => expect(shown()?.isCompared).toBe(false))
    expect(server.asked.at(-1)).toBe('/api/exports/job/mattes/coat/1004')
    expect(shown()!.difference).toBeNull()
  })

  it('says what cannot be shown, and goes on with the next frame', async () => {
    server.answer = () => problem('Frame 1004 of the delivery is not there')
    await showDelivery('job', 'Mattes v001')
    await settled()
    expect(shown()).toMatchObject({ picture: null, trouble: 'Frame 1004 of the delivery is not there' })
    server.answer = () => Promise.reject(new TypeError('failed to fetch'))
    useShot.setState({ frame: 1005 })
    await settled()
    expect(shown()!.trouble).toBe('The server cannot be reached')
    server.answer = picture
    useShot.setState({ frame: 1006 })
    await settled()
    expect(shown()!.trouble).toBeNull()
  })

  it('what comes late is thrown away, and taken off nothing is kept', async () => {
    await showDelivery('job', 'Mattes v001')
    await settled()
    let answer = (_: Response) => {}
    server.answer = () => new Promise((resolve) => (answer = resolve))
    useShot.setState({ frame: 1005 })
    server.answer = picture
    useShot.setState({ frame: 1006 })
    await settled()
    answer(picture())
    await new Promise((resolve) => setTimeout(resolve, 20))
    expect(shown()!.frame).toBe(1006)
    setView({ delivery: null })
    expect(shown()).toBeNull()
    expect(closed.every(Boolean)).toBe(true)
  })

  it('of nothing is refused in words', async () => {
    await showDelivery('empty', 'Mattes v001')
    expect(useShot.getState().message?.words).toBe('Mattes v001 holds no matte')
    expect(useShot.getState().view.delivery).toBeNull()
  })
})
