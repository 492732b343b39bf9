import { beforeAll, describe, expect, it } from 'vitest'
import {
  constantChannel,
  findObject,
  type Channel,
  type Channels,
  type RotoDocument,
} from '@tender-lasso/core/document'
import { edgePlacesOf } from '@tender-lasso/core/evaluation'
import { estimateShutter, movingEdgeAt, softnessAlong, softnessAtPoints, softnessOf } from '@tender-lasso/core/measures'
import { median } from '@tender-lasso/core/robust'
import { PIECE_IDS } from '../demo/figure'
import { inBetweenError, taken, trueDocument, trueSigma, type TakenFrame } from './demoEdges'

/** Plate pixels from one place to the next, as the interface has it. */
const SPACING = 6
/** Pieces with edges that are long enough to tell, nearest first. */
const PIECES = ['post', 'signboard', 'hat', 'scarf', 'head', 'coat']

const shapeOf = (document: RotoDocument, id: string) => findObject(document, 'shape', id)!
const measuresOf = (one: TakenFrame, document: RotoDocument, id: string) =>
  softnessAlong(one.channels, edgePlacesOf(document, shapeOf(document, id), one.frame, SPACING))
const bare = (frame: number) => trueDocument([frame], () => ({}))

describe('softness of the demonstration, against what it was rendered with', () => {
  let usual: TakenFrame[]
  beforeAll(() => void (usual = [1001, 1031].map((frame) => taken('usual', frame))), 120_000)

  it('is that of the shape to a quarter of a pixel or 12 %', () => {
    for (const one of usual) {
      for (const id of PIECES) {
        const found = softnessOf(measuresOf(one, bare(one.frame), id))!
        const truth = trueSigma(one, id)
        expect(Math.abs(found.sigma - truth), `${id} on ${one.frame}: ${found.sigma}`).toBeLessThanOrEqual(Math.max(0.25, 0.12 * truth) + 1e-3) // prettier-ignore
      }
    }
  }, 120_000)

  it('is that of points that are called clear, in the middle to a quarter of a pixel or 12 %; hidden ones are not', () => {
    const errors: number[] = []
    for (const one of usual) {
      const document = bare(one.frame)
      for (const id of PIECES) {
        const shape = shapeOf(document, id)
        const places = edgePlacesOf(document, shape, one.frame, SPACING)
        const truth = trueSigma(one, id)
        // What stands in front of a place covers it.
        const front = PIECE_IDS.slice(0, PIECE_IDS.indexOf(id)).map((nearer) => one.alphaOf(nearer))
        for (const { x, y } of places) for (const alpha of front) expect(alpha[Math.floor(y) * 1280 + Math.floor(x)] ?? 0).toBeLessThan(0.5) // prettier-ignore
        const points = softnessAtPoints(softnessAlong(one.channels, places), shape.pointIds.length) ?? []
        for (const { sigma, isClear } of points) if (isClear) errors.push(Math.abs(sigma - truth) / Math.max(0.25, 0.12 * truth)) // prettier-ignore
      }
    }
    expect(errors.length).toBeGreaterThan(20)
    expect(median(errors)).toBeLessThan(1)
  }, 120_000)
})

describe('a pull of focus', () => {
  it('measured on four frames is followed by the matte of the post and of the head: in-between pixels to 0.02', () => {
    const frames = [1003, 1009, 1015, 1022].map((frame) => taken('focusPull', frame))
    for (const id of ['post', 'head']) {
      const keys: Channel['keys'] = frames.map((one) => ({
        time: one.frame,
        interpolation: 'smooth',
        values: Float64Array.of(softnessOf(measuresOf(one, bare(one.frame), id))!.sigma),
      }))
      const document = trueDocument(frames.map(({ frame }) => frame), (other): Channels => (other === id ? { focus: { keys } } : {})) // prettier-ignore
      for (const one of frames) {
        expect(inBetweenError(document, one, id), `${id} on ${one.frame}`).toBeLessThan(0.02)
        // It counts: sharp it is far off wherever the truth is soft.
        if (trueSigma(one, id) > 1) expect(inBetweenError(bare(one.frame), one, id)).toBeGreaterThan(0.06)
      }
    }
  }, 180_000)

  it('with the true softness the mattes of all pieces are right to 0.01', () => {
    const one = taken('focusPull', 1009)
    for (const id of [...PIECES, 'near-arm']) {
      const document = trueDocument([1009], (other): Channels => (other === id ? { focus: constantChannel(trueSigma(one, id)) } : {})) // prettier-ignore
      expect(inBetweenError(document, one, id), id).toBeLessThan(0.01)
    }
  }, 180_000)
})

describe('the shutter of the demonstration', () => {
  it.each([
    ['usual', 180],
    ['shutter90', 90],
    ['shutter270', 270],
  ] as const)(
    '%s is found to 15 degrees',
    (optics, degrees) => {
      const edges = [1012, 1023, 1038].flatMap((frame) => {
        const { channels } = taken(optics, frame)
        const document = trueDocument([frame], () => ({}), 360)
        return PIECES.flatMap((id) => edgePlacesOf(document, shapeOf(document, id), frame, SPACING)).flatMap((place) => movingEdgeAt(channels, place) ?? []) // prettier-ignore
      })
      const found = estimateShutter(edges)!
      expect(Math.abs(found.angle - degrees), `${found.angle} of ${found.votes.length} votes`).toBeLessThan(15)
    },
    120_000,
  )
})
