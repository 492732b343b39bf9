import { beforeEach, describe, expect, it, vi } from 'vitest'
import { constantChannel, findObject, POINT_STRIDE, type Patch } from '@tender-lasso/core/document'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  withPatches,
} from '@tender-lasso/core/document/testDocuments'
import {
  edgeOn,
  edgePlacesOf,
  edgeBars,
  hasPointWidths,
  partShutter,
  pointFocusAt,
  shotShutter,
} from '@tender-lasso/core/evaluation'
import type { Box } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'
import { edgeSpread, RAMP_PER_SIGMA, type EdgePlace } from '@tender-lasso/core/measures'
import { NOTHING_SELECTED, shownShutter, shownSoftness, useShot, type ShotInfo } from '../store'
import { endShotWork } from '../session/shotWork'
import { stopMeasuring } from './edgeMeasuring'
import { findShutterOnPlate, takeOverShutter } from './plateShutter'
import { measureSoftness, takeOverSoftness, takeOverSoftnessAtPoints } from './softness'

const plate = vi.hoisted(() => ({ image: (_frame: number, _box: Box): unknown => null, dies: false }))
const edits = vi.hoisted(() => ({ made: [] as { label: string; patches: Patch[] }[] }))
/** The helper that looks at pictures, in this thread. */
vi.mock('./trackWorkers', async () => {
  const { boxAround, movingEdgeAt, softnessAlong } = await import('@tender-lasso/core/measures')
  const seen = async (frame: number, places: EdgePlace[]) => {
    if (plate.dies) throw new Error('The helper that looks at pictures ended')
    return (await plate.image(frame, boxAround(places))) as LumaImage
  }
  const worker = {
    softness: async (_plate: unknown, frame: number, places: EdgePlace[]) => {
      if (places.length === 0) return []
      const image = await seen(frame, places)
      return softnessAlong([image], places)
    },
    movingEdges: async (_plate: unknown, frame: number, places: EdgePlace[]) => {
      if (places.length === 0) return []
      const image = await seen(frame, places)
      return places.flatMap((place) => movingEdgeAt([image], place) ?? [])
    },
  }
  return { plateOf: (info: unknown) => info, trackWorkers: () => [worker, worker] }
})
vi.mock('../session', async () => ({
  ...(await import('../session/shotWork')),
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
const disc = (frame: number, box: Box) => discOf(SIGMA)(frame, box)

const places = edgePlacesOf(document, shape, 1001, 4)
const middle = (axis: 'x' | 'y') => places.reduce((sum, place) => sum + place[axis], 0) / places.length
const [x, y] = [middle('x'), middle('y')]
const radius = Math.hypot(places[0]!.x - x, places[0]!.y - y)

const discOf =
  (sigma: number) =>
  (_frame: number, { left, top, right, bottom }: Box, moved = 0) => {
    const spread = Math.hypot(sigma, 1 / Math.sqrt(12))
    const [width, height] = [right - left, bottom - top]
    const data = new Float32Array(width * height)
    for (let i = 0; i < data.length; i++) {
      const away = Math.hypot(left + (i % width) + 0.5 - x - moved, top + Math.floor(i / width) + 0.5 - y) - radius
      // Eight sigmas away there is nothing left of the edge.
      const share = Math.abs(away) > 8 * spread ? Number(away > 0) : edgeSpread(away, spread, 0)[0]
      data[i] = 0.8 - 0.6 * share
    }
    return { left, top, width, height, data }
  }

const words = () => useShot.getState().message?.words

beforeEach(() => {
  edits.made = []
  plate.image = disc
  plate.dies = false
  useShot.setState({ document, shown: document, info, frame: 1001, range: null, message: null, softness: null, selection: { ...NOTHING_SELECTED, partId: 'coat', shapeIds: ['outline'] } }) // prettier-ignore
})

describe('softness from the plate', () => {
  it('is measured and shown, and changes nothing until it is taken over', async () => {
    await measureSoftness()
    const report = shownSoftness(useShot.getState())!
    expect(Math.abs(report.frames[0]!.softness!.sigma - SIGMA)).toBeLessThan(0.1)
    expect(edits.made).toEqual([])
    takeOverSoftness('feather')
    const { edge } = edgeOn(findObject(withPatches(document, edits.made[0]!.patches), 'shape', 'outline')!, 1001)
    expect(Math.abs(edge.innerFeather + edge.outerFeather - RAMP_PER_SIGMA * SIGMA)).toBeLessThan(0.1 * RAMP_PER_SIGMA)
    expect(useShot.getState().softness).toBeNull()
  })

  it('taken over as focus blur it is the sigma, grown to where the edge lies, and the feather goes', async () => {
    const soft = { ...shape, channels: { ...shape.channels, outerFeather: constantChannel(9) } }
    const feathered = documentOf([testShot, testSubject, testPart('coat'), soft])
    useShot.setState({ document: feathered, shown: feathered })
    await measureSoftness()
    takeOverSoftness('focus')
    const after = findObject(withPatches(feathered, edits.made[0]!.patches), 'shape', 'outline')!
    const { edge, focus } = edgeOn(after, 1001)
    expect(Math.abs(focus - SIGMA)).toBeLessThan(0.1)
    // The outline is no true circle, as the disc is.
    expect(Math.abs(edge.grow)).toBeLessThan(0.3)
    expect([edge.innerFeather, edge.outerFeather]).toEqual([0, 0])
    // And back again: then it is the focus blur that goes.
    useShot.setState({ document: documentOf([testShot, testSubject, testPart('coat'), after]) })
    await measureSoftness()
    takeOverSoftness('feather')
    const back = edgeOn(findObject(withPatches(useShot.getState().document, edits.made[1]!.patches), 'shape', 'outline')!, 1001) // prettier-ignore
    expect(back.focus).toBe(0)
    expect(back.edge.outerFeather).toBeGreaterThan(2)
  })

  it('taken over as focus blur of points it is what each has', async () => {
    await measureSoftness()
    takeOverSoftnessAtPoints('focus')
    const after = findObject(withPatches(document, edits.made[0]!.patches), 'shape', 'outline')!
    expect(hasPointWidths(after)).toBe(false)
    for (const sigma of pointFocusAt(after, 1001, 0)) expect(Math.abs(sigma - SIGMA)).toBeLessThan(0.17)
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
    takeOverSoftness('feather')
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
    // What was asked first is answered last, and without any edge.
    let isFirst = true
    plate.image = async (frame: number, box: Box) => {
      const image = disc(frame, box)
      if (!isFirst) return image
      isFirst = false
      await new Promise((resolve) => setTimeout(resolve, 50))
      return { ...image, data: image.data.fill(0.5) }
    }
    await Promise.all([measureSoftness(), measureSoftness()])
    expect(useShot.getState().softness!.frames[0]!.softness).not.toBeNull()
    expect(shownSoftness(useShot.getState())).not.toBeNull()
    useShot.setState({ frame: 1003 })
    expect(shownSoftness(useShot.getState())).toBeNull()
  })
})

/** A disc that becomes softer from frame to frame: sigma 1 on 1001, 3 on 1021. */
const focusing = (frame: number, box: Box) => discOf(1 + (frame - 1001) / 10)(frame, box)

describe('softness over several frames', () => {
  const twoKeys = { ...shape, channels: { outline: { keys: [1001, 1021].map((time) => ({ ...shape.channels.outline.keys[0]!, time })) } } } // prettier-ignore
  const keyed = documentOf([testShot, testSubject, testPart('coat'), twoKeys])
  const after = () => findObject(withPatches(keyed, edits.made.at(-1)!.patches), 'shape', 'outline')!
  const widthOn = (frame: number) => {
    const { edge } = edgeOn(after(), frame)
    return edge.innerFeather + edge.outerFeather
  }
  beforeEach(() => {
    plate.image = focusing
    useShot.setState({ document: keyed, shown: keyed })
  })

  it('on the frames of the keys becomes keys of the feather there', async () => {
    await measureSoftness('keys')
    const { frames } = shownSoftness(useShot.getState())!
    expect(frames.map(({ frame }) => frame)).toEqual([1001, 1021])
    takeOverSoftness('feather')
    expect(after().channels.outerFeather!.keys.map(({ time }) => time)).toEqual([1001, 1021])
    for (const [frame, sigma] of [[1001, 1], [1021, 3]] as const) {
      expect(Math.abs(widthOn(frame) - RAMP_PER_SIGMA * sigma)).toBeLessThan(0.1 * RAMP_PER_SIGMA * sigma)
    } // prettier-ignore
  })

  it('over the marked stretch becomes as few keys as say it, and one frame is not all that is shown', async () => {
    useShot.setState({ range: [1001, 1021] })
    await measureSoftness('range')
    expect(useShot.getState().measuring).toBeNull()
    expect(useShot.getState().softness!.frames).toHaveLength(21)
    useShot.setState({ frame: 1013 })
    expect(shownSoftness(useShot.getState())).not.toBeNull()
    takeOverSoftness('feather')
    // It runs straight: the two ends, and perhaps one more for the noise of the measure.
    expect(after().channels.outerFeather!.keys.length).toBeLessThanOrEqual(4)
    for (const frame of [1001, 1008, 1014, 1021]) {
      const sigma = 1 + (frame - 1001) / 10
      expect(Math.abs(widthOn(frame) - RAMP_PER_SIGMA * sigma)).toBeLessThan(0.12 * RAMP_PER_SIGMA * sigma + 0.4)
    }
  })

  it('point by point keys the outline, and with points selected only these', async () => {
    await measureSoftness('here')
    takeOverSoftnessAtPoints('feather')
    const bars = edgeBars(withPatches(keyed, edits.made.at(-1)!.patches), after(), 1001, 'feather')
    for (const { inner, outer } of bars) expect(Math.abs(inner + outer - RAMP_PER_SIGMA)).toBeLessThan(0.15 * RAMP_PER_SIGMA) // prettier-ignore
    const pointIds = new Set([shape.pointIds[3]!, shape.pointIds[4]!])
    useShot.setState({ selection: { ...NOTHING_SELECTED, partId: 'coat', shapeIds: ['outline'], pointIds } })
    await measureSoftness('here')
    takeOverSoftnessAtPoints('feather')
    const some = edgeBars(withPatches(keyed, edits.made.at(-1)!.patches), after(), 1001, 'feather')
    expect(some.filter(({ outer }) => outer > 0).map(({ pointId }) => pointId)).toEqual([...pointIds])
  })

  it('taken over as one feather it clears what points had of their own', async () => {
    await measureSoftness('here')
    takeOverSoftnessAtPoints('feather')
    const varied = withPatches(keyed, edits.made.at(-1)!.patches)
    useShot.setState({ document: varied, shown: varied })
    await measureSoftness('here')
    takeOverSoftness('feather')
    const even = findObject(withPatches(varied, edits.made.at(-1)!.patches), 'shape', 'outline')!
    expect(hasPointWidths(findObject(varied, 'shape', 'outline')!)).toBe(true)
    expect(hasPointWidths(even)).toBe(false)
  })

  it('a helper that dies is said, and nothing goes on', async () => {
    plate.dies = true
    await measureSoftness('keys')
    expect(words()).toContain('The helper that looks at pictures ended')
    expect(useShot.getState()).toMatchObject({ measuring: null, softness: null })
  })

  it('asked anew while it runs, the older one ends without a trace of the newer', async () => {
    useShot.setState({ range: [1001, 1006] })
    const older = measureSoftness('keys')
    const newer = measureSoftness('range')
    await older
    const { measuring, softness } = useShot.getState()
    // Either the newer one is still under way, or it is done and shown.
    expect(measuring === null ? softness!.frames.length : measuring.all).toBeGreaterThan(2)
    await newer
    expect(useShot.getState().softness!.frames.length).toBeGreaterThan(2)
    expect(useShot.getState().measuring).toBeNull()
  })

  it('stopped, it shows nothing', async () => {
    const under = measureSoftness('keys')
    expect(useShot.getState().measuring).toMatchObject({ what: 'softness', all: 2 })
    stopMeasuring()
    await under
    expect(useShot.getState()).toMatchObject({ measuring: null, softness: null })
  })

  it('left with its shot, it is over: the next one hears nothing of it', async () => {
    const under = measureSoftness('keys')
    endShotWork()
    await under
    expect(useShot.getState()).toMatchObject({ measuring: null, softness: null, message: null })
  })
})

describe('the shutter of the plate', () => {
  /** Goes 12 px to the right a frame. */
  const still = shape.channels.outline.keys[0]!
  const on = (frame: number) => ({ ...still, time: frame, interpolation: 'linear' as const, values: still.values.map((v, i) => (i % POINT_STRIDE === 0 ? v + 12 * (frame - 1001) : v)) }) // prettier-ignore
  const running = { ...shape, channels: { outline: { keys: [on(1001), on(1011)] } } }
  const moving = documentOf([testShot, testSubject, testPart('coat'), running])
  /** The disc as it is seen while a shutter of so many degrees is open. */
  const seenWith = (degrees: number) => (frame: number, box: Box) => {
    const steps = 32
    const pictures = Array.from({ length: steps }, (_, k) => {
      const x = 12 * (frame - 1001 + (((k + 0.5) / steps - 0.5) * degrees) / 360)
      return discOf(0.8)(frame, box, x)
    })
    const data = new Float32Array(pictures[0]!.data.length)
    for (const picture of pictures) for (let i = 0; i < data.length; i++) data[i]! += picture.data[i]! / steps
    return { ...pictures[0]!, data }
  }
  beforeEach(() => useShot.setState({ document: moving, shown: moving, range: [1003, 1008], shutterFound: null }))

  it.each([90, 270])('of %d degrees is found, shown, and taken over by the shot or the Part', async (degrees) => {
    plate.image = seenWith(degrees)
    await findShutterOnPlate()
    const { estimate } = shownShutter(useShot.getState())!
    expect(Math.abs(estimate.angle - degrees)).toBeLessThan(15)
    takeOverShutter('parts')
    const own = findObject(withPatches(moving, edits.made.at(-1)!.patches), 'part', 'coat')!
    expect(own.hasOwnShutter).toBe(true)
    expect(partShutter(moving, own, 1003).angle).toBe(Math.round(estimate.angle))
    useShot.setState({ shutterFound: { partIds: ['coat'], estimate, votes: [] } })
    takeOverShutter('shot')
    const shot = shotShutter(withPatches(moving, edits.made.at(-1)!.patches), 1003)
    expect(shot).toEqual({ angle: Math.round(estimate.angle), phase: -Math.round(estimate.angle) / 2 })
    expect(useShot.getState().shutterFound).toBeNull()
  })

  it('is not told where nothing moves', async () => {
    useShot.setState({ document, shown: document })
    await findShutterOnPlate()
    expect(words()).toContain('Too few fast and clear edges')
    const empty = documentOf([testShot, testSubject, testPart('coat')])
    useShot.setState({ document: empty, shown: empty })
    await findShutterOnPlate()
    expect(words()).toContain('Draw or select shapes')
  })
})
