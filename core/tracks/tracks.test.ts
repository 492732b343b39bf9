import { describe, expect, it } from 'vitest'
import { applyToPoint, homographyOf, identity, invert, multiply, translation, type Matrix3 } from '../geometry'
import { centreAt, FULL_STRENGTH, sampledMatrix } from '../motion'
import {
  BLOCK_FRAMES,
  DEFAULT_PREPROCESSING,
  applyBatch,
  decodeObject,
  encodeObject,
  findObject,
  isConflict,
  objectSchema,
  patchesTakenBack,
  batchFromJson,
  liftedObject,
  sameValue,
  type RotoDocument,
  type LeaveOut,
  type Track,
  channelOf,
  leaveOutChannel,
} from '../document'
import {
  bridgedByTrack,
  bridgeMade,
  fieldSet,
  gapAround,
  isCombinationStale,
  keysDeleted,
  keysMoved,
  leaveOutAdded,
  leaveOutRemoved,
  leaveOutShaped,
  valuesKeyed,
  patternSet,
  rangeCleared,
  sampleNudged,
  tracksCombined,
} from '../edits'
import {
  followedMatrix,
  frameState,
  motionSamplesOf,
  patchesForSamples,
  rawSamplesOf,
  sampleAt,
  unmeasuredSample,
} from '../evaluation'
import { hidingOutlinesOn, isSampleStale, patternFor, trackOutlinesOn, trackStamp } from './trackPattern'
import { trackPlans } from './trackPlan'
import type { TrackRun } from '../tracking'
import {
  documentOf,
  testBatch,
  testPart,
  testShape,
  testShot,
  testSubject,
  testTrack,
  withPatches,
} from '../document/testDocuments'

const motionAt = (frame: number): Matrix3 =>
  homographyOf([300 + 4 * (frame - 1001), 200 - (frame - 1001), 0.01 * (frame - 1001), 0, 0, 0, 0, 0], 300, 200)

const board = (document: RotoDocument) => findObject(document, 'track', 'board')!

/** The board, tracked on 1001 .. 1060, doubtful from 1050 on. */
const start = (() => {
  const document = documentOf([testShot, testSubject, testPart('coat'), testShape('outline', 'coat', [1001, 1030]), testTrack('board')]) // prettier-ignore
  const samples = Array.from({ length: 60 }, (_, i) => ({
    ...unmeasuredSample(1001 + i, 'tracked', i === 0 ? identity() : motionAt(1001 + i)),
    match: i < 49 ? 0.99 : 0.75,
    patternFrame: 1001,
    stamp: trackStamp(document, testTrack('board'), 1001 + i),
  }))
  return withPatches(document, patchesForSamples(testTrack('board'), samples))
})()

describe('tracks stored before', () => {
  it('are lifted: one region becomes the outlines, blocks of 12 numbers a frame become wider', () => {
    const { outlines, ...rest } = testTrack('old')
    const { kind, id, name, model, order, referenceFrame, minimumMatch, pivot } = rest
    const old = { kind, id, name, model, order, referenceFrame, minimumMatch, pivot }
    const values = Array.from({ length: BLOCK_FRAMES * 12 }, (_, i) => (i % 12 === 0 ? 1 : i))
    const stored = { ...old, region: Array.from(outlines[0]!), leaveOut: [], blocks: [{ index: 31, values }] }
    const lifted = objectSchema.parse(liftedObject(stored, 2)) as Track
    expect(lifted).toMatchObject({ outlines, references: [], bridges: [], surface: 'plane' })
    const sample = sampleAt(lifted, 31 * BLOCK_FRAMES + 5)!
    expect(Array.from(sample.matrix)).toEqual(values.slice(61, 70))
    expect([sample.match, sample.kept, sample.stamp]).toEqual([values[70], values[71], 0])
    // A log entry written then still fits what it was written about.
    const patch = { kind: 'block', id: 'old', index: 31, before: values, after: null }
    const batch = batchFromJson({ ...testBatch([]), schemaVersion: 2, patches: [patch] })
    expect(isConflict(applyBatch(documentOf([lifted]), batch))).toBe(false)
    expect(sameValue(decodeObject(encodeObject(lifted)), lifted)).toBe(true)
  })
})

