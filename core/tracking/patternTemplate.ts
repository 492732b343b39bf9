import { TrackingError } from '../errors'
import { boundsOfAll, type Box } from '../geometry'
import {
  cornerStrength,
  gradientSquares,
  grownMask,
  halvedMask,
  polygonMask,
  type PixelMask,
  type PyramidLevel,
} from '../image'
import { medianAndSpread, ranked } from './median'

/** Samples of one pyramid level of the pattern's picture. */
export interface TemplateLevel {
  scale: number
  count: number
  /** Positions in normalised pattern coordinates: (plate - centre) / (unitX, unitY). */
  u: Float32Array
  v: Float32Array
  value: Float32Array
  /** Median of the values and their median absolute deviation. */
  middle: number
  spread: number
  /** Steepest-descent gradients in normalised coordinates. */
  gradientU: Float32Array
  gradientV: Float32Array
  /** Length of the gradient per pixel of the level: how much a mismatch of one pixel changes the value. */
  steepness: Float32Array
  /** Which of the level's cells the sample lies in: what hides a surface hides its samples cell by cell. */
  cell: Uint16Array
  cellCount: number
  /** The memory of {@link levelArrays} that holds its arrays, but for those that have been replaced since; null: none. */
  packed: Float32Array | null
}

/** A level's arrays of floats, in the order in which the kernel has them in its memory. */
export const LEVEL_FLOATS = ['u', 'v', 'value', 'gradientU', 'gradientV', 'steepness'] as const

/** Samples for which there is room: vectors hold four. */
export const paddedCount = (count: number) => (count + 3) & ~3

/**
 * Arrays of a level one behind the other in one piece of memory, as the kernel has them: small ones by the thousand cost
 * more than what is done with them, and one piece is copied at once. Samples of the padding lie nowhere.
 */
export function levelArrays(count: number) {
  const room = paddedCount(count)
  const cells = LEVEL_FLOATS.length * room
  // A cell takes half of a float.
  const packed = new Float32Array(cells + room / 2)
  packed.fill(NaN, count, room)
  const arrays = {} as Record<(typeof LEVEL_FLOATS)[number], Float32Array>
  LEVEL_FLOATS.forEach((name, n) => (arrays[name] = packed.subarray(n * room, n * room + count)))
  return { packed, ...arrays, cell: new Uint16Array(packed.buffer, packed.BYTES_PER_ELEMENT * cells, count) }
}

/** What is compared: where it is in its picture, and what there is not looked at. Plate pixels of the pattern's frame. */
export interface Pattern {
  outlines: readonly ArrayLike<number>[]
  hidden: readonly ArrayLike<number>[]
}

export interface PatternFrame {
  centreX: number
  centreY: number
  /** Plate pixels across and down that make one normalised unit: a square one as the picture is seen. */
  unitX: number
  unitY: number
  box: Box
}

/** Which pixels are taken. */
export interface Sampling {
  texture: 'all' | 'corners' | 'edges'
  /** Share of them, 0..1. */
  density: number
}

/** More samples than this on one level gain no accuracy that grain leaves visible, only time. */
const MOST_SAMPLES = 16_000
/** Side of the cells that each give an equal share of samples, pixels of the level. */
const CELL = 12
/** Share of the pixels that are corners or edges, when only these are wanted. */
const TEXTURE_SHARE = 0.3
/** Pixels of a level by which what hides is grown: the reach of the filters that mix it with its surroundings. */
const HIDDEN_MARGIN = 2
/** Fewer samples than this cannot hold a pattern. */
const LEAST_SAMPLES = 30

export function patternFrameOf(outlines: readonly ArrayLike<number>[], pixelAspect = 1): PatternFrame {
  const box = boundsOfAll(outlines)
  const unitY = Math.max((box.right - box.left) * pixelAspect, box.bottom - box.top) / 2
  return {
    box,
    centreX: (box.left + box.right) / 2,
    centreY: (box.top + box.bottom) / 2,
    unitX: unitY / pixelAspect,
    unitY,
  }
}

/** What hides, level by level: a coarse pixel is hidden when any pixel it mixes is. */
export function hiddenPyramid(
  hidden: readonly ArrayLike<number>[],
  pyramid: readonly PyramidLevel[],
): PixelMask[] | null {
  if (hidden.length === 0) return null
  let bare = polygonMask(hidden, pyramid[0]!, 'any')
  return pyramid.map((_, level) => {
    if (level > 0) bare = halvedMask(bare)
    return grownMask(bare, HIDDEN_MARGIN)
  })
}

