import { findObject, movedByTrack, type RotoDocument, type Track } from '@tender-lasso/core/document'
import { partColour, SUBJECT_HUES, type Rgb } from './colours'

const PLAIN: Rgb = [190, 186, 178]

/** A track wears the hue given to it, else the colour of the Part it moves. */
export function trackColour(document: RotoDocument, track: Track): Rgb {
  if (track.hue !== null) return [...SUBJECT_HUES[track.hue]!]
  const [moved] = movedByTrack(document, track.id)
  const part = moved?.kind === 'shape' ? findObject(document, 'part', moved.partId) : moved
  return part ? partColour(document, part) : PLAIN
}
