import { beforeEach, describe, expect, it } from 'vitest'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  testTrack,
} from '@tender-lasso/core/document/testDocuments'
import { report, useReports } from './reports'
import type { ShotInfo } from './serverAnswers'
import {
  beginWithShot,
  forgetShot,
  goTo,
  NOTHING_SELECTED,
  posedPart,
  say,
  sayInPassing,
  select,
  selectedKeyed,
  selectedShapes,
  stillThere,
  useShot,
} from './shotStore'

const document = documentOf([
  testShot,
  testSubject,
  testPart('coat'),
  testPart('hat'),
  testShape('outline', 'coat', [1001]),
  testShape('collar', 'coat', [1001]),
  testShape('brim', 'hat', [1001]),
  testTrack('board'),
])
const info = { firstFrame: 1001, lastFrame: 1072 } as ShotInfo
const ids = (shapes: readonly { id: string }[]) => shapes.map(({ id }) => id)

beforeEach(() => {
  useShot.setState({ document, shown: document, info, frame: 1001, selection: NOTHING_SELECTED, pivot: null, lastSubjectId: null }) // prettier-ignore
})

describe('what is selected', () => {
  it('are all shapes of a Part that is selected by itself, and then the Part is posed', () => {
    select({ partId: 'coat' })
    expect(ids(selectedShapes())).toEqual(['outline', 'collar'])
    expect([posedPart()?.id, ids(selectedKeyed())]).toEqual(['coat', ['coat']])
    select({ shapeIds: ['collar'] })
    expect([posedPart(), ids(selectedKeyed())]).toEqual([null, ['collar']])
  })

  it('remembers the Subject of the Part that was selected last', () => {
    select({ partId: 'coat' })
    select({ partId: null })
    expect(useShot.getState().lastSubjectId).toBe(testSubject.id)
  })

  it('a pivot that was clicked goes with what it was clicked for, not with its points', () => {
    select({ partId: 'coat', shapeIds: ['outline'] })
    useShot.setState({ pivot: [3, 4] })
    select({ pointIds: new Set(['outline-p0']) })
    expect(useShot.getState().pivot).toEqual([3, 4])
    select({ shapeIds: ['collar'] })
    expect(useShot.getState().pivot).toBeNull()
  })

  it('loses what the document has lost, and is the same where that is nothing', () => {
    const selection = { ...NOTHING_SELECTED, partId: 'coat', shapeIds: ['outline', 'brim'], trackIds: ['board'] }
    expect(stillThere(document, selection)).toBe(selection)
    const without = { objects: new Map([...document.objects].filter(([id]) => id !== 'outline' && id !== 'board')) }
    expect(stillThere(without, selection)).toMatchObject({ partId: 'coat', shapeIds: ['brim'], trackIds: [] })
    expect(stillThere(documentOf([testShot]), selection)).toMatchObject({ partId: null, shapeIds: [], trackIds: [] })
  })
})

describe('the present frame', () => {
  it('is a whole one of the shot', () => {
    const at = (frame: number) => {
      goTo(frame)
      return useShot.getState().frame
    }
    expect([at(1010.4), at(0), at(9999), at(1003.5)]).toEqual([1010, 1001, 1072, 1004])
  })

  it('is where it was before a shot is open', () => {
    useShot.setState({ info: null })
    goTo(1040)
    expect(useShot.getState().frame).toBe(1001)
  })
})

describe('what comes by itself', () => {
  const words = () => useShot.getState().message?.words

  it('is said after what was said, but does not push aside what is wrong', () => {
    useShot.setState({ message: null })
    sayInPassing('The plate is read')
    expect(words()).toBe('The plate is read')
    say('said', 'Copied 2 shapes')
    sayInPassing('The plate is read')
    expect(words()).toBe('The plate is read')
    for (const kind of ['doubtful', 'bad'] as const) {
      say(kind, 'There is no matte')
      sayInPassing('The plate is read')
      expect(words()).toBe('There is no matte')
    }
  })
})

describe('from one shot to the next', () => {
  const softness = { shapeIds: ['outline'], frames: [] }
  const leftBehind = () => {
    const { softness, range, selection, message, track, view } = useShot.getState()
    return [softness, range, selection.partId, message, track, view.solo.length, view.compared]
  }

  it('what belonged to the shot goes, settings stay', () => {
    select({ partId: 'coat' })
    say('said', 'drawn')
    useShot.setState({ softness, range: [1040, 1060], tool: 'pen' })
    useShot.setState({ view: { ...useShot.getState().view, solo: ['coat'], gamma: 1.4, compared: { name: 'first', document } } }) // prettier-ignore
    beginWithShot({ ...info, firstFrame: 101, lastFrame: 112 }, 'Artist')
    expect(leftBehind()).toEqual([null, null, null, null, null, 0, null])
    const { frame, document: now, tool, view } = useShot.getState()
    expect([frame, now.objects.size, tool, view.gamma]).toEqual([101, 0, 'pen', 1.4])
  })

  it('nothing is left of a shot that was closed', () => {
    useShot.setState({ softness, range: [1040, 1060] })
    select({ partId: 'coat' })
    report('Track forward', [{ kind: 'bad', words: 'board was lost on 1020', acts: [] }])
    forgetShot()
    expect(useReports.getState()).toEqual({ reports: [], isOpen: false })
    expect(leftBehind()).toEqual([null, null, null, null, null, 0, null])
    expect(useShot.getState().info).toBeNull()
  })
})
