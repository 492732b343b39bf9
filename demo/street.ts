import { fractalNoise, hash2, valueNoise } from './noise'
import { inkAt, textStrokes, type TextStrokes } from './strokeFont'
import { defocused, paintTexture, type Colour, type Texture } from './texture'

/**
 * Wick Street, metres: x right, y down, z away from the camera's first place. The ground lies at y = 1.6, the facades
 * stand at z = 9.
 */
export const GROUND_Y = 1.6
export const WALL_Z = 9
export const FIGURE_Z = 5.5
export const POST_Z = 4.7
export const POST_X = 0.28

/** A shop window whose glass mirrors lamps across the street: the reflection slides against the wall. */
export const SHOP_WINDOW = { left: -1.9, top: -0.55, right: 0.25, bottom: 0.75 }
/** The painted sign over the shop, flat on the wall. */
export const WALL_SIGN = { left: -2.1, top: -1.55, right: 0.45, bottom: -0.8 }
const WALL_SIGN_TEXT = 'TALLOW & SON'

const mix = (a: Colour, b: Colour, t: number): Colour => [
  a[0] + (b[0] - a[0]) * t,
  a[1] + (b[1] - a[1]) * t,
  a[2] + (b[2] - a[2]) * t,
]

function brick(x: number, y: number): Colour {
  const courseHeight = 0.085
  const wobble = (fractalNoise(x * 1.3, y * 1.3, 3) - 0.5) * 0.02
  const course = Math.floor((y + wobble) / courseHeight)
  const length = 0.22 + 0.05 * hash2(course, 7, 1)
  const along = x / length + hash2(course, 3, 2) * 5 + (course % 2) * 0.5
  const index = Math.floor(along)
  const inU = (along - index) * length
  const inV = y + wobble - course * courseHeight
  const joint = Math.min(inU, length - inU, inV * 1.2, (courseHeight - inV) * 1.2)
  const mortar = Math.min(1, Math.max(0, (0.011 - joint) / 0.006))
  const tone = hash2(index, course, 5)
  const age = fractalNoise(x * 0.7, y * 0.7, 11)
  let colour: Colour = mix([0.088, 0.042, 0.033], [0.04, 0.028, 0.03], tone)
  if (hash2(index, course, 9) > 0.93) colour = [0.14, 0.1, 0.075]
  const grit = 0.75 + 0.5 * fractalNoise(x * 26, y * 26, 17)
  colour = mix(colour, [0.035, 0.035, 0.042], 0.5 * age)
  colour = mix(colour, [0.085, 0.08, 0.078], mortar * 0.8)
  return [colour[0] * grit, colour[1] * grit, colour[2] * grit]
}

interface Rectangle {
  left: number
  top: number
  right: number
  bottom: number
}

/** Distance inside the rectangle's border; negative outside. */
const depthInside = (r: Rectangle, x: number, y: number) => Math.min(x - r.left, r.right - x, y - r.top, r.bottom - y)

const LIT_WINDOWS: (Rectangle & { seed: number; warmth: number })[] = [
  { left: -5.4, top: -3.1, right: -4.5, bottom: -1.8, seed: 1, warmth: 1 },
  { left: -3.4, top: -3.3, right: -2.6, bottom: -2.1, seed: 2, warmth: 0.12 },
  { left: 1.6, top: -3.2, right: 2.5, bottom: -1.9, seed: 3, warmth: 0.8 },
  { left: 3.6, top: -3.2, right: 4.5, bottom: -1.9, seed: 4, warmth: 0.1 },
  { left: 2.5, top: -0.5, right: 4.0, bottom: 0.7, seed: 5, warmth: 0.65 },
]
const DOOR: Rectangle = { left: 0.85, top: -0.75, right: 1.75, bottom: 1.6 }
const SIDE_SIGN: Rectangle = { left: 2.3, top: -1.4, right: 4.2, bottom: -0.8 }

function windowColour(w: Rectangle & { seed: number; warmth: number }, x: number, y: number): Colour {
  const d = depthInside(w, x, y)
  if (d < 0.05) return [0.045, 0.04, 0.036]
  const columns = 3
  const rows = 3
  const u = ((x - w.left - 0.05) / (w.right - w.left - 0.1)) * columns
  const v = ((y - w.top - 0.05) / (w.bottom - w.top - 0.1)) * rows
  const bar = Math.min(u % 1, 1 - (u % 1), (v % 1) * 1.2, (1 - (v % 1)) * 1.2)
  if (bar < 0.06) return [0.04, 0.035, 0.03]
  const glow = (0.35 + 0.65 * fractalNoise(x * 2.2 + w.seed * 9, y * 1.7, 31)) * w.warmth
  const curtain = 0.75 + 0.25 * Math.sin(x * 42 + 3 * fractalNoise(x * 3, y, w.seed))
  return [0.9 * glow * curtain + 0.012, 0.48 * glow * curtain + 0.016, 0.15 * glow * curtain + 0.024]
}

function signColour(r: Rectangle, strokes: TextStrokes, ground: Colour, paint: Colour, x: number, y: number): Colour {
  const d = depthInside(r, x, y)
  if (d < 0.05) return mix(ground, [0.25, 0.19, 0.1], 0.8)
  const wear = fractalNoise(x * 6, y * 6, 51)
  let colour = mix(ground, [ground[0] * 0.55, ground[1] * 0.6, ground[2] * 0.7], wear)
  if (d < 0.1 && d > 0.085) colour = mix(colour, paint, 0.8)
  const ink = inkAt(strokes, x, y, 0.052, 0.012) * (wear > 0.66 ? 0.55 : 0.95)
  const shadow = inkAt(strokes, x - 0.016, y - 0.014, 0.05, 0.02)
  colour = mix(colour, [0.01, 0.01, 0.012], shadow * 0.6)
  return mix(colour, paint, ink)
}

