import path from 'node:path'
import sharp from 'sharp'
import { applyToPoint, identity, type Matrix3 } from '@tender-lasso/core/geometry'
import { BT709_LUMA, type LumaImage } from '@tender-lasso/core/image'
import { runTrack, type PlanarModel, type TrackedFrame } from '@tender-lasso/core/tracking'
import { cameraAt, mapPoint, planeToPicture } from '../demo/camera'
import { BOARD, PIECE_IDS, piecesAt } from '../demo/figure'
import { ALONG_A_BONE } from '../demo/legs'
import { OPTICS } from '../demo/optics'
import { pictureOutline } from '../demo/renderFrame'
import { platePath, renderShot } from '../demo/renderShot'
import { SHOP_WINDOW, WALL_SIGN, WALL_Z } from '../demo/street'
import { median, type Benchmark } from './benchmark'
import { USUAL_RUN } from './followed'
import { cut } from './photographedPlane'

const [WIDTH, HEIGHT, FIRST, FRAMES] = [1280, 720, 1001, 72]
const LAST = FIRST + FRAMES - 1

/** A surface of WS_010 as an artist would track it. */
interface Surface {
  name: string
  model: PlanarModel
  reference: number
  region: readonly number[]
  /** Positions of points of the surface on a frame, plate pixels. */
  pointsOn(frame: number): [number, number][]
  /** What is left out: closed polygons on a frame. */
  hiddenOn(frame: number): number[][]
  /** Share of the points that stand in the open on a frame. */
  isSeen?(frame: number): boolean
}

const camera = (frame: number) => cameraAt(frame, WIDTH, HEIGHT)
const piece = (id: string, frame: number) => piecesAt(frame).find((one) => one.id === id)!

const corners = (r: { left: number; top: number; right: number; bottom: number }): [number, number][] => [
  [r.left, r.top],
  [r.right, r.top],
  [r.right, r.bottom],
  [r.left, r.bottom],
]

const onWall = (frame: number, points: readonly (readonly [number, number])[]) => {
  const map = planeToPicture(camera(frame), [0, 0, WALL_Z], [1, 0, 0], [0, 1, 0])
  return points.map(([x, y]) => mapPoint(map, x, y))
}

/** Places of a piece that are fixed to its own cloth, wood or felt. */
const onPiece = (id: string, frame: number, points: readonly (readonly [number, number])[]) => {
  const { origin, alongA, alongB, surfacePoint } = piece(id, frame)
  const map = planeToPicture(camera(frame), origin, alongA, alongB)
  return points.map(([u, v]) => mapPoint(map, ...surfacePoint(u, v)))
}

/** Outlines of the pieces that stand before one of them on a frame, as Parts in front are left out. */
const before = (id: string, frame: number) =>
  PIECE_IDS.slice(0, PIECE_IDS.indexOf(id)).map((nearer) =>
    Array.from(pictureOutline(camera(frame), piece(nearer, frame))),
  )

/** Panes of the shop window, that mirror the street; bars stand between them, 0.72 m apart and 0.05 m wide. */
const PANES = [0, 1, 2].map((i) => {
  const left = SHOP_WINDOW.left + Math.max(0.06, i * 0.72 + 0.025)
  const right = Math.min(SHOP_WINDOW.right - 0.06, SHOP_WINDOW.left + (i + 1) * 0.72 - 0.025)
  return corners({ left, right, top: SHOP_WINDOW.top + 0.06, bottom: SHOP_WINDOW.bottom - 0.06 })
})

const nothing = () => []
const COAT_POINTS = [-0.15, 0.02].flatMap((u) => [-0.35, -0.15, 0.05].map((v) => [u, v] as const))
const HAT_POINTS = [[-0.07, -0.98], [0.13, -0.98], [-0.07, -0.88], [0.13, -0.88]] as const // prettier-ignore
const SHIN_POINTS = [[0.06, -0.05], [0.06, 0.05], [0.38, 0.04], [0.38, -0.04]].map(([u, v]) => [ALONG_A_BONE + u!, v!] as const) // prettier-ignore
const outlineOf = (id: string, frame: number) => Array.from(pictureOutline(camera(frame), piece(id, frame)))

