import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Patch } from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { NOTHING_SELECTED, useShot, type ShotInfo } from '../store'
import { endShotWork } from '../session/shotWork'
import { copySelected, pasteHere } from './clipboard'

const edits = vi.hoisted(() => ({ made: [] as { label: string; patches: Patch[] }[] }))
vi.mock('../session', async () => ({
  ...(await import('../session/shotWork')),
  edit: (label: string, patches: Patch[]) => {
    edits.made.push({ label, patches })
    return true
  },
}))

/** A clipboard that answers when the test says so. */
const clipboard = { held: '', answer: () => {}, writeText: vi.fn(), readText: vi.fn() }
const answered = () => new Promise<void>((resolve) => void (clipboard.answer = resolve))

const document = documentOf([testShot, testSubject, testPart('coat'), testShape('outline', 'coat', [1001, 1011])])
const key = { id: 'outline', channel: 'outline', time: 1011 } as const

beforeEach(() => {
  edits.made = []
  clipboard.held = ''
  clipboard.writeText.mockImplementation(async (text: string) => void (clipboard.held = text))
  clipboard.readText.mockImplementation(async () => clipboard.held)
  vi.stubGlobal('navigator', { clipboard })
  useShot.setState({
    document,
    shown: document,
    info: { id: 'WS_010', firstFrame: 1001, lastFrame: 1072 } as ShotInfo,
    frame: 1050,
    selection: { ...NOTHING_SELECTED, partId: 'coat', shapeIds: ['outline'], keys: [key] },
    message: null,
  })
})

describe('the clipboard', () => {
  it('pastes on the frame where it was asked for, though the artist has gone on before the clipboard answers', async () => {
    copySelected()
    clipboard.readText.mockImplementation(async () => {
      await answered()
      return clipboard.held
    })
    const pasting = pasteHere()
    useShot.setState({ frame: 1072 })
    await vi.waitFor(() => expect(clipboard.readText).toHaveBeenCalled())
    clipboard.answer()
    await pasting
    expect(edits.made.map(({ label }) => label)).toEqual(['paste 1 key on 1050'])
  })

  it('pastes what was copied just before, however slowly the clipboard takes it', async () => {
    clipboard.held = 'M 0 0 L 10 0 L 10 10 Z'
    clipboard.writeText.mockImplementation(async (text: string) => {
      await answered()
      clipboard.held = text
    })
    copySelected()
    const pasting = pasteHere()
    clipboard.answer()
    await pasting
    expect(edits.made.map(({ label }) => label)).toEqual(['paste 1 key on 1050'])
  })

  it('pastes nothing into another shot that was opened meanwhile', async () => {
    copySelected()
    const pasting = pasteHere()
    endShotWork()
    await pasting
    expect(edits.made).toEqual([])
  })

  it('does without a clipboard that refuses', async () => {
    clipboard.writeText.mockRejectedValue(new Error('not allowed'))
    clipboard.readText.mockRejectedValue(new Error('not allowed'))
    copySelected()
    await pasteHere()
    expect(edits.made).toHaveLength(1)
  })

  it('is not written, and it is said, when nothing is selected', async () => {
    useShot.setState({ selection: NOTHING_SELECTED })
    expect(copySelected()).toBe(false)
    expect(clipboard.held).toBe('')
    expect(useShot.getState().message?.words).toBe('Nothing is selected to copy')
  })
})
