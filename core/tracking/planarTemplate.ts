import { TrackingError } from '../errors'
import { boundsOf, windingNumber } from '../geometry'
import type { PyramidLevel } from '../image'

/** Samples of one pyramid level of the reference picture inside the region. */
export interface TemplateLevel {
  scale: number
  count: number
  /** Positions in normalised region coordinates: (plate - centre) / halfSize. */
  u: Float32Array
  v: Float32Array
  value: Float32Array
  /** Steepest-descent gradients in normalised coordinates. */
  gradientU: Float32Array
  gradientV: Float32Array
  /** Length of the gradient per pixel of the level: how much a mismatch of one pixel changes the value. */
  steepness: Float32Array
}

export interface RegionFrame {
  centreX: number
  centreY: number
  /** Plate pixels that make one normalised unit. */
  halfSize: number
}

/** More samples than this on one level gain no accuracy that grain leaves visible, only time. */
const MOST_SAMPLES = 24_000

export function regionFrameOf(region: ArrayLike<number>): RegionFrame {
  const box = boundsOf(region)
  return {
    centreX: (box.left + box.right) / 2,
    centreY: (box.top + box.bottom) / 2,
    halfSize: Math.max(box.right - box.left, box.bottom - box.top) / 2,
  }
}

/**
 * Samples of the region on one level: every pixel whose centre lies inside the region and in no leave-out outline,
 * thinned evenly to {@link MOST_SAMPLES}.
 *
 * @throws TrackingError `region-too-small` when fewer than 30 samples are left on the finest level
 */
export function templateLevel(
  image: PyramidLevel,
  region: ArrayLike<number>,
  leaveOut: readonly ArrayLike<number>[],
  frame: RegionFrame,
): TemplateLevel {
  const { scale } = image
  const box = boundsOf(region)
  const firstX = Math.max(1, Math.floor((box.left - image.left) / scale))
  const lastX = Math.min(image.width - 2, Math.ceil((box.right - image.left) / scale))
  const firstY = Math.max(1, Math.floor((box.top - image.top) / scale))
  const lastY = Math.min(image.height - 2, Math.ceil((box.bottom - image.top) / scale))
  const inside: number[] = []
  for (let j = firstY; j <= lastY; j++) {
    const y = image.top + (j + 0.5) * scale
    for (let i = firstX; i <= lastX; i++) {
      const x = image.left + (i + 0.5) * scale
      if (windingNumber(region, x, y) === 0) continue
      if (leaveOut.some((outline) => windingNumber(outline, x, y) !== 0)) continue
      inside.push(j * image.width + i)
    }
  }
  if (scale === 1 && inside.length < 30) {
    throw new TrackingError('region-too-small', 'Fewer than 30 pixels are left inside the region: draw it larger')
  }
  const step = Math.max(1, inside.length / MOST_SAMPLES)
  const count = Math.floor(inside.length / step)
  const level: TemplateLevel = {
    scale,
    count,
    u: new Float32Array(count),
    v: new Float32Array(count),
    value: new Float32Array(count),
    gradientU: new Float32Array(count),
    gradientV: new Float32Array(count),
    steepness: new Float32Array(count),
  }
  const { data, width } = image
  const perUnit = frame.halfSize / scale
  for (let k = 0; k < count; k++) {
    const at = inside[Math.floor(k * step)]!
    const i = at % width
    const j = (at - i) / width
    level.u[k] = (image.left + (i + 0.5) * scale - frame.centreX) / frame.halfSize
    level.v[k] = (image.top + (j + 0.5) * scale - frame.centreY) / frame.halfSize
    level.value[k] = data[at]!
    const gradientX = (data[at + 1]! - data[at - 1]!) / 2
    const gradientY = (data[at + width]! - data[at - width]!) / 2
    level.gradientU[k] = gradientX * perUnit
    level.gradientV[k] = gradientY * perUnit
    level.steepness[k] = Math.hypot(gradientX, gradientY)
  }
  return level
}

/** @throws TrackingError `no-texture` when the picture inside the region does not tell where it is */
export function requireTexture(level: TemplateLevel, frame: RegionFrame) {
  let uu = 0
  let uv = 0
  let vv = 0
  for (let k = 0; k < level.count; k++) {
    uu += level.gradientU[k]! ** 2
    uv += level.gradientU[k]! * level.gradientV[k]!
    vv += level.gradientV[k]! ** 2
  }
  const perPixel = level.count * frame.halfSize ** 2
  const smallest = (uu + vv - Math.sqrt((uu - vv) ** 2 + 4 * uv * uv)) / 2 / perPixel
  // Structure tensor's smaller eigenvalue (Shi & Tomasi 1994) as a mean squared gradient: below 0.3/255 per pixel there
  // is only grain.
  if (smallest < (0.3 / 255) ** 2) {
    throw new TrackingError(
      'no-texture',
      'The region shows too little texture in one direction: include a corner, lettering or a pattern',
    )
  }
}
