import { fewestKeys } from '@tender-lasso/core/animation'
import { channelOf, findObject, outlineKeys, type Patch, type Shape } from '@tender-lasso/core/document'
import {
  FEATHER_SIDES,
  KEY_HERE,
  numberChanged,
  pointEdgeChanged,
  pointEdgeCleared,
  valuesKeyed,
  type EdgeNumber,
  type Keying,
} from '@tender-lasso/core/edits'
import { edgePlacesOf, edgeOn, isSoftAtPoints, type Softening } from '@tender-lasso/core/evaluation'
import { featherForSoftness, softnessAtPoints, softnessOf, type Softness } from '@tender-lasso/core/measures'
import { edit } from '../session'
import { say, selectedShapes, useShot, type MeasuredFrames, type SoftnessOnFrame } from '../store'
import { askedOfFrames, framesToMeasure } from './edgeMeasuring'
import { editOrReach, keyingNow } from './keying'

const get = useShot.getState

/** Plate pixels from one place that is looked at to the next. */
const SPACING = 6
/** Pixels by which a feather between two keys may miss what was measured there. */
const KEY_TOLERANCE = 0.4

/** Measures how soft the plate is along the selected shapes; shown until it is taken over or out of date. */
export async function measureSoftness(which: MeasuredFrames = 'here'): Promise<void> {
  const { info, document, frame } = get()
  const chosen = selectedShapes()
  if (!info || chosen.length === 0) return say('doubtful', 'Select a shape or a Part to measure its edge')
  const shapes = chosen.filter(({ isClosed }) => isClosed)
  if (shapes.length === 0) return say('doubtful', 'Softness is measured along closed outlines, not along strokes')
  const frames = framesToMeasure(which, shapes)
  const found = await askedOfFrames('softness', frames, async (worker, plate, at): Promise<SoftnessOnFrame> => {
    const ofShapes = []
    for (const shape of shapes) {
      const measures = await worker.softness(plate, at, edgePlacesOf(document, shape, at, SPACING))
      ofShapes.push({ shapeId: shape.id, measures })
    }
    return { frame: at, ofShapes, softness: softnessOf(ofShapes.flatMap(({ measures }) => measures)) }
  })
  // Of one frame that is no longer shown nothing would be seen.
  if (!found || (which === 'here' && get().frame !== frame)) return
  useShot.setState({ softness: { shapeIds: chosen.map(({ id }) => id), frames: found } })
  const places = found.flatMap(({ ofShapes }) => ofShapes.flatMap(({ measures }) => measures)).length
  if (places === 0) say('doubtful', 'Nothing of this edge is seen here: other Parts cover it')
  else if (found.every(({ softness }) => softness === null))
    say('doubtful', `No clear edge among ${places} places: try another frame`)
}

/** Numbers of an edge that are as soft as was measured. */
type MeasuredNumbers = Partial<Record<EdgeNumber | 'grow', number>>

/** A frame on which enough edges were clear. */
type ClearFrame = Pick<SoftnessOnFrame, 'frame'> & { softness: Softness }

/** Gives the measured shapes edges as soft as the plate is, about where its edge lies; where several frames were looked at, keyed. */
export function takeOverSoftness(as: Softening) {
  const { document, softness: report } = get()
  if (!report) return
  const shapes = report.shapeIds.flatMap((id) => findObject(document, 'shape', id) ?? [])
  const clear = report.frames.flatMap(({ frame, softness }) => (softness ? { frame, softness } : []))
  if (clear.length === 0) return
  if (report.frames.length === 1) return takeOverHere(shapes, clear[0]!, as)
  const patches = shapes.flatMap((shape) => {
    const measured = clear.map((one) => ({ time: one.frame, numbers: numbersAsSoft(shape, one, as) }))
    const names = Object.keys(measured[0]!.numbers) as (keyof MeasuredNumbers)[]
    const samples = measured.map(({ time, numbers }) => ({ time, values: names.map((name) => numbers[name]!) }))
    return fewestKeys(samples, KEY_TOLERANCE)
      .flatMap(({ time, values }) =>
        names.flatMap((name, i) => valuesKeyed(channelOf(shape, name), time, Float64Array.of(values[i]!))),
      )
      .concat(otherSoftnessTaken(shape, as), pointsMadeEven(shape))
  })
  if (edit(`${as} as soft as the plate, over its frames`, patches)) dropSoftness()
}

