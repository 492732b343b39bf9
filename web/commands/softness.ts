import { channelOf, findObject } from '@tender-lasso/core/document'
import { numberChanged } from '@tender-lasso/core/edits'
import { toLinear } from '@tender-lasso/core/colour'
import { edgePlacesOf, edgeOn } from '@tender-lasso/core/evaluation'
import { boxAround, featherForSoftness, softnessAt, softnessOf, type EdgeMeasure } from '@tender-lasso/core/measures'
import { AnalysisTiles } from '../media'
import { edit, wordsOf } from '../session'
import { say, selectedShapes, useShot } from '../store'
import { editReaching, keyingNow } from './keying'

const get = useShot.getState

/** Plate pixels from one place that is looked at to the next. */
const SPACING = 6
/** Places that are fitted before the page may draw. */
const AT_ONCE = 2

/** Asked for anew, what is still measured is given up. */
let latest = 0

/** Measures how soft the plate is along the selected shapes on this frame; shown until it is taken over or out of date. */
export async function measureSoftness(): Promise<void> {
  const { info, document, frame } = get()
  const chosen = selectedShapes()
  if (!info || chosen.length === 0) return say('doubtful', 'Select a shape or a Part to measure its edge')
  const shapes = chosen.filter(({ isClosed }) => isClosed)
  if (shapes.length === 0) return say('doubtful', 'Softness is measured along closed outlines, not along strokes')
  const own = ++latest
  const isAsked = () => own === latest && get().frame === frame
  try {
    const tiles = new AnalysisTiles(info.id, info.width, info.height)
    const measures: EdgeMeasure[] = []
    for (const shape of shapes) {
      const places = edgePlacesOf(document, shape, frame, SPACING)
      if (places.length === 0) continue
      const encoded = await tiles.image(frame, boxAround(places))
      const image = { ...encoded, data: encoded.data.map((value) => toLinear(info.colourEncoding, value)) }
      for (let i = 0; i < places.length; i += AT_ONCE) {
        measures.push(...places.slice(i, i + AT_ONCE).map((place) => softnessAt(image, place)))
        await new Promise((resolve) => setTimeout(resolve))
        if (!isAsked()) return
      }
    }
    if (!isAsked()) return
    const softness = softnessOf(measures)
    useShot.setState({ softness: { frame, shapeIds: chosen.map(({ id }) => id), measures, softness } })
    if (measures.length === 0) say('doubtful', 'Nothing of this edge is seen here: other Parts cover it')
    else if (!softness) say('doubtful', `No clear edge among ${measures.length} places: try another frame`)
  } catch (error) {
    say('bad', `The plate could not be read: ${wordsOf(error)}`)
  }
}

/** Gives the measured shapes feathers as soft as the plate is, about where its edge lies. */
export function takeOverSoftness() {
  const { document, frame, softness: report } = get()
  if (!report?.softness) return
  const shapes = report.shapeIds.flatMap((id) => findObject(document, 'shape', id) ?? [])
  const { sigma, place } = report.softness
  const how = keyingNow()
  const patches = shapes.flatMap((shape) => {
    const feather = featherForSoftness(sigma, place - edgeOn(shape, frame).edge.grow)
    return (['innerFeather', 'outerFeather'] as const).flatMap((side) =>
      numberChanged(channelOf(shape, side), 0, { kind: 'set', by: feather[side] }, frame, how),
    )
  })
  const isKeyed = shapes.some((shape) =>
    ['innerFeather', 'outerFeather'].some((side) => channelOf(shape, side).keys.length > 0),
  )
  const words = `feather as soft as the plate, sigma ${sigma.toFixed(2)} px`
  if (isKeyed ? editReaching(words, patches) : edit(words, patches)) useShot.setState({ softness: null })
}

export const dropSoftness = () => useShot.setState({ softness: null })
