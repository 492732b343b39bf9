import type { Output } from '@tender-lasso/core/document'

export const LAYOUT_WORDS: Record<Output['layout'], string> = {
  one: 'One matte a picture',
  rgb: 'Three in red, green, blue',
  channels: 'All as channels of one EXR',
  'object-id': 'Object ids',
  white: 'All mattes in white',
  overlay: 'In colour over the plate',
  cutout: 'Cut out of the plate',
}

export const FORMAT_WORDS: Record<Output['format'], string> = {
  png8: 'PNG 8',
  png16: 'PNG 16',
  tiff8: 'TIFF 8',
  tiff16: 'TIFF 16',
  'exr-half': 'EXR half',
  'exr-float': 'EXR float',
  ffv1: 'Movie, lossless (FFV1)',
  h264: 'Movie to look at (H.264)',
  vp9: 'Movie to look at (VP9)',
}

export const COMPRESSION_WORDS: Record<Output['compression'], string> = {
  none: 'not compressed',
  zips: 'ZIP, line by line',
  zip: 'ZIP, 16 lines',
}

export const PRIMARIES_WORDS: Record<Output['primaries'], string> = {
  bt709: 'Rec. 709',
  bt2020: 'Rec. 2020',
  ap1: 'ACES AP1',
  ap0: 'ACES AP0',
}

export const SCALE_WORDS: Record<Output['scale'], string> = { 1: 'Plate', 0.5: 'Half', 0.25: 'Quarter' }

/** One frame, or the first and the last. */
export const framesWord = ([first, last]: readonly [number, number]) => (first === last ? String(first) : `${first}-${last}`) // prettier-ignore

/** Layouts in a word or two, for a table. */
export const SHORT_LAYOUTS: Record<Output['layout'], string> = {
  one: 'one a picture',
  rgb: 'RGB',
  channels: 'channels',
  'object-id': 'object ids',
  white: 'white',
  overlay: 'over the plate',
  cutout: 'cut out',
}

/** Formats in a word or two, for a table. */
export const SHORT_FORMATS: Record<Output['format'], string> = {
  ...FORMAT_WORDS,
  ffv1: 'FFV1',
  h264: 'H.264',
  vp9: 'VP9',
}