describe('repair', () => {
  it('a Bridge takes away what lay between, and undo brings it back', () => {
    const bridged = withPatches(start, bridgeMade(board(start), 1010, 1020))
    expect(frameState(board(bridged), 1015)).toBe('bridged')
    expect(sampleAt(board(bridged), 1015)).toBeNull()
    const [a, b] = [centreAt(motionSamplesOf(board(bridged)), 1015)!, applyToPoint(motionAt(1015), 300, 200)]
    expect(Math.hypot(a[0] - b[0]!, a[1] - b[1]!)).toBeLessThan(1e-6)
    const patches = bridgeMade(board(start), 1010, 1020)
    const back = withPatches(bridged, patchesTakenBack(testBatch(patches)))
    expect(sameValue(board(back), board(start))).toBe(true)
    expect(gapAround(board(withPatches(start, rangeCleared(board(start), 1011, 1019))), 1014)).toEqual([1010, 1020])
    expect(gapAround(board(start), 1070)).toBeNull()
  })

  it("another track's motion fills a gap and meets both ends", () => {
    const gap = board(withPatches(start, rangeCleared(board(start), 1011, 1019)))
    // It follows another place, and slides by 0.3 px a frame against the board.
    const other = { ...motionSamplesOf(board(start)), pivot: [500, 300] as const }
    const sliding = { ...other, matrices: other.matrices.slice() }
    for (let i = 0; i < other.present.length; i++) {
      const moved = multiply(translation(0.3 * i, 0), other.matrices.subarray(i * 9, i * 9 + 9))
      sliding.matrices.set(moved, i * 9)
    }
    const filled = withPatches(documentOf([testShot, gap]), bridgedByTrack(gap, sliding, 1010, 1020))
    for (let frame = 1011; frame < 1020; frame++) {
      expect(frameState(board(filled), frame)).toBe('bridged')
      const [a, b] = [centreAt(motionSamplesOf(board(filled)), frame)!, applyToPoint(motionAt(frame), 300, 200)]
      expect(Math.hypot(a[0] - b[0]!, a[1] - b[1]!)).toBeLessThan(0.02)
    }
  })

  it('a nudge places the frame by hand, beyond the last sample as well', () => {
    const nudged = board(withPatches(start, sampleNudged(board(start), 1020, 2, -1)))
    expect(frameState(nudged, 1020)).toBe('placed')
    const expected = multiply(translation(2, -1), motionAt(1020))
    expect(Array.from(followedMatrix(nudged, 1020)!)).toEqual(Array.from(expected))
    expect(frameState(board(withPatches(start, sampleNudged(board(start), 1065, 1, 0))), 1065)).toBe('placed')
  })

  it('Offset and smoothing change what is reported, never what is stored', () => {
    const offset = (of: RotoDocument) => channelOf(board(of), 'offset')
    let document = withPatches(start, valuesKeyed(offset(start), 1001, Float64Array.of(10, 0)))
    document = withPatches(document, valuesKeyed(offset(document), 1011, Float64Array.of(20, 5)))
    const [x, y] = centreAt(motionSamplesOf(board(document)), 1006)!
    const [u, v] = applyToPoint(motionAt(1006), 300, 200)
    expect([x - u!, y - v!]).toEqual([expect.closeTo(15, 9), expect.closeTo(2.5, 9)])
    const smoothing = { method: 'spline' as const, position: 4, rotation: 4, scale: 4, perspective: 0, range: null }
    document = withPatches(document, [fieldSet(board(document), 'smoothing', smoothing)])
    expect(rawSamplesOf(board(document))).toEqual(rawSamplesOf(board(start)))
    const back = withPatches(document, [
      fieldSet(board(document), 'smoothing', null),
      ...keysDeleted(
        document,
        [1001, 1011].map((time) => ({ id: 'board', channel: 'offset', time })),
      ),
    ])
    expect(sameValue(board(back), board(start))).toBe(true)
  })

  it('states tell what was seen, doubtful, placed and missing', () => {
    expect([1001, 1049, 1050, 1060, 1061].map((frame) => frameState(board(start), frame))).toEqual(
      ['tracked', 'tracked', 'doubtful', 'doubtful', 'missing'], // prettier-ignore
    )
  })
})

