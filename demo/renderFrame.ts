import { cameraAt, inverse3, mapPoint, planeToPicture, type Camera } from './camera'
import { piecesAt, type Piece } from './figure'
import { grainAt } from './noise'
import { meanCoverage, spansAt } from './scanline'
import {
  GROUND_Y,
  isShopGlass,
  paintGround,
  paintMirrored,
  paintWall,
  POST_X,
  POST_Z,
  puddleAt,
  WALL_Z,
} from './street'
import { project } from './camera'
import { edgeSigma, OPTICS, type Optics } from './optics'
import { softOffsets } from './softOffsets'
import { sampleTexture, type Colour, type Texture } from './texture'

/**
 * The background is out of focus and moves little while the shutter is open: as many sub-times share one of it as there are
 * places where one of these looks in the pixel, four corners of a turned square.
 */
const BACKGROUND_PLACES = [[0.375, 0.125], [0.875, 0.375], [0.125, 0.625], [0.625, 0.875]] as const // prettier-ignore
const TRUTH_LINES = 5
const GRAIN = 2.1

export interface Street {
  wall: Texture
  ground: Texture
  wet: Texture
  mirrored: Texture
}

/** All surfaces painted once, at a resolution that suits the picture's width. */
export function buildStreet(width: number): Street {
  const detail = Math.round(125 * (width / 1280))
  const ground = paintGround(detail)
  const wet: Texture = { ...ground, data: new Float32Array(ground.data.length) }
  for (let j = 0; j < wet.height; j++) {
    for (let i = 0; i < wet.width; i++) {
      const mirror = puddleAt(wet.left + (i + 0.5) / wet.pixelsPerMetre, wet.top + (j + 0.5) / wet.pixelsPerMetre)
      wet.data.fill(mirror, (j * wet.width + i) * 3, (j * wet.width + i) * 3 + 3)
    }
  }
  return { wall: paintWall(detail), ground, wet, mirrored: paintMirrored() }
}

export interface RenderedFrame {
  /** 8-bit sRGB, three channels. */
  picture: Uint8Array
  /** 16-bit share of each pixel's light that comes from each piece, in their order, what stands in front cut out. */
  visible: Uint16Array[]
}

/** Where the piece's polygon lies in the picture. */
export function pictureOutline(camera: Camera, piece: Piece): Float64Array {
  const h = planeToPicture(camera, piece.origin, piece.alongA, piece.alongB)
  const out = new Float64Array(piece.outline.length)
  for (let i = 0; i < out.length; i += 2) out.set(mapPoint(h, piece.outline[i]!, piece.outline[i + 1]!), i)
  return out
}

const openTime = (frame: number, k: number, count: number, { shutterAngle }: Optics) =>
  frame + ((k + 0.5) / count - 0.5) * (shutterAngle / 360)

/** A piece's polygon in the picture, shifted where its edge is soft: an offset, in sigmas. */
function softOutline(
  piece: Piece,
  camera: Camera,
  time: number,
  [dx, dy]: readonly [number, number],
  optics: Optics,
  width: number,
): Float64Array {
  const outline = pictureOutline(camera, piece)
  const sigma = edgeSigma(optics, piece, time) * (width / 1280)
  if (sigma === 0) return outline
  return shifted(outline, dx * sigma, dy * sigma)
}

function shifted(polygon: Float64Array, dx: number, dy: number): Float64Array {
  return polygon.map((value, i) => value + (i % 2 ? dy : dx))
}

export function renderFrame(
  street: Street,
  frame: number,
  width: number,
  height: number,
  optics: Optics = OPTICS.usual,
): RenderedFrame {
  const { subTimes } = optics
  const offsets = softOffsets(subTimes)
  const together = subTimes / BACKGROUND_PLACES.length
  const light = new Float32Array(width * height * 3)
  const behind = new Float32Array(width * height * 3)
  const painted = new Uint8Array(width * height)
  const names = piecesAt(frame).map((piece) => piece.id)
  const seen = names.map(() => new Uint8Array(width * height))
  for (let k = 0; k < subTimes; k++) {
    const time = openTime(frame, k, subTimes, optics)
    const camera = cameraAt(time, width, height)
    const [jitterX, jitterY] = [((k * 5) % 16) / 16 + 1 / 32, ((k * 7 + 3) % 16) / 16 + 1 / 32]
    if (k % together === 0) {
      const [backX, backY] = BACKGROUND_PLACES[k / together]!
      const between = cameraAt(openTime(frame, k + (together - 1) / 2, subTimes, optics), width, height)
      renderBackground(street, between, width, height, backX, backY, together, behind, light)
    }
    painted.fill(0)
    const offset = offsets[k]!
    piecesAt(time).forEach((piece, index) => {
      const outline = softOutline(piece, camera, time, offset, optics, width)
      const focus = optics.focusOf(piece, time) * (width / 1280)
      const shift = [offset[0] * focus, offset[1] * focus] as const
      paintPiece(piece, camera, outline, shift, jitterX, jitterY, width, height, painted, behind, light, seen[index]!)
    })
  }
  const picture = developed(light, subTimes, cameraAt(frame, width, height), frame, width, height)
  return { picture, visible: seen.map((counts) => sharesOf(counts, subTimes)) }
}