/** Everything on the facade; alpha of the shop window's glass is told apart by {@link isShopGlass}. */
export function paintWall(pixelsPerMetre: number): Texture {
  const signText = textStrokes(WALL_SIGN_TEXT, (WALL_SIGN.left + WALL_SIGN.right) / 2, -1.175, 0.215)
  const sideText = textStrokes('CRUMB & PIE', (SIDE_SIGN.left + SIDE_SIGN.right) / 2, -1.1, 0.15)
  const texture = paintTexture(-8, -4.2, 8, GROUND_Y, pixelsPerMetre, (x, y, out) => {
    let colour = brick(x, y)
    for (const w of LIT_WINDOWS) if (depthInside(w, x, y) > 0) colour = windowColour(w, x, y)
    if (depthInside(DOOR, x, y) > 0) {
      const panel = Math.min(depthInside({ left: 0.95, top: -0.6, right: 1.65, bottom: 0.35 }, x, y), 0.03)
      colour = mix([0.02, 0.04, 0.042], [0.035, 0.062, 0.06], Math.max(0, panel) / 0.03)
    }
    if (depthInside(SHOP_WINDOW, x, y) > 0) {
      const d = depthInside(SHOP_WINDOW, x, y)
      const bar = Math.abs(((x - SHOP_WINDOW.left) % 0.72) - 0.36) > 0.335
      const goods = fractalNoise(x * 5, y * 5, 71)
      colour = d < 0.06 || bar ? [0.06, 0.045, 0.03] : [0.1 * goods + 0.02, 0.06 * goods + 0.014, 0.03 * goods + 0.012]
    }
    if (depthInside(WALL_SIGN, x, y) > 0)
      colour = signColour(WALL_SIGN, signText, [0.03, 0.075, 0.06], [0.62, 0.5, 0.22], x, y)
    if (depthInside(SIDE_SIGN, x, y) > 0)
      colour = signColour(SIDE_SIGN, sideText, [0.16, 0.035, 0.025], [0.6, 0.55, 0.4], x, y)
    if (y > 1.25) colour = mix(colour, [0.03, 0.03, 0.034], 0.6)
    // Lamplight pools on the wall to the right of the shop; dusk falls from above.
    const pool = Math.exp(-((x - 0.9) ** 2 / 5 + (y + 0.9) ** 2 / 3.2))
    const lit = 0.55 + 0.06 * (y + 4) + 1.5 * pool
    out[0] = colour[0] * (lit + 0.45 * pool)
    out[1] = colour[1] * lit
    out[2] = colour[2] * (lit + 0.22 * (1 - pool))
  })
  return defocused(texture, pixelsPerMetre * 0.0085)
}

export function isShopGlass(x: number, y: number): boolean {
  if (depthInside(SHOP_WINDOW, x, y) <= 0.06) return false
  const isBar = Math.abs(((x - SHOP_WINDOW.left) % 0.72) - 0.36) > 0.335
  return !isBar
}

/** What the shop window mirrors, on a plane as far behind the glass as the other side of the street is before it. */
export function paintMirrored(): Texture {
  return paintTexture(-9, -4, 9, 3, 40, (x, y, out) => {
    let light = 0.012 * fractalNoise(x * 1.2, y * 1.2, 81)
    for (let k = 0; k < 7; k++) {
      const cx = -7 + k * 2.3 + hash2(k, 1, 4)
      const cy = -1.2 + 1.4 * hash2(k, 2, 4)
      light += 1.1 * Math.exp(-((x - cx) ** 2 + (y - cy) ** 2) / (0.05 + 0.08 * hash2(k, 3, 4)))
    }
    out[0] = light
    out[1] = light * 0.66
    out[2] = light * 0.36
  })
}

/** Cobbles from above: x across, z away. */
export function paintGround(pixelsPerMetre: number): Texture {
  const texture = paintTexture(-8, 2, 8, WALL_Z, pixelsPerMetre, (x, z, out) => {
    const rowHeight = 0.16
    const row = Math.floor(z / rowHeight)
    const along = x / 0.2 + (row % 2) * 0.5 + hash2(row, 1, 90)
    const index = Math.floor(along)
    const du = (along - index - 0.5) * 2
    const dv = (z / rowHeight - row - 0.5) * 2
    const dome = Math.max(0, 1 - (Math.abs(du) ** 3 + Math.abs(dv) ** 3))
    const tone = 0.55 + 0.6 * hash2(index, row, 91)
    const grit = 0.7 + 0.6 * valueNoise(x * 40, z * 40, 92)
    const lamp = Math.exp(-((x - 0.6) ** 2 / 4 + (z - 5.2) ** 2 / 5))
    const kerb = z > 8.2 ? 0.6 : 1
    const value = (0.012 + 0.035 * dome * tone) * grit * (0.6 + 1.6 * lamp) * kerb
    out[0] = value * (1 + 0.35 * lamp)
    out[1] = value
    out[2] = value * (1.15 - 0.3 * lamp)
  })
  return defocused(texture, pixelsPerMetre * 0.005)
}

/** Share of mirror in the street at (x, z): wet patches. */
export function puddleAt(x: number, z: number): number {
  const shape = ((x + 0.9) / 1.3) ** 2 + ((z - 6.9) / 0.75) ** 2 + 0.5 * (fractalNoise(x * 2, z * 2, 95) - 0.5)
  const other = ((x - 2.3) / 0.9) ** 2 + ((z - 5.6) / 0.5) ** 2 + 0.5 * (fractalNoise(x * 2, z * 2, 96) - 0.5)
  const edge = Math.min(shape, other)
  return edge < 0.9 ? 0.8 : edge < 1 ? (1 - edge) * 8 : 0
}