describe('patterns', () => {
  it('one given on a later frame counts from there on and leaves what is before', () => {
    const other = Float64Array.of(500, 300, 560, 300, 560, 360)
    const document = withPatches(start, patternSet(board(start), 1020, [other])!)
    const track = board(document)
    expect(patternFor(track, 1019).frame).toBe(1001)
    expect(patternFor(track, 1020).frame).toBe(1020)
    expect(patternFor(track, 990).frame).toBe(1001)
    expect(trackOutlinesOn(track, 1020)).toEqual([other])
    for (const [frame, isStale] of [[1010, false], [1030, true]] as const) {
      expect(trackStamp(document, track, frame) !== sampleAt(track, frame)!.stamp).toBe(isStale)
    } // prettier-ignore
    expect(patternSet(board(start), 1065, [other])).toBeNull()
  })

  it('a Part in front and drawn outlines hide the surface, frame by frame, and stale only where they change', () => {
    let document = withPatches(start, leaveOutAdded(board(start), Float64Array.of(0, 0, 10, 0, 10, 10), 1010))
    const [moving] = board(document).leaveOut as [Extract<LeaveOut, { kind: 'outline' }>]
    document = withPatches(
      document,
      leaveOutShaped(board(document), moving, 1020, Float64Array.of(20, 0, 30, 0, 30, 10)),
    )
    document = withPatches(document, [
      fieldSet(board(document), 'leaveOut', [moving, { kind: 'part', partId: 'coat' }]),
    ])
    const [drawn, ...part] = hidingOutlinesOn(document, board(document), 1015)
    expect(Array.from(drawn!)).toEqual([10, 0, 20, 0, 20, 10])
    expect(part.length).toBe(5)
    const second = { id: 'board', channel: leaveOutChannel(moving.id), time: 1020 }
    const changed = withPatches(
      document,
      keysMoved(document, [second], () => 1030),
    )
    const stamps = (d: RotoDocument) => [1005, 1025].map((frame) => trackStamp(d, board(d), frame))
    expect(stamps(changed)[0]).toBe(stamps(document)[0])
    expect(stamps(changed)[1]).not.toBe(stamps(document)[1])
    // Of its keys one stays, and the leave-out goes with all of them.
    const { channel } = second
    const both = [1010, 1020].map((time) => ({ id: 'board', channel, time }))
    const fewer = withPatches(document, keysDeleted(document, both))
    expect(channelOf(board(fewer), channel).keys.map(({ time }) => time)).toEqual([1010])
    expect(board(withPatches(fewer, leaveOutRemoved(board(fewer), 0))).channels).toEqual({})
  })

  it('a Part in front that the track itself carries leaves its frames current, however they come out', () => {
    const mover = (trackId: string) => ({ trackId, referenceFrame: 1001, base: identity(), strength: FULL_STRENGTH })
    const leaving = (id: string, partId: string): Track => ({ ...testTrack(id), leaveOut: [{ kind: 'part', partId }] })
    /** The sleeve rides on the coat, which the board's track moves; the tracks of two boards can leave each other's out. */
    const riding = (...tracks: Track[]) =>
      documentOf([
        testShot,
        testSubject,
        testPart('coat', { mover: mover('board') }),
        testPart('sleeve', { parentId: 'coat' }),
        testPart('hat', { mover: mover('sign') }),
        ...['coat', 'sleeve', 'hat'].map((part) => testShape(`${part}-outline`, part, [1001, 1030])),
        ...tracks,
      ])
    const tracked = (document: RotoDocument, id: string, by: number) =>
      withPatches(
        document,
        patchesForSamples(
          findObject(document, 'track', id)!,
          [1001, 1002, 1003].map((frame) => ({
            ...unmeasuredSample(frame, 'tracked', translation((frame - 1001) * by, 2 * (frame - 1001) * by)),
            stamp: trackStamp(document, findObject(document, 'track', id)!, frame),
          })),
        ),
      )
    const stale = (document: RotoDocument, id: string) =>
      [1002, 1003].filter((frame) => isSampleStale(document, findObject(document, 'track', id)!, frame))

    const one = tracked(riding(leaving('board', 'sleeve'), testTrack('sign')), 'board', 3)
    expect(stale(one, 'board')).toEqual([])
    // What the sleeve does by itself is still seen.
    const sleeve = findObject(one, 'part', 'sleeve')!
    const waved = withPatches(one, [fieldSet(sleeve, 'life', [1001, 1002])])
    expect(stale(waved, 'board')).toEqual([1003])

    // Round by two tracks: each leaves out what the other moves, and both come to rest.
    const loop = riding(leaving('board', 'hat'), leaving('sign', 'sleeve'))
    const both = tracked(tracked(loop, 'board', 3), 'sign', 5)
    expect([stale(both, 'board'), stale(both, 'sign')]).toEqual([[], []])
    // One that is not in a loop still makes the other stale.
    const apart = riding(leaving('board', 'hat'), testTrack('sign'))
    const later = tracked(tracked(apart, 'board', 3), 'sign', 5)
    expect(stale(later, 'board')).toEqual([1002, 1003])
  })

  const stepsOf = (plans: readonly TrackRun[]) => plans.map(({ steps }) => steps.map(({ frame }) => frame))
  const frames = (from: number, to: number) =>
    Array.from({ length: Math.abs(to - from) + 1 }, (_, i) => from + Math.sign(to - from) * i)
  const range = [1001, 1072] as const

  it('a plan goes on behind the last frame, or behind the last good one, with the pattern that counts there', () => {
    const [plan] = trackPlans(start, board(start), { way: 'forward', range })
    expect(plan!.steps.map((step) => step.frame)).toEqual(frames(1061, 1072))
    expect(plan!.known.map((k) => k.frame)).toEqual([1060, 1059])
    const good = trackPlans(start, board(start), { way: 'forward', range, from: 'last-good', mostFrames: 2 })
    expect(stepsOf(good)).toEqual([[1050, 1051]])
    // Placed beyond a gap: from there on both ways, up to what is known.
    const placed = board(withPatches(start, sampleNudged(board(start), 1066, 1, 0)))
    const from = (way: 'forward' | 'backward') => stepsOf(trackPlans(start, placed, { way, range, at: 1066 }))
    expect(from('forward')).toEqual([frames(1067, 1072)])
    expect(from('backward')).toEqual([frames(1065, 1061)])
    const every = { ...board(start), patternUpdate: { when: 'every' as const, below: 0 } }
    const document = withPatches(start, [fieldSet(board(start), 'patternUpdate', every.patternUpdate)])
    const stamped = patchesForSamples(every, [{ ...sampleAt(every, 1060)!, stamp: trackStamp(document, every, 1060) }])
    const [renewed] = trackPlans(document, board(withPatches(document, stamped)), { way: 'forward', range, at: 1060 })
    expect(renewed!.patterns.map((p) => p.frame)).toEqual([1060])
    expect(trackPlans(start, board(start), { way: 'backward', range })).toEqual([])
  })

  it.each<[string, Partial<Track>, number[][]]>([
    ['another model', { model: 'affine' }, [frames(1002, 1072)]],
    ['another look', { preprocessing: { ...DEFAULT_PREPROCESSING, blur: 2 } }, [frames(1002, 1072)]],
    ['another pattern', { outlines: [Float64Array.of(0, 0, 50, 0, 50, 50)] }, [frames(1002, 1072)]],
    ['a narrower limit', { minimumMatch: 0.9 }, [frames(1050, 1072)]],
    ['a way back that was not asked', { mostReturnError: 0.5 }, [frames(1002, 1072)]],
    ['a wider limit', { minimumMatch: 0.3 }, [frames(1061, 1072)]],
  ])('after %s a run does anew whatever is not current, and nothing else', (_, change, due) => {
    const unasked = frames(1001, 1060).map((frame) => ({ ...sampleAt(board(start), frame)!, returned: null }))
    const base = withPatches(start, patchesForSamples(board(start), unasked))
    const document = withPatches(base, Object.entries(change).map(([field, value]) => fieldSet(board(base), field as keyof Track & string, value as never))) // prettier-ignore
    expect(stepsOf(trackPlans(document, board(document), { way: 'forward', range }))).toEqual(due)
    // From a frame that is not current it begins at the reference, not there.
    if (due[0]![0] === 1002) {
      expect(stepsOf(trackPlans(document, board(document), { way: 'forward', range, at: 1040 }))).toEqual(due)
    }
  })

  it('stale frames between current ones are stretches of their own, each begun at the frame before it', () => {
    const stale = [1010, 1011, 1030].map((frame) => ({ ...sampleAt(board(start), frame)!, stamp: 7 }))
    const document = withPatches(start, patchesForSamples(board(start), stale))
    const plans = trackPlans(document, board(document), { way: 'forward', range })
    expect(stepsOf(plans)).toEqual([[1010, 1011], [1030], frames(1061, 1072)])
    expect(plans.map(({ known }) => known[0]!.frame)).toEqual([1009, 1029, 1060])
  })
})

