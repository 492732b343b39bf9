import { beforeAll, describe, expect, it } from 'vitest'
import {
  constantChannel,
  findObject,
  type Channel,
  type Channels,
  type RotoDocument,
} from '@tender-lasso/core/document'
import { edgePlacesOf } from '@tender-lasso/core/evaluation'
import { estimateShutter, movingEdgeAt, softnessAlong, softnessAtPoints, softnessOf, type EdgeMeasure } from '@tender-lasso/core/measures' // prettier-ignore
import { median } from '@tender-lasso/core/robust'
import {
  hiddenPlaces,
  inBetweenError,
  taken,
  trulyClearPlaces,
  trueDocument,
  trueSigma,
  type TakenFrame,
} from './demoEdges'

/** Plate pixels from one place to the next, as the interface has it. */
const SPACING = 6
/** Pieces with edges that are long enough to tell, nearest first. */
const PIECES = ['post', 'signboard', 'hat', 'scarf', 'head', 'coat']

const shapeOf = (document: RotoDocument, id: string) => findObject(document, 'shape', id)!
const bare = (frame: number) => trueDocument([frame], () => ({}))
/** Places along a piece and what is measured there: several tests ask for the same. */
function measuresOf(one: TakenFrame, id: string): EdgeMeasure[] {
  const [name, document] = [`${one.optics}/${one.frame}/${id}`, bare(one.frame)]
  const found = measured.get(name) ?? softnessAlong(one.channels, edgePlacesOf(document, shapeOf(document, id), one.frame, SPACING)) // prettier-ignore
  measured.set(name, found)
  return found
}
const measured = new Map<string, EdgeMeasure[]>()

describe('softness of the demonstration, against what it was rendered with', () => {
  let usual: TakenFrame[]
  beforeAll(() => void (usual = [1001, 1031].map((frame) => taken('usual', frame))), 120_000)

  it('is that of the shape to a quarter of a pixel or 12 %', () => {
    for (const one of usual) {
      for (const id of PIECES) {
        const found = softnessOf(measuresOf(one, id))!
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
        const measures = measuresOf(one, id)
        const truth = trueSigma(one, id)
        expect(hiddenPlaces(one, id, measures.map(({ place }) => place))).toEqual([]) // prettier-ignore
        const points = softnessAtPoints(measures, shape.pointIds.length) ?? []
        for (const { sigma, isClear } of points) if (isClear) errors.push(Math.abs(sigma - truth) / Math.max(0.25, 0.12 * truth)) // prettier-ignore
      }
    }
    expect(errors.length).toBeGreaterThan(20)
    expect(median(errors)).toBeLessThan(1)
  }, 120_000)

  it('is told at 60 % of the places at least whose edge is clear in truth', () => {
    const counts = { clear: 0, told: 0 }
    for (const one of usual) {
      for (const id of PIECES) {
        const measures = measuresOf(one, id)
        const clear = new Set(trulyClearPlaces(one, id, measures.map(({ place }) => place))) // prettier-ignore
        counts.clear += clear.size
        counts.told += measures.filter(({ place, fit }) => fit !== null && clear.has(place)).length
      }
    }
    expect(counts.clear).toBeGreaterThan(100)
    expect(counts.told / counts.clear).toBeGreaterThanOrEqual(0.6)
  }, 120_000)
})

describe('a pull of focus', () => {
  const KEYED = [1003, 1009, 1013, 1022]
  /** What lies half way between keys as well. */
  const FRAMES = [...KEYED, 1006, 1017]

  it('measured on four frames is followed by the mattes of signboard and post, and by that of the head: in-between pixels to 0.02', () => {
    const frames = FRAMES.map((frame) => taken('focusPull', frame))
    const errorOf = (ids: readonly string[], settings: (id: string) => Channels) => {
      const errors = ids.flatMap((id) => frames.map((one) => inBetweenError(trueDocument([one.frame], (other) => (other === id ? settings(id) : {})), one, id))) // prettier-ignore
      return errors.reduce((all, { sum }) => all + sum, 0) / errors.reduce((all, { count }) => all + count, 0)
    }
    const measured = (id: string): Channels => {
      const keys: Channel['keys'] = frames.slice(0, KEYED.length).map((one) => ({
        time: one.frame,
        interpolation: 'smooth',
        values: Float64Array.of(softnessOf(measuresOf(one, id))!.sigma),
      }))
      return { focus: { keys } }
    }
    for (const ids of [['signboard', 'post'], ['head']]) {
      expect(errorOf(ids, measured), ids.join()).toBeLessThan(0.02)
      // It counts: sharp they are far off.
      expect(
        errorOf(ids, () => ({})),
        ids.join(),
      ).toBeGreaterThan(0.06)
    }
  }, 240_000)

  it('with the true softness the mattes of all pieces are right to 0.01', () => {
    const one = taken('focusPull', 1009)
    for (const id of [...PIECES, 'near-arm']) {
      const document = trueDocument([1009], (other): Channels => (other === id ? { focus: constantChannel(trueSigma(one, id)) } : {})) // prettier-ignore
      expect(inBetweenError(document, one, id).mean, id).toBeLessThan(0.01)
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
