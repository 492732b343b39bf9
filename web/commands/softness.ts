import { fewestKeys } from '@tender-lasso/core/animation'
import { channelOf, findObject, outlineKeys, type Patch, type Shape } from '@tender-lasso/core/document'
import {
  FEATHER_SIDES,
  KEY_HERE,
  numberChanged,
  pointFeatherChanged,
  pointFeatherCleared,
  valuesKeyed,
  type FeatherSide,
  type Keying,
} from '@tender-lasso/core/edits'
import { edgePlacesOf, edgeOn, hasPointWidths } from '@tender-lasso/core/evaluation'
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

/** Gives the measured shapes feathers as soft as the plate is, about where its edge lies; where several frames were looked at, keyed. */
export function takeOverSoftness() {
  const { document, softness: report } = get()
  if (!report) return
  const shapes = report.shapeIds.flatMap((id) => findObject(document, 'shape', id) ?? [])
  const clear = report.frames.flatMap(({ frame, softness }) => (softness ? { frame, softness } : []))
  if (clear.length === 0) return
  if (report.frames.length === 1) return takeOverHere(shapes, clear[0]!)
  const patches = shapes.flatMap((shape) => {
    const samples = clear.map((one) => {
      const feather = featherAsSoft(shape, one)
      return { time: one.frame, values: FEATHER_SIDES.map((side) => feather[side]) }
    })
    return fewestKeys(samples, KEY_TOLERANCE)
      .flatMap(({ time, values }) =>
        FEATHER_SIDES.flatMap((side, i) => valuesKeyed(channelOf(shape, side), time, Float64Array.of(values[i]!))),
      )
      .concat(evenPatches(shape))
  })
  if (edit('feather as soft as the plate, over its frames', patches)) dropSoftness()
}

function takeOverHere(shapes: readonly Shape[], measured: ClearFrame) {
  const how = keyingNow()
  const patches = shapes.flatMap((shape) => {
    const feather = featherAsSoft(shape, measured)
    return FEATHER_SIDES.flatMap((side) =>
      numberChanged(channelOf(shape, side), 0, { kind: 'set', by: feather[side] }, measured.frame, how),
    ).concat(evenPatches(shape))
  })
  const isKeyed = shapes.some((shape) => FEATHER_SIDES.some((side) => channelOf(shape, side).keys.length > 0))
  const words = `feather as soft as the plate, sigma ${measured.softness.sigma.toFixed(2)} px`
  if (editOrReach(words, patches, isKeyed)) dropSoftness()
}

/** A frame on which enough edges were clear. */
type ClearFrame = Pick<SoftnessOnFrame, 'frame'> & { softness: Softness }

/** The feather of a shape that is as soft as the plate is on a frame, about where its edge lies. */
const featherAsSoft = (shape: Shape, { frame, softness: { sigma, place } }: ClearFrame) =>
  featherForSoftness(sigma, place - edgeOn(shape, frame).edge.grow)

/** What points had of their own goes: the shape is as soft all round as was measured. */
const evenPatches = (shape: Shape): Patch[] =>
  hasPointWidths(shape)
    ? pointFeatherCleared(shape, outlineKeys(shape)[0]!.time, new Set(shape.pointIds), ON_ALL_KEYS)
    : []

const ON_ALL_KEYS: Keying = { reach: { kind: 'everywhere' }, makesKeys: false, onlyTouched: false }

/**
 * The same point by point: each as soft as the clear places near it, the others as their neighbours. With points selected only these.
 */
export function takeOverSoftnessAtPoints() {
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
      const feathers = new Map(shape.pointIds.map((id, i) => [id, featherForSoftness(points[i]!.sigma, points[i]!.place - grow)])) // prettier-ignore
      const to = (_width: number, id: string, side: FeatherSide) => feathers.get(id)![side]
      patches.push(
        ...pointFeatherChanged(document, shape, frame, { sides: FEATHER_SIDES, pointIds, softness: 0, to }, how),
      )
      count += pointIds.size
    }
  }
  if (count === 0) return say('doubtful', 'No point has a clear edge beside it')
  const words = 'feather at points as soft as the plate'
  if (editOrReach(words, patches, report.frames.length === 1)) dropSoftness()
}

export const dropSoftness = () => useShot.setState({ softness: null })