/** One sample a pixel of what stands behind all pieces, into `out`, and into `light` for each sub-time it stands for. */
function renderBackground(
  street: Street,
  camera: Camera,
  width: number,
  height: number,
  jitterX: number,
  jitterY: number,
  together: number,
  out: Float32Array,
  light: Float32Array,
) {
  out.fill(0)
  const wall = inverse3(planeToPicture(camera, [0, 0, WALL_Z], [1, 0, 0], [0, 1, 0]))
  const ground = inverse3(planeToPicture(camera, [0, GROUND_Y, 0], [1, 0, 0], [0, 0, 1]))
  const glass = inverse3(planeToPicture(camera, [0, 0, 2 * WALL_Z], [1, 0, 0], [0, 1, 0]))
  const wet = new Float32Array(3)
  for (let j = 0; j < height; j++) {
    const y = j + jitterY
    for (let i = 0; i < width; i++) {
      const x = i + jitterX
      const at = (j * width + i) * 3
      const w = wall[6]! * x + wall[7]! * y + wall[8]!
      const wx = (wall[0]! * x + wall[1]! * y + wall[2]!) / w
      const wy = (wall[3]! * x + wall[4]! * y + wall[5]!) / w
      if (wy < GROUND_Y) {
        sampleTexture(street.wall, wx, wy, out, at)
        if (isShopGlass(wx, wy)) {
          const gw = glass[6]! * x + glass[7]! * y + glass[8]!
          const gx = (glass[0]! * x + glass[1]! * y + glass[2]!) / gw
          const gy = (glass[3]! * x + glass[4]! * y + glass[5]!) / gw
          sampleTexture(street.mirrored, gx, gy, out, at, 0.9)
        }
        continue
      }
      const gw = ground[6]! * x + ground[7]! * y + ground[8]!
      const gx = (ground[0]! * x + ground[1]! * y + ground[2]!) / gw
      const gz = (ground[3]! * x + ground[4]! * y + ground[5]!) / gw
      wet.fill(0)
      sampleTexture(street.wet, gx, gz, wet, 0)
      const mirror = wet[0]!
      sampleTexture(street.ground, gx, gz, out, at, 1 - 0.75 * mirror)
      // A still puddle shows the wall upside down about the ground.
      if (mirror > 0.01) sampleTexture(street.wall, wx, 2 * GROUND_Y - wy, out, at, 0.5 * mirror)
    }
    for (let at = j * width * 3; at < (j + 1) * width * 3; at++) light[at]! += together * out[at]!
  }
}

/** @param shift  of all that is painted on it, out of focus */
function paintPiece(
  piece: Piece,
  camera: Camera,
  outline: Float64Array,
  [shiftX, shiftY]: readonly [number, number],
  jitterX: number,
  jitterY: number,
  width: number,
  height: number,
  painted: Uint8Array,
  behind: Float32Array,
  light: Float32Array,
  seen: Uint8Array,
) {
  const toPicture = planeToPicture(camera, piece.origin, piece.alongA, piece.alongB)
  const [m0, m1, m2, m3, m4, m5, m6, m7, m8] = Array.from(inverse3(toPicture)) as [number, number, number, number, number, number, number, number, number] // prettier-ignore
  let top = Infinity
  let bottom = -Infinity
  for (let i = 1; i < outline.length; i += 2) {
    top = Math.min(top, outline[i]!)
    bottom = Math.max(bottom, outline[i]!)
  }
  const colour: Colour = [0, 0, 0]
  for (let row = Math.max(0, Math.floor(top - 1)); row < Math.min(height, bottom + 1); row++) {
    const y = row + jitterY
    const paintY = y - shiftY
    spansAt(outline, y, (from, to) => {
      const first = Math.max(0, Math.ceil(from - jitterX))
      const last = Math.min(width - 1, Math.ceil(to - jitterX) - 1)
      for (let i = first; i <= last; i++) {
        const pixel = row * width + i
        if (painted[pixel]) continue
        painted[pixel] = 1
        seen[pixel]!++
        const x = i + jitterX - shiftX
        const w = m6 * x + m7 * paintY + m8
        piece.shade((m0 * x + m1 * paintY + m2) / w, (m3 * x + m4 * paintY + m5) / w, colour)
        light[pixel * 3]! += colour[0] - behind[pixel * 3]!
        light[pixel * 3 + 1]! += colour[1] - behind[pixel * 3 + 1]!
        light[pixel * 3 + 2]! += colour[2] - behind[pixel * 3 + 2]!
      }
    })
  }
}