describe('a point whose pattern is followed as it turns', () => {
  it('reports where the middles of its patterns went, and no turn, also with another pattern far from it', () => {
    const square = (x: number, y: number) => Float64Array.of(x - 8, y - 8, x + 8, y - 8, x + 8, y + 8, x - 8, y + 8)
    // Turned by 0.02 a frame about the pattern's middle, which goes by (3, 1) a frame.
    const turned = (frame: number, x: number, y: number) =>
      homographyOf([x + 3 * (frame - 1001), y + (frame - 1001), 0.02 * (frame - 1001), 0, 0, 0, 0, 0], x, y)
    const base: Track = {
      ...testTrack('p'),
      surface: 'point',
      model: 'position',
      outlines: [square(100, 80)],
      pivot: [100, 80],
    }
    const first = turned(1006, 100, 80)
    // From 1006 on another pattern, 200 px away, turns about its own middle.
    const track: Track = { ...base, references: [{ frame: 1006, outlines: [square(300, 60)], matrix: first }] }
    const samples = [1003, 1006, 1010].map((frame) => {
      const matrix =
        frame <= 1006
          ? turned(frame, 100, 80)
          : multiply(multiply(turned(frame, 300, 60), invert(turned(1006, 300, 60))), first)
      return unmeasuredSample(frame, 'tracked', matrix)
    })
    const followed = board(
      withPatches(
        documentOf([testShot, { ...track, id: 'board' }]),
        patchesForSamples({ ...track, id: 'board' }, samples),
      ),
    )
    for (const frame of [1003, 1006]) {
      expect([...sampledMatrix(motionSamplesOf(followed), frame)!]).toEqual([1, 0, 3 * (frame - 1001), 0, 1, frame - 1001, 0, 0, 1].map((v) => expect.closeTo(v, 9))) // prettier-ignore
    }
    const [, , x, , , y] = sampledMatrix(motionSamplesOf(followed), 1010)!
    const way = applyToPoint(multiply(turned(1010, 300, 60), invert(turned(1006, 300, 60))), 300, 60)
    expect([x, y]).toEqual([expect.closeTo(15 + way[0]! - 300, 9), expect.closeTo(5 + way[1]! - 60, 9)])
  })
})