function surfaces(): Surface[] {
  const board = corners({ left: -BOARD.width / 2, right: BOARD.width / 2, top: -BOARD.height / 2, bottom: BOARD.height / 2 }) // prettier-ignore
  const sign = (frame: number) => onWall(frame, corners(WALL_SIGN))
  const shop = (frame: number) => onWall(frame, corners(SHOP_WINDOW))
  const glass = (frame: number) => PANES.map((pane) => onWall(frame, pane).flat())
  const figure = (frame: number) => before('coat', frame).concat([outlineOf('coat', frame)])
  return [
    {
      name: 'signboard', model: 'perspective', reference: 1062,
      region: onPiece('signboard', 1062, board).flat(), pointsOn: (f) => onPiece('signboard', f, board), hiddenOn: nothing,
    },
    {
      name: 'wall sign', model: 'perspective', reference: 1001,
      region: sign(1001).flat(), pointsOn: sign, hiddenOn: nothing,
    },
    {
      name: 'shop window with the reflection in its panes', model: 'perspective', reference: 1001,
      region: shop(1001).flat(), pointsOn: shop, hiddenOn: nothing,
    },
    {
      name: 'shop window, panes and figure left out', model: 'perspective', reference: 1001,
      region: shop(1001).flat(), pointsOn: shop, hiddenOn: (f) => [...glass(f), ...figure(f)],
    },
    {
      name: 'coat, Parts in front left out', model: 'affine', reference: 1036,
      region: outlineOf('coat', 1036), pointsOn: (f) => onPiece('coat', f, COAT_POINTS), hiddenOn: (f) => before('coat', f),
    },
    {
      name: 'coat, nothing left out', model: 'affine', reference: 1036,
      region: outlineOf('coat', 1036), pointsOn: (f) => onPiece('coat', f, COAT_POINTS), hiddenOn: nothing,
    },
    {
      name: 'hat, Parts in front left out', model: 'similarity', reference: 1005,
      region: outlineOf('hat', 1005), pointsOn: (f) => onPiece('hat', f, HAT_POINTS), hiddenOn: (f) => before('hat', f),
    },
    {
      name: 'hat, nothing left out', model: 'similarity', reference: 1005,
      region: outlineOf('hat', 1005), pointsOn: (f) => onPiece('hat', f, HAT_POINTS), hiddenOn: nothing,
    },
    {
      name: 'shin of the near leg, Parts in front left out', model: 'similarity', reference: 1016,
      region: onPiece('near-leg', 1016, SHIN_POINTS).flat(), pointsOn: (f) => onPiece('near-leg', f, SHIN_POINTS), hiddenOn: (f) => before('near-leg', f),
    },
  ] // prettier-ignore
}

async function lumaOf(file: string): Promise<LumaImage> {
  const { data, info } = await sharp(file).removeAlpha().toColourspace('rgb16').raw({ depth: 'ushort' }).toBuffer({ resolveWithObject: true }) // prettier-ignore
  const values = new Uint16Array(data.buffer, data.byteOffset, data.length / 2)
  const luma = new Float32Array(info.width * info.height)
  for (let i = 0; i < luma.length; i++) {
    for (let c = 0; c < 3; c++) luma[i]! += (BT709_LUMA[c]! * values[3 * i + c]!) / 65535
  }
  return { left: 0, top: 0, width: info.width, height: info.height, data: luma }
}

/** Root of the mean squared distance of the surface's points from where the track carries them. */
function errorOn(surface: Surface, frame: number, matrix: Matrix3): number {
  const from = surface.pointsOn(surface.reference)
  const to = surface.pointsOn(frame)
  const squares = from.map(([x, y], i) => {
    const [u, v] = applyToPoint(matrix, x, y)
    return (u! - to[i]![0]) ** 2 + (v! - to[i]![1]) ** 2
  })
  return Math.sqrt(squares.reduce((a, b) => a + b) / squares.length)
}

async function tracked(surface: Surface, frames: readonly LumaImage[]) {
  const errors: number[] = []
  const ends: string[] = []
  for (const way of [1, -1]) {
    const count = way > 0 ? LAST - surface.reference : surface.reference - FIRST
    const steps = Array.from({ length: count }, (_, i) => {
      const frame = surface.reference + way * (i + 1)
      return { frame, pattern: 0, hidden: surface.hiddenOn(frame) }
    })
    const { reference, region, model } = surface
    const end = await runTrack(
      {
        ...USUAL_RUN,
        shutter: OPTICS.usual.shutterAngle / 360,
        surface: 'plane',
        model,
        search: [0, 0, 0, 0],
        patterns: [{ frame: reference, outlines: [region], hidden: surface.hiddenOn(reference), matrix: identity() }],
        steps,
        minimumMatch: 0.8,
      },
      (frame, box) => Promise.resolve(cut(frames[frame - FIRST]!, box)),
      ({ frame, matrix }: TrackedFrame) => errors.push(errorOn(surface, frame, matrix)) > 0,
    )
    if (end.reason !== 'finished' && 'frame' in end) ends.push(`${end.reason} on ${end.frame}`)
  }
  return { errors, ends }
}

export const demoSurfaces: Benchmark = {
  name: 'demo-surfaces',
  goal: 0.1,
  better: 'less',
  async run() {
    const folder = path.resolve(import.meta.dirname, '../.test-data/bench/demo/ws_010')
    await renderShot({ folder, width: WIDTH, height: HEIGHT, firstFrame: FIRST, frameCount: FRAMES }, () => {})
    const frames = await Promise.all(Array.from({ length: FRAMES }, (_, i) => lumaOf(platePath(folder, FIRST + i))))
    const rows: string[] = []
    let value = Infinity
    for (const surface of surfaces()) {
      const { errors, ends } = await tracked(surface, frames)
      if (surface.name === 'signboard') value = median(errors)
      if (errors.length === 0) throw new Error(`${surface.name}: ${ends.join(', ')}`)
      rows.push(
        `${surface.name}: ${median(errors).toFixed(3)} px, worst ${Math.max(...errors).toFixed(3)}, ` +
          `${errors.length} of ${FRAMES - 1} frames${ends.length ? `, ${ends.join(', ')}` : ''}`,
      )
    }
    return { value, unit: 'px median error of the signboard', notes: rows.join('\n  ') }
  },
}
