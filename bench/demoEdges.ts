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
import { renderMattes } from '@tender-lasso/core/raster'
import { cameraAt } from '../demo/camera'
import { PIECE_IDS, piecesAt } from '../demo/figure'
import { OPTICS, type OpticsName } from '../demo/optics'
import { buildStreet, pictureOutline, renderFrame, type Street } from '../demo/renderFrame'

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
  const { picture, alphas } = renderFrame(street, frame, WIDTH, HEIGHT, OPTICS[optics])
  const image = (data: Float32Array): LumaImage => ({ left: 0, top: 0, width: WIDTH, height: HEIGHT, data })
  const linear = Float32Array.from({ length: 256 }, (_, i) => toLinear('sRGB', i / 255))
  const channels = [0, 1, 2].map((c) => image(Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => linear[picture[3 * i + c]!]!))) // prettier-ignore
  const alphaOf = (id: string) => Float32Array.from(alphas[PIECE_IDS.indexOf(id)]!, (value) => value / 65535)
  return { frame, optics, channels, alphaOf }
}

/** Sigma that the edge of a piece is rendered with. */
export const trueSigma = ({ optics, frame }: TakenFrame, id: string): number =>
  OPTICS[optics].softnessOf(
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

/** Mean error of a piece's matte over the pixels that its truth has in between. */
export function inBetweenError(document: RotoDocument, { frame, alphaOf }: TakenFrame, id: string): number {
  const box = { left: 0, top: 0, right: WIDTH, bottom: HEIGHT }
  const [matte] = renderMattes(sceneAt(document, frame), [{ partId: partOf(id), withHoldouts: false }], { box, motionBlur: true })! // prettier-ignore
  let [sum, count] = [0, 0]
  alphaOf(id).forEach((alpha, i) => {
    if (alpha < 0.002 || alpha > 0.998) return
    sum += Math.abs(matte![i]! - alpha)
    count++
  })
  return sum / count
}