/**
 * Samples of the pattern on one level: pixels whose centre lies inside the outlines and that are not hidden. Of more
 * than {@link MOST_SAMPLES} each cell gives its steepest: these hold the place, and every cell keeps a voice when
 * something covers the others.
 *
 * @throws TrackingError `region-too-small`, `region-left-out` when too few samples are left on the finest level
 */
export function templateLevel(
  image: PyramidLevel,
  pattern: Pattern,
  hidden: PixelMask | null,
  frame: PatternFrame,
  sampling: Sampling,
): TemplateLevel {
  const { scale, width, height, data } = image
  const { chosen, isInside } = openPixels(image, pattern.outlines, hidden)
  if (scale === 1 && isInside < LEAST_SAMPLES) {
    throw new TrackingError('region-too-small', 'Fewer than 30 pixels are left inside the region: draw it larger')
  }
  if (scale === 1 && chosen.length < LEAST_SAMPLES) {
    throw new TrackingError(
      'region-left-out',
      'What is left out covers the whole region here: draw it on a frame that shows the surface, or leave out less',
    )
  }
  const samples = thinned(chosen, image, sampling)
  const count = samples.length
  const level: TemplateLevel = { ...levelArrays(count), scale, count, middle: 0, spread: 0, cellCount: 0 }
  const columns = Math.ceil(width / CELL)
  const cellAt = new Int32Array(columns * Math.ceil(height / CELL)).fill(-1)
  let cells = 0
  const { u, v, value, gradientU, gradientV, steepness, cell } = level
  for (let k = 0; k < count; k++) {
    const at = samples[k]!
    const i = at % width
    const j = (at - i) / width
    u[k] = (image.left + (i + 0.5) * scale - frame.centreX) / frame.unitX
    v[k] = (image.top + (j + 0.5) * scale - frame.centreY) / frame.unitY
    value[k] = data[at]!
    const gradientX = (data[at + 1]! - data[at - 1]!) / 2
    const gradientY = (data[at + width]! - data[at - width]!) / 2
    gradientU[k] = (gradientX * frame.unitX) / scale
    gradientV[k] = (gradientY * frame.unitY) / scale
    steepness[k] = Math.sqrt(gradientX * gradientX + gradientY * gradientY)
    const place = Math.floor(j / CELL) * columns + Math.floor(i / CELL)
    if (cellAt[place]! < 0) cellAt[place] = cells++
    cell[k] = cellAt[place]!
  }
  level.cellCount = cells
  ;[level.middle, level.spread] = medianAndSpread(level.value.slice())
  return level
}

/** A level with other values at its samples, without those for which there is none (NaN). */
export function withValues(level: TemplateLevel, value: Float32Array): TemplateLevel {
  if (!hasGaps(value)) return { ...level, value }
  const isKept = (_: number, n: number) => !Number.isNaN(value[n]!)
  const { u, v, gradientU, gradientV, steepness, cell } = level
  const kept = { u, v, value, gradientU, gradientV, steepness }
  for (const name of Object.keys(kept) as (keyof typeof kept)[]) kept[name] = kept[name].filter(isKept)
  return { ...level, ...kept, cell: cell.filter(isKept), count: kept.u.length, packed: null }
}

function hasGaps(value: Float32Array): boolean {
  for (let n = 0; n < value.length; n++) if (Number.isNaN(value[n]!)) return true
  return false
}

/** Pixels inside the outlines that nothing hides and that have neighbours all round; and how many are inside at all. */
function openPixels(image: PyramidLevel, outlines: Pattern['outlines'], hidden: PixelMask | null) {
  const { width, height } = image
  const inside = insideOf(image, outlines).data
  const bare = hidden?.data
  const open = new Int32Array(width * height)
  let isInside = 0
  let isOpen = 0
  for (let j = 1; j < height - 1; j++) {
    for (let at = j * width + 1; at < (j + 1) * width - 1; at++) {
      if (!inside[at]) continue
      isInside++
      if (!bare || !bare[at]) open[isOpen++] = at
    }
  }
  return { chosen: open.subarray(0, isOpen), isInside }
}

/** Level pixels whose centre is inside the outlines. */
function insideOf(image: PyramidLevel, outlines: readonly ArrayLike<number>[]): PixelMask {
  const { scale, left, top } = image
  const onLevel = outlines.map((outline) =>
    Float64Array.from(outline, (value, i) => (value - (i % 2 ? top : left)) / scale),
  )
  return polygonMask(onLevel, { left: 0, top: 0, width: image.width, height: image.height }, 'even-odd')
}