describe('combining tracks of a document', () => {
  it('makes a new track, tells when it is stale, and leaves the others alone', () => {
    const twin = { ...board(start), id: 'twin', pivot: [350, 250] as [number, number] }
    const document = withPatches(start, [{ kind: 'object', id: 'twin', before: null, after: twin }])
    const { track, patches } = tracksCombined([board(document), twin], 'average', 1020, { name: 'Mean', order: 9 })
    const after = withPatches(document, patches)
    expect(track.referenceFrame).toBe(1020)
    expect(frameState(track, 1030)).toBe('combined')
    const expected = multiply(motionAt(1030), invert(motionAt(1020)))
    const [p, q] = [sampledMatrix(motionSamplesOf(track), 1030)!, expected].map((m) => applyToPoint(m, 400, 180))
    expect(Math.hypot(p![0]! - q![0]!, p![1]! - q![1]!)).toBeLessThan(1e-6)
    expect(isCombinationStale(after, track)).toBe(false)
    const moved = withPatches(after, sampleNudged(twin, 1030, 3, 0))
    expect(isCombinationStale(moved, track)).toBe(true)
    expect(sameValue(board(after), board(start))).toBe(true)
  })

  it('says what is wrong when the tracks share no frame', () => {
    const late = { ...testTrack('late'), referenceFrame: 1070 }
    const samples = [1070, 1071].map((frame) => unmeasuredSample(frame, 'tracked', identity()))
    const document = withPatches(documentOf([testShot, late]), patchesForSamples(late, samples))
    const tracks = [board(start), findObject(document, 'track', 'late')!]
    for (const how of ['average', 'join'] as const) {
      expect(() => tracksCombined(tracks, how, 1020, { name: 'x', order: 0 })).toThrow(
        expect.objectContaining({ code: 'nothing-shared' }),
      )
    }
  })
})
