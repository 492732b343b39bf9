import {
  constantChannel,
  POINT_STRIDE,
  type Channels,
  type RotoDocument,
  type Shape,
} from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { toLinear } from '@tender-lasso/core/colour'
import { sceneAt } from '@tender-lasso/core/evaluation'
import type { LumaImage } from '@tender-lasso/core/image'
import type { EdgePlace } from '@tender-lasso/core/measures'
import { renderMattes } from '@tender-lasso/core/raster'
import { cameraAt } from '../demo/camera'
import { PIECE_IDS, piecesAt } from '../demo/figure'
import { edgeSigma, OPTICS, type OpticsName } from '../demo/optics'
import { buildStreet, pictureOutline, renderFrame, truthAlphas, type Street } from '../demo/renderFrame'

const [WIDTH, HEIGHT] = [1280, 720]

/** A frame of WS_010 as one of its cameras takes it, with its truth. */
export interface TakenFrame {
  frame: number
  optics: OpticsName
  /** Red, green and blue in linear light. */
  channels: LumaImage[]
  /** Coverage of a piece over the open shutter, 0..1. */
  alphaOf(id: string): Float32Array
}

let street: Street | null = null

export function taken(optics: OpticsName, frame: number): TakenFrame {
  street ??= buildStreet(WIDTH)
  const { picture } = renderFrame(street, frame, WIDTH, HEIGHT, OPTICS[optics])
  const image = (data: Float32Array): LumaImage => ({ left: 0, top: 0, width: WIDTH, height: HEIGHT, data })
  const channels = [0, 1, 2].map((c) => image(linearPlane(picture, c)))
  let alphas: Uint16Array[] | null = null
  const known = new Map<string, Float32Array>()
  const alphaOf = (id: string) => {
    alphas ??= truthAlphas(frame, WIDTH, HEIGHT, OPTICS[optics])
    const found = known.get(id) ?? sharesOf(alphas[PIECE_IDS.indexOf(id)]!)
    known.set(id, found)
    return found
  }
  return { frame, optics, channels, alphaOf }
}

const LINEAR = Float32Array.from({ length: 256 }, (_, value) => toLinear('sRGB', value / 255))

/** One colour of a picture in linear light. */
function linearPlane(picture: Uint8Array, colour: number): Float32Array {
  const out = new Float32Array(picture.length / 3)
  for (let i = 0; i < out.length; i++) out[i] = LINEAR[picture[3 * i + colour]!]!
  return out
}

/** 0..65535 as 0..1. A plain loop: callbacks over a million pixels cost seconds. */
function sharesOf(alpha: Uint16Array): Float32Array {
  const out = new Float32Array(alpha.length)
  for (let i = 0; i < out.length; i++) out[i] = alpha[i]! / 65535
  return out
}

/** Sigma that the edge of a piece is rendered with. */
export const trueSigma = ({ optics, frame }: TakenFrame, id: string): number =>
  edgeSigma(
    OPTICS[optics],
    piecesAt(frame).find((piece) => piece.id === id)!,
    frame,
  )

/** Frames between two keys: outlines are keyed so closely that between them nothing is lost. */
const KEY_STEP = 0.25

/** All pieces with their true outlines about some frames, one Part each, named as they are; their shapes have the same ids. */
export function trueDocument(
  frames: readonly number[],
  settings: (id: string) => Channels,
  shutter = 180,
): RotoDocument {
  const times = [...new Set(frames.flatMap((frame) => [-2, -1, 0, 1, 2].map((n) => frame + n * KEY_STEP)))]
  times.sort((a, b) => a - b)
  const shapes = PIECE_IDS.map((id, p): Shape => {
    const count = piecesAt(frames[0]!)[p]!.outline.length / 2
    const keys = times.map((time) => {
      const outline = pictureOutline(cameraAt(time, WIDTH, HEIGHT), piecesAt(time)[p]!)
      const values = new Float64Array(count * POINT_STRIDE)
      for (let i = 0; i < count; i++) values.set([outline[2 * i]!, outline[2 * i + 1]!], i * POINT_STRIDE)
      return { time, interpolation: 'linear' as const, values }
    })
    const shape = testShape(id, partOf(id), [frames[0]!], count)
    return { ...shape, corners: shape.corners.map(() => true), channels: { outline: { keys }, ...settings(id) } }
  })
  const shot = { ...testShot, width: WIDTH, height: HEIGHT, channels: { shutterAngle: constantChannel(shutter), shutterPhase: constantChannel(-shutter / 2) } } // prettier-ignore
  return documentOf([shot, testSubject, ...PIECE_IDS.map((id, depth) => testPart(partOf(id), { depth })), ...shapes])
}

