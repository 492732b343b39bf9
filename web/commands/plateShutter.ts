import { allOf, channelOf, findObject, type Patch, type RotoDocument, type Shape } from '@tender-lasso/core/document'
import { numberChanged, ownShutterBegun } from '@tender-lasso/core/edits'
import { edgePlacesOf, shapesOf } from '@tender-lasso/core/evaluation'
import { estimateShutter } from '@tender-lasso/core/measures'
import { centredShutter } from '@tender-lasso/core/timing'
import { say, selectedShapes, useShot } from '../store'
import { askedOfFrames, framesToMeasure } from './edgeMeasuring'
import { editOrReach, keyingNow } from './keying'

const get = useShot.getState

/** Plate pixels from one place that is looked at to the next. */
const SPACING = 10

/**
 * Finds the shutter angle that the plate shows: along the outlines that share the shutter, on frames of the marked stretch or of the shot, by how long the blur of fast edges is against their
 * speed. Shown until it is taken over.
 */
export async function findShutterOnPlate(): Promise<void> {
  const { info, document } = get()
  const shapes = shapesToAsk(document).filter(({ isClosed }) => isClosed)
  if (!info || shapes.length === 0) return say('doubtful', 'Draw or select shapes of something that moves fast')
  // A whole frame, about its middle: how far a place goes within it is its speed.
  const wholeFrame = centredShutter(360)
  const frames = framesToMeasure('range', shapes)
  const found = await askedOfFrames('shutter', frames, (worker, plate, frame) =>
    worker.movingEdges(
      plate,
      frame,
      shapes.flatMap((shape) => edgePlacesOf(document, shape, frame, SPACING, wholeFrame)),
    ),
  )
  if (!found) return
  const estimate = estimateShutter(found.flat())
  if (!estimate) return say('doubtful', 'Too few fast and clear edges: mark a stretch where the Part moves by 4 px a frame and more') // prettier-ignore
  const frameOf = new Map(found.flatMap((edges, i) => edges.map(({ place }) => [place, frames[i]!] as const)))
  const votes = estimate.votes.map((vote) => ({ frame: frameOf.get(vote.place)!, vote }))
  useShot.setState({ shutterFound: { partIds: [...new Set(shapes.map(({ partId }) => partId))], estimate, votes } })
}

/** Those of the selected Part where it has a shutter of its own; the shot's shutter is asked of all that are seen. */
function shapesToAsk(document: RotoDocument): Shape[] {
  const selected = selectedShapes()
  const isOwn =
    selected.length > 0 && selected.every(({ partId }) => findObject(document, 'part', partId)?.hasOwnShutter)
  if (isOwn) return selected
  return allOf(document, 'part')
    .filter(({ visible }) => visible)
    .flatMap(({ id }) => shapesOf(document, id))
}

/** Gives the shot the shutter that was found, or the Parts that were looked at where they have ones of their own. */
export function takeOverShutter(of: 'shot' | 'parts') {
  const { document, frame, shutterFound } = get()
  const shot = findObject(document, 'shot', 'shot')
  if (!shutterFound || !shot) return
  const angle = Math.round(shutterFound.estimate.angle)
  const { phase } = centredShutter(angle)
  const owners = of === 'shot' ? [shot] : shutterFound.partIds.flatMap((id) => findObject(document, 'part', id) ?? [])
  const how = keyingNow()
  const isKeyed = owners.some((owner) => channelOf(owner, 'shutterAngle').keys.length > 0)
  const patches = owners.flatMap((owner): Patch[] =>
    owner.kind === 'part' && !owner.hasOwnShutter
      ? ownShutterBegun(owner, { angle, phase })
      : [
          ...numberChanged(channelOf(owner, 'shutterAngle'), 0, { kind: 'set', by: angle }, frame, how),
          ...numberChanged(channelOf(owner, 'shutterPhase'), 0, { kind: 'set', by: phase }, frame, how),
        ],
  )
  const words = `shutter of the plate, ${angle} degrees`
  if (editOrReach(words, patches, isKeyed)) dropShutter()
}

export const dropShutter = () => useShot.setState({ shutterFound: null })