function takeOverHere(shapes: readonly Shape[], measured: ClearFrame, as: Softening) {
  const how = keyingNow()
  let isKeyed = false
  const patches = shapes.flatMap((shape) => {
    const numbers = Object.entries(numbersAsSoft(shape, measured, as))
    isKeyed ||= numbers.some(([name]) => channelOf(shape, name).keys.length > 0)
    return numbers
      .flatMap(([name, value]) =>
        numberChanged(channelOf(shape, name), 0, { kind: 'set', by: value }, measured.frame, how),
      ) // prettier-ignore
      .concat(otherSoftnessTaken(shape, as), pointsMadeEven(shape))
  })
  const words = `${as} as soft as the plate, sigma ${measured.softness.sigma.toFixed(2)} px`
  if (editOrReach(words, patches, isKeyed)) dropSoftness()
}

/** The edge of a shape that is as soft as the plate is on a frame, about where its edge lies: out of focus it is grown to there. */
const numbersAsSoft = (
  shape: Shape,
  { frame, softness: { sigma, place } }: ClearFrame,
  as: Softening,
): MeasuredNumbers =>
  as === 'focus' ? { focus: sigma, grow: place } : featherForSoftness(sigma, place - edgeOn(shape, frame).edge.grow)

const NUMBERS_OF: Record<Softening, readonly EdgeNumber[]> = { feather: FEATHER_SIDES, focus: ['focus'] }

/** What was measured is all of the softness: the shape loses what it had of the other kind. */
function otherSoftnessTaken(shape: Shape, as: Softening): Patch[] {
  return NUMBERS_OF[as === 'focus' ? 'feather' : 'focus'].flatMap((name) => {
    const channel = channelOf(shape, name)
    const isSoft =
      channel.keys.length > 0 ? channel.keys.some(({ values }) => values[0] !== 0) : !!channel.constant?.[0]
    return isSoft ? numberChanged(channel, 0, { kind: 'set', by: 0 }, channel.keys[0]?.time ?? 0, ON_ALL_KEYS) : []
  })
}

/** What points had of their own goes: the shape is as soft all round as was measured. */
function pointsMadeEven(shape: Shape): Patch[] {
  const numbers = (['feather', 'focus'] as const).flatMap((of) => (isSoftAtPoints(shape, of) ? NUMBERS_OF[of] : []))
  if (numbers.length === 0) return []
  const pointIds = new Set(shape.pointIds)
  return pointEdgeCleared(shape, outlineKeys(shape)[0]!.time, { numbers, pointIds }, ON_ALL_KEYS)
}

const ON_ALL_KEYS: Keying = { reach: { kind: 'everywhere' }, makesKeys: false, onlyTouched: false }

/**
 * The same point by point: each as soft as the clear places near it, the others as their neighbours. With points selected only these. Out of focus
 * the line stays where it is.
 */
export function takeOverSoftnessAtPoints(as: Softening) {
  const { document, softness: report, selection } = get()
  if (!report) return
  const patches: Patch[] = []
  let count = 0
  for (const { frame, ofShapes } of report.frames) {
    const how = report.frames.length === 1 ? keyingNow() : KEY_HERE
    for (const { shapeId, measures } of ofShapes) {
      const shape = findObject(document, 'shape', shapeId)
      const points = shape && softnessAtPoints(measures, shape.pointIds.length)
      if (!shape || !points) continue
      const selected = shape.pointIds.filter((id) => selection.pointIds.has(id))
      const pointIds = new Set(selected.length ? selected : shape.pointIds)
      const { grow } = edgeOn(shape, frame).edge
      const measured = new Map(
        shape.pointIds.map((id, i) => {
          const { sigma, place } = points[i]!
          return [id, { ...featherForSoftness(sigma, place - grow), focus: sigma }]
        }),
      )
      const to = (_value: number, id: string, number: EdgeNumber) => measured.get(id)![number]
      patches.push(...pointEdgeChanged(document, shape, frame, { numbers: NUMBERS_OF[as], pointIds, softness: 0, to }, how)) // prettier-ignore
      count += pointIds.size
    }
  }
  if (count === 0) return say('doubtful', 'No point has a clear edge beside it')
  const words = `${as} at points as soft as the plate`
  if (editOrReach(words, patches, report.frames.length === 1)) dropSoftness()
}

export const dropSoftness = () => useShot.setState({ softness: null })
