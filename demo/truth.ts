import { cameraAt, inverse3, mapPoint, planeToPicture, product, type Camera } from './camera'
import { BOARD, PIECE_IDS, piecesAt, type Piece } from './figure'
import { OPTICS } from './optics'
import { pictureOutline } from './renderFrame'
import { GROUND_Y, SHOP_WINDOW, WALL_SIGN, WALL_Z } from './street'
import { spansAt } from './scanline'

/** What is known about the shot, beside the mattes: written next to them as truth.json. All positions in plate pixels. */
export interface Truth {
  width: number
  height: number
  firstFrame: number
  lastFrame: number
  shutterAngle: number
  /** Nearest first. */
  parts: { id: string; softnessPixels: number; outlines: number[][] }[]
  /** Homographies from the first frame to each frame, row-major, w = 1 at the centre of the outline. */
  surfaces: { id: string; referenceOutline: number[]; homographies: number[][] }[]
  features: { surface: string; positions: [number, number][]; visible: boolean[] }[]
  cameras: Camera[]
}

type Plane = Pick<Piece, 'origin' | 'alongA' | 'alongB'>
const wallPlane: Plane = { origin: [0, 0, WALL_Z], alongA: [1, 0, 0], alongB: [0, 1, 0] }
const groundPlane: Plane = { origin: [0, GROUND_Y, 0], alongA: [1, 0, 0], alongB: [0, 0, 1] }

function rectangle(r: { left: number; top: number; right: number; bottom: number }): number[] {
  return [r.left, r.top, r.right, r.top, r.right, r.bottom, r.left, r.bottom]
}

const SURFACES: { id: string; planeAt(time: number): Plane; outline: number[] }[] = [
  { id: 'wall-sign', planeAt: () => wallPlane, outline: rectangle(WALL_SIGN) },
  { id: 'shop-window', planeAt: () => wallPlane, outline: rectangle(SHOP_WINDOW) },
  { id: 'ground', planeAt: () => groundPlane, outline: [-1.2, 4.5, 1.2, 4.5, 1.5, 6.5, -1.5, 6.5] },
  {
    id: 'signboard',
    planeAt: (time) => piecesAt(time).find((piece) => piece.id === 'signboard')!,
    outline: rectangle({
      left: -BOARD.width / 2,
      top: -BOARD.height / 2,
      right: BOARD.width / 2,
      bottom: BOARD.height / 2,
    }),
  },
]

/** Thirty points that stay on their surfaces: metres of the wall, of the board, of the coat's cloth. */
const FEATURES: { surface: 'wall' | 'signboard' | 'coat'; u: number; v: number }[] = [
  ...[-2.1, -1.2, -0.3, 0.45, 1.7, 2.6].flatMap((u) => [-1.5, -0.75].map((v) => ({ surface: 'wall' as const, u, v }))),
  ...[-0.3, -0.1, 0.1, 0.3].flatMap((u) => [-0.12, 0.2].map((v) => ({ surface: 'signboard' as const, u, v }))),
  ...[-0.15, 0.02].flatMap((u) => [-0.45, -0.25, -0.05, 0.15, 0.35].map((v) => ({ surface: 'coat' as const, u, v }))),
]

export function truthOf(firstFrame: number, frameCount: number, width: number, height: number): Truth {
  const frames = Array.from({ length: frameCount }, (_, i) => firstFrame + i)
  const cameras = frames.map((frame) => cameraAt(frame, width, height))
  const pieces = frames.map((frame) => piecesAt(frame))
  const mapOf = (plane: Plane, i: number) => planeToPicture(cameras[i]!, plane.origin, plane.alongA, plane.alongB)
  const rounded = (values: Iterable<number>) => Array.from(values, (v) => Number(v.toPrecision(12)))
  return {
    width,
    height,
    firstFrame,
    lastFrame: firstFrame + frameCount - 1,
    shutterAngle: OPTICS.usual.shutterAngle,
    parts: PIECE_IDS.map((id, p) => ({
      id,
      softnessPixels: pieces[0]![p]!.softness * (width / 1280),
      outlines: frames.map((_, i) =>
        Array.from(pictureOutline(cameras[i]!, pieces[i]![p]!), (v) => Number(v.toFixed(4))),
      ),
    })),
    surfaces: SURFACES.map((surface) => {
      const first = mapOf(surface.planeAt(firstFrame), 0)
      const referenceOutline: number[] = []
      for (let k = 0; k < surface.outline.length; k += 2) {
        referenceOutline.push(...mapPoint(first, surface.outline[k]!, surface.outline[k + 1]!))
      }
      const [cx, cy] = [0, 1].map((axis) => referenceOutline.filter((_, k) => k % 2 === axis).reduce((a, b) => a + b) / (referenceOutline.length / 2)) // prettier-ignore
      const homographies = frames.map((frame, i) => {
        const h = product(mapOf(surface.planeAt(frame), i), inverse3(first))
        const w = h[6]! * cx! + h[7]! * cy! + h[8]!
        return rounded(h.map((v) => v / w))
      })
      return { id: surface.id, referenceOutline: rounded(referenceOutline), homographies }
    }),
    features: FEATURES.map((feature) => {
      const positions: [number, number][] = []
      const visible: boolean[] = []
      frames.forEach((_, i) => {
        const index = PIECE_IDS.indexOf(feature.surface)
        const piece = index < 0 ? null : pieces[i]![index]!
        const [a, b] = piece ? piece.surfacePoint(feature.u, feature.v) : [feature.u, feature.v]
        const [x, y] = mapPoint(mapOf(piece ?? wallPlane, i), a, b)
        const nearer = index < 0 ? pieces[i]! : pieces[i]!.slice(0, index)
        const hidden = nearer.some((other) => isInside(pictureOutline(cameras[i]!, other), x, y))
        positions.push([Number(x.toFixed(4)), Number(y.toFixed(4))])
        visible.push(!hidden && x >= 0 && y >= 0 && x < width && y < height)
      })
      return { surface: feature.surface, positions, visible }
    }),
    cameras,
  }
}

function isInside(polygon: Float64Array, x: number, y: number): boolean {
  let inside = false
  spansAt(polygon, y, (from, to) => {
    if (x >= from && x < to) inside = true
  })
  return inside
}
