import { polygonMask, cornerStrength, type LumaImage } from '../image'

/** A place that can be followed: plate pixels, and the strength of its corner. */
export interface Feature {
  x: number
  y: number
  strength: number
}

/** Weakest corner that counts, as a share of the strongest of the region (Shi & Tomasi's quality level). */
const QUALITY = 0.005

/**
 * Corners spread over a region: local maxima of the structure tensor's smaller eigenvalue, strongest first, none nearer
 * to another than `spacing`.
 *
 * Shi & Tomasi, "Good Features to Track", CVPR 1994.
 *
 * @param image     picture that holds the region
 * @param outlines  closed polygons in plate pixels, even-odd
 * @param hidden    closed polygons in plate pixels in which none is wanted
 * @param spacing   pixels between two features
 * @param most      how many at most
 */
export function goodFeatures(
  image: LumaImage,
  outlines: readonly ArrayLike<number>[],
  hidden: readonly ArrayLike<number>[],
  spacing: number,
  most: number,
): Feature[] {
  const { width, height } = image
  const corner = cornerStrength(image)
  const inside = polygonMask(outlines, image, 'even-odd').data
  const covered = hidden.length ? polygonMask(hidden, image, 'any').data : null
  const found: Feature[] = []
  let strongest = 0
  for (let y = 2; y < height - 2; y++) {
    for (let x = 2; x < width - 2; x++) {
      const at = y * width + x
      const own = corner[at]!
      if (!inside[at] || covered?.[at]) continue
      strongest = Math.max(strongest, own)
      let isPeak = true
      for (let j = -1; j <= 1 && isPeak; j++) {
        for (let i = -1; i <= 1; i++) if (corner[at + j * width + i]! > own) isPeak = false
      }
      if (isPeak) found.push({ x: image.left + x + 0.5, y: image.top + y + 0.5, strength: own })
    }
  }
  found.sort((a, b) => b.strength - a.strength)
  return spreadOut(
    found.filter(({ strength }) => strength > QUALITY * strongest),
    spacing,
    most,
  )
}

/** The first of each neighbourhood, looked up in cells of the spacing's size. */
function spreadOut(features: readonly Feature[], spacing: number, most: number): Feature[] {
  const kept: Feature[] = []
  const cells = new Map<string, Feature[]>()
  const cellOf = (x: number, y: number) => `${Math.floor(x / spacing)}/${Math.floor(y / spacing)}`
  for (const feature of features) {
    if (kept.length >= most) break
    let isFree = true
    for (let j = -1; j <= 1; j++) {
      for (let i = -1; i <= 1; i++) {
        for (const other of cells.get(cellOf(feature.x + i * spacing, feature.y + j * spacing)) ?? []) {
          if (Math.hypot(other.x - feature.x, other.y - feature.y) < spacing) isFree = false
        }
      }
    }
    if (!isFree) continue
    kept.push(feature)
    const cell = cellOf(feature.x, feature.y)
    cells.set(cell, [...(cells.get(cell) ?? []), feature])
  }
  return kept
}
