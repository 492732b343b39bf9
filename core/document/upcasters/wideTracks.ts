import { isFields, numbersIn, type Fields } from './json'

/** What a track of one region did not have yet. */
const FIELDS_OF_LATER = {
  surface: 'plane',
  leaveOut: [],
  search: [-40, -40, 40, 40],
  references: [],
  patternUpdate: { when: 'first', below: 0.9 },
  mostReturnError: null,
  preprocessing: {
    channel: 'luma',
    blur: 0,
    sharpen: 0,
    localContrast: false,
    texture: 'all',
    density: 1,
    motionBlur: true,
    follows: true,
  },
  bridges: [],
  offset: [],
  smoothing: null,
  hue: null,
  notes: '',
  locked: false,
  visible: true,
  archived: false,
  madeFrom: null,
  pixelAspect: 1,
}

const BLOCK_FRAMES = 32
const NARROW = 12
const WIDE = 16

/** Tracks had one region at first, and blocks of twelve numbers a frame. */
export function wideTrack(track: Fields): Fields {
  const { region, ...rest } = track
  const whole = region === undefined ? track : { ...FIELDS_OF_LATER, ...rest, outlines: [region] }
  if (!Array.isArray(whole.blocks)) return whole
  const blocks = whole.blocks.map((block: unknown) =>
    isFields(block) ? { ...block, values: wideBlock(block.values) } : block,
  )
  return { ...whole, blocks }
}

/** Numbers of a block, sixteen a frame: those that were not stored are 0. */
export function wideBlock(values: unknown): unknown {
  const narrow = numbersIn(values)
  if (narrow.length !== BLOCK_FRAMES * NARROW) return values
  const wide = new Array<number>(BLOCK_FRAMES * WIDE).fill(0)
  for (const [i, value] of narrow.entries()) wide[Math.floor(i / NARROW) * WIDE + (i % NARROW)] = value
  return wide
}
