import { type Part, type RotoDocument, findObject } from '../document'

/** Hues of Subjects after Okabe & Ito (2008), told apart with the common kinds of colour blindness; brightened for grey. */
export const SUBJECT_HUES = [
  [86, 180, 233],
  [230, 159, 0],
  [0, 178, 128],
  [240, 228, 66],
  [204, 121, 167],
  [232, 112, 60],
  [96, 140, 220],
  [190, 190, 190],
] as const

/** Lightness steps of a Subject's Parts, neighbours far apart. */
const SHADES = [0, 0.3, -0.22, 0.5, -0.1, 0.4, -0.3, 0.15, -0.16, 0.25, 0.08, -0.05] as const
export const SHADE_COUNT = SHADES.length

export type Rgb = [number, number, number]

/** The colour of a Part on screens and in previews, sRGB 0..255: its Subject's hue in a shade of its own. */
export function partColour(document: RotoDocument, part: Part): Rgb {
  const subject = findObject(document, 'subject', part.subjectId)
  const hue = SUBJECT_HUES[subject?.hue ?? 7]!
  const shade = SHADES[part.shade % SHADES.length]!
  return hue.map((value) => Math.round(shade >= 0 ? value + (255 - value) * shade : value * (1 + shade))) as Rgb
}