const HALO_TINT = [1.25, 0.75, 0.42] as const
const EXPOSURE = 1.35
const CURVE_STEPS = 8192

/** Shoulder for highlights, then the sRGB curve (IEC 61966-2-1), 0..255, tabled over linear light 0..4. */
const DEVELOPED = Float32Array.from({ length: CURVE_STEPS + 1 }, (_, i) => {
  const linear = (i / CURVE_STEPS) * 4
  const shouldered = linear < 0.6 ? linear : 0.6 + 0.4 * (1 - Math.exp(-(linear - 0.6) / 0.4))
  return 255 * (shouldered <= 0.0031308 ? 12.92 * shouldered : 1.055 * shouldered ** (1 / 2.4) - 0.055)
})

/** Light to an 8-bit picture: the lamp's halo, the curve, grain. */
function developed(
  light: Float32Array,
  subTimes: number,
  camera: Camera,
  frame: number,
  width: number,
  height: number,
): Uint8Array {
  const out = new Uint8Array(width * height * 3)
  const [lampX, lampY] = project(camera, POST_X, -1.85, POST_Z)
  const reach = width * 0.16
  for (let j = 0; j < height; j++) {
    for (let i = 0; i < width; i++) {
      const distance = Math.sqrt((i + 0.5 - lampX) ** 2 + (j + 0.5 - lampY) ** 2) / reach
      const halo = 0.16 * Math.exp(-distance * 1.15) + 0.0015
      const pixel = (j * width + i) * 3
      for (let c = 0; c < 3; c++) {
        const linear = (light[pixel + c]! / subTimes + halo * HALO_TINT[c]!) * EXPOSURE
        const step = Math.min(CURVE_STEPS - 1, Math.max(0, (linear / 4) * CURVE_STEPS))
        const low = Math.floor(step)
        const value = DEVELOPED[low]! + (DEVELOPED[low + 1]! - DEVELOPED[low]!) * (step - low)
        const grain = grainAt(i, j, frame * 13 + c * 5) * GRAIN * (1.3 - 0.6 * (value / 255))
        out[pixel + c] = Math.min(255, Math.max(0, Math.round(value + grain)))
      }
    }
  }
  return out
}

/** 16-bit coverage of each piece over the open shutter, nothing cut out; in the order of the pieces. */
export function truthAlphas(
  frame: number,
  width: number,
  height: number,
  optics: Optics = OPTICS.usual,
): Uint16Array[] {
  const { truthSubTimes: count, truthOffsets } = optics
  const offsets = softOffsets(count * truthOffsets)
  const isSoft = piecesAt(frame).map((piece) => edgeSigma(optics, piece, frame) > 0)
  const outlines: Float64Array[][] = isSoft.map(() => [])
  for (let k = 0; k < count; k++) {
    const time = openTime(frame, k, count, optics)
    const camera = cameraAt(time, width, height)
    const now = offsets.slice(k * truthOffsets, (k + 1) * truthOffsets)
    piecesAt(time).forEach((piece, index) => {
      for (const offset of isSoft[index] ? now : now.slice(0, 1)) {
        outlines[index]!.push(softOutline(piece, camera, time, offset, optics, width))
      }
    })
  }
  return outlines.map((polygons) => sixteenBit(meanCoverage(polygons, width, height, TRUTH_LINES)))
}

/** Values 0..1 as 0..65535. A plain loop: callbacks over a million pixels cost seconds. */
function sixteenBit(values: Float32Array): Uint16Array {
  const out = new Uint16Array(values.length)
  for (let i = 0; i < values.length; i++) {
    const value = values[i]!
    if (value > 0) out[i] = value >= 1 ? 65535 : value * 65535 + 0.5
  }
  return out
}

/** Counts of sub-times as shares, 0..65535. */
function sharesOf(counts: Uint8Array, subTimes: number): Uint16Array {
  const shares = Uint16Array.from({ length: subTimes + 1 }, (_, count) => Math.round((count / subTimes) * 65535))
  const out = new Uint16Array(counts.length)
  for (let i = 0; i < counts.length; i++) if (counts[i]) out[i] = shares[counts[i]!]!
  return out
}
