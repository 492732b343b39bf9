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
import { edgeOn, edgePlacesOf } from '@tender-lasso/core/evaluation'
import type { Box } from '@tender-lasso/core/geometry'
import { edgeSpread, RAMP_PER_SIGMA } from '@tender-lasso/core/measures'
import { NOTHING_SELECTED, shownSoftness, useShot, type ShotInfo } from '../store'
import { measureSoftness, takeOverSoftness } from './softness'

const plate = vi.hoisted(() => ({ image: (_frame: number, _box: Box): unknown => null }))
const edits = vi.hoisted(() => ({ made: [] as { label: string; patches: Patch[] }[] }))
vi.mock('../media', () => ({
  isRead: () => true,
  AnalysisTiles: class {
    image = (frame: number, box: Box) => Promise.resolve().then(() => plate.image(frame, box))
  },
}))
vi.mock('../session', () => ({
  wordsOf: (error: unknown) => (error as Error).message,
  edit: (label: string, patches: Patch[]) => {
    edits.made.push({ label, patches })
    return true
  },
}))

const SIGMA = 1.7
const shape = testShape('outline', 'coat', [1001], 16, 60)
const document = documentOf([testShot, testSubject, testPart('coat'), shape])
const info = { id: 'shot', width: 1280, height: 720, firstFrame: 1001, lastFrame: 1072, colourEncoding: 'linear' } as ShotInfo // prettier-ignore

/** A light disc where the shape is, as soft as that. */
function disc(_frame: number, { left, top, right, bottom }: Box) {
  const places = edgePlacesOf(document, shape, 1001, 4)
  const [x, y] = [places.reduce((sum, p) => sum + p.x, 0) / places.length, places.reduce((sum, p) => sum + p.y, 0) / places.length] // prettier-ignore
  const radius = Math.hypot(places[0]!.x - x, places[0]!.y - y)
  const [width, height] = [right - left, bottom - top]
  const data = Float32Array.from({ length: width * height }, (_, i) => {
    const away = Math.hypot(left + (i % width) + 0.5 - x, top + Math.floor(i / width) + 0.5 - y)
    return 0.8 - 0.6 * edgeSpread(away - radius, Math.hypot(SIGMA, 1 / Math.sqrt(12)), 0)[0]
  })
  return { left, top, width, height, data }
}

const words = () => useShot.getState().message?.words

beforeEach(() => {
  edits.made = []
  plate.image = disc
  useShot.setState({ document, shown: document, info, frame: 1001, range: null, message: null, softness: null, selection: { ...NOTHING_SELECTED, partId: 'coat', shapeIds: ['outline'] } }) // prettier-ignore
})

describe('softness from the plate', () => {
  it('is measured and shown, and changes nothing until it is taken over', async () => {
    await measureSoftness()
    const report = shownSoftness(useShot.getState())!
    expect(Math.abs(report.softness!.sigma - SIGMA)).toBeLessThan(0.1)
    expect(edits.made).toEqual([])
    takeOverSoftness()
    const { edge } = edgeOn(findObject(withPatches(document, edits.made[0]!.patches), 'shape', 'outline')!, 1001)
    expect(Math.abs(edge.innerFeather + edge.outerFeather - RAMP_PER_SIGMA * SIGMA)).toBeLessThan(0.1 * RAMP_PER_SIGMA)
    expect(useShot.getState().softness).toBeNull()
  })

  it('says so where the plate cannot be read, where no edge is clear, and of strokes', async () => {
    plate.image = () => {
      throw new Error('out of reach')
    }
    await measureSoftness()
    expect(words()).toBe('The plate could not be read: out of reach')
    plate.image = (frame, box) => {
      const image = disc(frame, box)
      return { ...image, data: image.data.fill(0.5) }
    }
    await measureSoftness()
    expect(words()).toMatch(/^No clear edge among \d+ places/)
    takeOverSoftness()
    expect(edits.made).toEqual([])
    const open = documentOf([testShot, testSubject, testPart('coat'), { ...shape, isClosed: false }])
    useShot.setState({ document: open, shown: open })
    await measureSoftness()
    expect(words()).toContain('not along strokes')
    useShot.setState({ selection: NOTHING_SELECTED })
    await measureSoftness()
    expect(words()).toContain('Select a shape')
  })

  it('is given up when the frame changes meanwhile, and of an older asking nothing is shown', async () => {
    const first = measureSoftness()
    useShot.setState({ frame: 1002 })
    await first
    expect(useShot.getState().softness).toBeNull()
    useShot.setState({ frame: 1001 })
    const [older, newer] = [measureSoftness(), measureSoftness()]
    await older
    expect(useShot.getState().softness).toBeNull()
    await newer
    expect(shownSoftness(useShot.getState())).not.toBeNull()
    useShot.setState({ frame: 1003 })
    expect(shownSoftness(useShot.getState())).toBeNull()
  })
})
