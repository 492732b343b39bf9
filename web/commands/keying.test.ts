import { beforeEach, describe, expect, it, vi } from 'vitest'
import { channelOf, findObject, type Patch } from '@tender-lasso/core/document'
import { formChanged } from '@tender-lasso/core/edits'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { useShot, type ShotInfo } from '../store'
import { chooseReach, editReaching, keyingNow, keyingOnTheWay, reachWords, setEditing } from './keying'

const edits = vi.hoisted(() => ({ made: [] as { label: string; patches: Patch[] }[], takes: true }))
vi.mock('../session', () => ({
  edit: (label: string, patches: Patch[]) => {
    edits.made.push({ label, patches })
    return edits.takes
  },
}))

const TIMES = [1001, 1011, 1021, 1031]
const document = documentOf([testShot, testSubject, testPart('coat'), testShape('outline', 'coat', TIMES)])
const shape = findObject(document, 'shape', 'outline')!
const moved = () => formChanged(shape, 1011, (_values, out) => void (out[0]! += 5), keyingNow())
const info = { firstFrame: 1001, lastFrame: 1072 } as ShotInfo

beforeEach(() => {
  edits.made = []
  edits.takes = true
  useShot.setState({ document, shown: document, info, frame: 1011, range: null, message: null })
  setEditing({ reach: 'here', isReachLocked: false, makesKeys: true, onlyTouched: false, spanFalloff: 2 })
})

describe('the Reach', () => {
  it('holds for one edit, and then is Here again', () => {
    chooseReach('onward')
    expect(editReaching('move outline', moved())).toBe(true)
    expect(edits.made).toHaveLength(1)
    expect(edits.made[0]!.label).toBe('move outline, onward')
    // The keys on 1011, 1021 and 1031.
    expect(useShot.getState().message?.words).toBe('move outline, onward: 3 keys')
    expect(useShot.getState().editing.reach).toBe('here')
  })

  it('chosen again it is locked and stays, a third time it is Here', () => {
    chooseReach('back')
    chooseReach('back')
    editReaching('move outline', moved())
    expect(useShot.getState().editing).toMatchObject({ reach: 'back', isReachLocked: true })
    chooseReach('back')
    expect(useShot.getState().editing).toMatchObject({ reach: 'here', isReachLocked: false })
  })

  it('stays for another try where the edit is not taken', () => {
    edits.takes = false
    chooseReach('everywhere')
    expect(editReaching('move outline', moved())).toBe(false)
    expect(useShot.getState().editing.reach).toBe('everywhere')
  })

  it('of a Span asks for a marked stretch, without which nothing is edited', () => {
    chooseReach('span')
    expect(reachWords()).toBe('Span: mark a stretch')
    useShot.setState({ shown: documentOf([]) })
    expect(editReaching('move outline', moved())).toBe(false)
    expect(edits.made).toEqual([])
    expect(useShot.getState().message?.kind).toBe('doubtful')
    // What the gesture showed is gone.
    expect(useShot.getState().shown).toBe(document)
  })

  it('of a Span is the marked stretch, with ends in the shot that get keys', () => {
    useShot.setState({ range: [1002, 1071] })
    chooseReach('span')
    expect(reachWords()).toBe('Span 1002-1071')
    // Two frames of falloff and one: 999 and 1074 lie outside the shot.
    expect(keyingNow().reach).toEqual({ kind: 'span', from: 1002, to: 1071, falloff: 2, ends: [1002, 1071] })
  })
})

describe('an edit', () => {
  it('that made no key where none is says so', () => {
    setEditing({ makesKeys: false })
    useShot.setState({ frame: 1005 })
    const patches = formChanged(shape, 1005, (_values, out) => void (out[0]! += 5), keyingNow())
    expect(editReaching('move outline', patches)).toBe(false)
    expect(useShot.getState().message?.words).toContain('No key on 1005')
  })

  it('on its way changes only keys that say what is on screen, unless other frames are', () => {
    expect(keyingOnTheWay().seen).toEqual([1009, 1013])
    const { view } = useShot.getState()
    useShot.setState({ view: { ...view, onion: { ...view.onion, count: 2 } } })
    expect(keyingOnTheWay().seen).toBeUndefined()
    useShot.setState({ view })
    expect(channelOf(shape).keys).toHaveLength(TIMES.length)
  })
})
