import { beforeEach, describe, expect, it, vi } from 'vitest'
import { findObject, type Patch } from '@tender-lasso/core/document'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  withPatches,
} from '@tender-lasso/core/document/testDocuments'
import { NOTHING_SELECTED, useShot } from '../store'
import { toggleHidden, toggleHole } from './layerActs'

const edits = vi.hoisted(() => ({ made: [] as { label: string; patches: Patch[] }[] }))
vi.mock('../session', () => ({
  edit: (label: string, patches: Patch[]) => {
    edits.made.push({ label, patches })
    return true
  },
}))

const document = documentOf([
  testShot,
  testSubject,
  testPart('coat'),
  testShape('outline', 'coat', [1001]),
  { ...testShape('pocket', 'coat', [1001]), order: 1 },
])
const words = () => useShot.getState().message?.words
const made = () =>
  withPatches(
    document,
    edits.made.flatMap(({ patches }) => patches),
  )

beforeEach(() => {
  edits.made = []
  useShot.setState({ document, shown: document, frame: 1004, range: null, message: null, tool: 'select', selection: NOTHING_SELECTED }) // prettier-ignore
})

describe('a hole', () => {
  it('is made of the selected shapes, and from holes they become shapes that add', () => {
    useShot.setState({ selection: { ...NOTHING_SELECTED, partId: 'coat', shapeIds: ['pocket'] } })
    toggleHole()
    expect(edits.made.map(({ label }) => label)).toEqual(['subtract pocket'])
    const after = made()
    expect(findObject(after, 'shape', 'pocket')!.operation).toBe('subtract')
    useShot.setState({ document: after, shown: after })
    edits.made = []
    toggleHole()
    expect(edits.made[0]!.label).toBe('add pocket')
  })

  it('with a drawing tool in the hand is the next shape, until it is called off', () => {
    useShot.setState({ tool: 'pen' })
    toggleHole()
    expect(useShot.getState().editing.nextOperation).toBe('subtract')
    expect(words()).toContain('The next shape is a hole')
    toggleHole()
    expect(useShot.getState().editing.nextOperation).toBe('add')
    expect(edits.made).toEqual([])
  })

  it('asks for shapes where nothing is selected', () => {
    toggleHole()
    expect(words()).toContain('Select shapes')
    expect(edits.made).toEqual([])
  })
})

describe('hiding', () => {
  it('takes the marked stretch, else the frame, of the Part or of the selected shapes, and shows them again', () => {
    useShot.setState({ selection: { ...NOTHING_SELECTED, partId: 'coat' } })
    toggleHidden()
    expect(findObject(made(), 'part', 'coat')!.hidden).toEqual([[1004, 1004]])
    edits.made = []
    useShot.setState({ range: [1010, 1020], selection: { ...NOTHING_SELECTED, partId: 'coat', shapeIds: ['outline'] } })
    toggleHidden()
    expect(words()).toContain('outline hidden on 1010 to 1020')
    const after = made()
    expect(findObject(after, 'shape', 'outline')!.hidden).toEqual([[1010, 1020]])
    expect(findObject(after, 'part', 'coat')!.hidden).toEqual([])
    useShot.setState({ document: after, shown: after })
    edits.made = []
    toggleHidden()
    expect(words()).toBe('outline shown on 1010 to 1020')
  })

  it('asks for a selection', () => {
    toggleHidden()
    expect(words()).toContain('Select a Part or shapes')
  })
})