const partOf = (id: string) => `${id}Part`

/** Distances from the edge, pixels, at which its two sides are looked at, and how far along it. */
const [NEAREST, FARTHEST, ALONG] = [4, 9, 4]
/** Linear light, and spreads of either side, by which the sides of an edge differ that an eye sees. */
const [LEAST_DIFFERENCE, LEAST_SPREADS] = [0.05, 2]
/** Radians by which an edge turns there that has one normal. */
const STRAIGHT = 0.25

/** Coverage of the pieces in front of one. */
const inFrontOf = ({ alphaOf }: TakenFrame, id: string) => PIECE_IDS.slice(0, PIECE_IDS.indexOf(id)).map(alphaOf)

/** The places at which something stands in front of a piece. */
export function hiddenPlaces(one: TakenFrame, id: string, places: readonly EdgePlace[]): EdgePlace[] {
  const front = inFrontOf(one, id)
  return places.filter(({ x, y }) => front.some((alpha) => alpha[Math.floor(y) * WIDTH + Math.floor(x)]! >= 0.5))
}

/** The places at which the edge of a piece is clear in truth: straight, nothing in front of either side, and in some colour the sides differ. */
export function trulyClearPlaces(one: TakenFrame, id: string, places: readonly EdgePlace[]): EdgePlace[] {
  const front = inFrontOf(one, id)
  return places.filter((place) => place.turn <= STRAIGHT && isSeen(one, front, place))
}

function isSeen({ channels }: TakenFrame, front: readonly Float32Array[], place: EdgePlace): boolean {
  const sideOf = (way: 1 | -1) => {
    const at: number[] = []
    for (let across = NEAREST; across <= FARTHEST; across++) {
      for (let along = -ALONG; along <= ALONG; along++) {
        const x = Math.floor(place.x + way * across * place.normalX - along * place.normalY)
        const y = Math.floor(place.y + way * across * place.normalY + along * place.normalX)
        const pixel = y * WIDTH + x
        if (x < 0 || y < 0 || x >= WIDTH || y >= HEIGHT || front.some((alpha) => alpha[pixel]! > 0.01)) return null
        at.push(pixel)
      }
    }
    return channels.map(({ data }) => {
      const mean = at.reduce((sum, pixel) => sum + data[pixel]!, 0) / at.length
      return { mean, spread: Math.sqrt(at.reduce((sum, pixel) => sum + (data[pixel]! - mean) ** 2, 0) / at.length) }
    })
  }
  const [inside, outside] = [sideOf(-1), sideOf(1)]
  if (!inside || !outside) return false
  return inside.some(({ mean, spread }, c) => {
    const other = outside[c]!
    return Math.abs(mean - other.mean) > Math.max(LEAST_DIFFERENCE, LEAST_SPREADS * Math.max(spread, other.spread))
  })
}

/** Error of a piece's matte over the pixels that its truth has in between: its sum, and how many they are. */
export function inBetweenError(document: RotoDocument, { frame, alphaOf }: TakenFrame, id: string) {
  const box = { left: 0, top: 0, right: WIDTH, bottom: HEIGHT }
  const [matte] = renderMattes(sceneAt(document, frame), [{ partId: partOf(id), withHoldouts: false }], { box, motionBlur: true })! // prettier-ignore
  let [sum, count] = [0, 0]
  const truth = alphaOf(id)
  for (let i = 0; i < truth.length; i++) {
    if (truth[i]! < 0.002 || truth[i]! > 0.998) continue
    sum += Math.abs(matte![i]! - truth[i]!)
    count++
  }
  return { sum, count, mean: sum / count }
}