/** The strongest of every cell, so many as make the share asked for. */
function thinned(chosen: Int32Array, image: PyramidLevel, { texture, density }: Sampling): Int32Array {
  const share = (texture === 'all' ? 1 : TEXTURE_SHARE) * density
  const wanted = Math.min(MOST_SAMPLES, chosen.length * share)
  if (wanted >= chosen.length) return chosen
  const strength = texture === 'corners' ? cornerStrength(image, 1.5) : gradientSquares(image)
  const out = new Int32Array(chosen.length)
  // With corners or edges alone a cell without any gives little; otherwise each gives its share.
  if (texture !== 'all') {
    return out.subarray(0, putStrongest(chosen, strength, Math.max(LEAST_SAMPLES, Math.round(wanted)), out, 0))
  }
  const ratio = wanted / chosen.length
  let count = 0
  for (const members of byCell(chosen, image)) {
    if (members.length > 0) count = putStrongest(members, strength, Math.max(1, Math.round(members.length * ratio)), out, count) // prettier-ignore
  }
  return out.slice(0, count)
}

/** Pixels, given row after row, sorted by the cell that they lie in, cell after cell. */
function byCell(pixels: Int32Array, { width, height }: PyramidLevel): Int32Array[] {
  const columns = Math.ceil(width / CELL)
  const columnOf = Uint16Array.from({ length: width }, (_, i) => Math.floor(i / CELL))
  const cells = columns * Math.ceil(height / CELL)
  const cellOf = new Uint32Array(pixels.length)
  const starts = new Int32Array(cells + 1)
  let row = 0
  let rowStart = 0
  for (let k = 0; k < pixels.length; k++) {
    while (pixels[k]! >= rowStart + width) {
      row++
      rowStart += width
    }
    const cell = columns * ((row / CELL) | 0) + columnOf[pixels[k]! - rowStart]!
    cellOf[k] = cell
    starts[cell + 1]!++
  }
  for (let cell = 0; cell < cells; cell++) starts[cell + 1]! += starts[cell]!
  const next = starts.slice()
  const sorted = new Int32Array(pixels.length)
  for (let k = 0; k < pixels.length; k++) sorted[next[cellOf[k]!]!++] = pixels[k]!
  return Array.from({ length: cells }, (_, cell) => sorted.subarray(starts[cell], starts[cell + 1]))
}

/** Puts the `most` strongest pixels into `out` at a place, in the order they come; of equals the first. */
function putStrongest(
  pixels: Int32Array,
  strength: Float32Array,
  most: number,
  out: Int32Array,
  place: number,
): number {
  const count = pixels.length
  const values = new Float32Array(count)
  for (let k = 0; k < count; k++) values[k] = strength[pixels[k]!]!
  const least = most >= count ? -Infinity : ranked(values, count, count - most)
  let stronger = 0
  for (let k = 0; k < count; k++) if (values[k]! > least) stronger++
  let equals = Math.max(0, most - stronger)
  for (let k = 0; k < count; k++) {
    const value = strength[pixels[k]!]!
    if (value > least || (value === least && equals-- > 0)) out[place++] = pixels[k]!
  }
  return place
}

/**
 * How well the pattern holds its place along its weaker direction, as a share of the stronger one, 0..1: near 0 on a
 * straight edge, along which a match slides unseen. Root of the ratio of the structure tensor's eigenvalues (Shi &
 * Tomasi 1994).
 *
 * @throws TrackingError `no-texture` when the picture inside the region does not tell where it is
 */
export function holdOf(level: TemplateLevel, frame: PatternFrame): number {
  let uu = 0
  let uv = 0
  let vv = 0
  for (let k = 0; k < level.count; k++) {
    uu += level.gradientU[k]! ** 2
    uv += level.gradientU[k]! * level.gradientV[k]!
    vv += level.gradientV[k]! ** 2
  }
  const perPixel = level.count * frame.unitX * frame.unitY
  const apart = Math.sqrt((uu - vv) ** 2 + 4 * uv * uv)
  // As a mean squared gradient: below 0.3/255 per pixel there is only grain.
  if ((uu + vv - apart) / 2 / perPixel < (0.3 / 255) ** 2) {
    throw new TrackingError(
      'no-texture',
      'The region shows too little texture in one direction: include a corner, lettering or a pattern',
    )
  }
  return Math.sqrt((uu + vv - apart) / (uu + vv + apart))
}
