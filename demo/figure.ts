import { FIGURE_Z, GROUND_Y, POST_X, POST_Z } from './street'
import { fractalNoise, valueNoise } from './noise'
import { ALONG_A_BONE, bonesOf, nearestBone, stiltWood, trouserCloth } from './legs'
import { inkAt, textStrokes } from './strokeFont'
import type { Colour, Tint } from './texture'

/** A flat piece of the scene: where its plane lies, its outline there, and how a point of it looks. */
export interface Piece {
  id: string
  /** Plane in the world: a point, and the directions of its coordinates a and b, metres. */
  origin: [number, number, number]
  alongA: [number, number, number]
  alongB: [number, number, number]
  /** Closed polygon a0, b0, a1, b1 ... */
  outline: Float64Array
  /** Linear-light colour at plane coordinates (a, b). */
  shade(a: number, b: number, out: Colour): void
  /** Standard deviation of the edge's softness, in pixels of a 1280 wide picture. */
  softness: number
  /** Place of a fixed point of the piece's own surface, for features. */
  surfacePoint(u: number, v: number): [number, number]
}

export const BOARD = { width: 0.82, height: 0.56 }

/** Pieces from nearest to farthest. */
export function piecesAt(time: number): Piece[] {
  const t = time - 1001
  const stride = (2 * Math.PI * t) / 26
  const hipX = -1.78 + 0.042 * t
  const hipY = GROUND_Y - 1.2 + 0.022 * Math.cos(2 * stride) + 0.004
  const lean = 0.025 * Math.sin(stride + 0.6)
  const figure = { origin: [0, 0, FIGURE_Z], alongA: [1, 0, 0], alongB: [0, 1, 0] } as const
  // The body leans about the hip.
  const [c, s] = [Math.cos(lean), Math.sin(lean)]
  const at = (x: number, y: number): [number, number] => [hipX + c * x - s * y, hipY + s * x + c * y]
  // Numbers by themselves: shading asks for each pixel, and a pair would be made anew every time.
  const localX = (a: number, b: number) => c * (a - hipX) + s * (b - hipY)
  const localY = (a: number, b: number) => -s * (a - hipX) + c * (b - hipY)
  const local = (a: number, b: number): [number, number] => [localX(a, b), localY(a, b)]
  const onFigure = (
    id: string,
    points: [number, number][],
    shade: (x: number, y: number, out: Colour) => void,
    options: { softness?: number; corners?: boolean } = {},
  ): Piece => ({
    id,
    origin: [...figure.origin],
    alongA: [...figure.alongA],
    alongB: [...figure.alongB],
    outline: options.corners ? flat(points.map(([x, y]) => at(x, y))) : smoothClosed(points.map(([x, y]) => at(x, y))),
    softness: options.softness ?? 0,
    shade(a, b, out) {
      const x = localX(a, b)
      shade(x, localY(a, b), out)
      lampLight(x, out)
    },
    surfacePoint: (u, v) => at(u, v),
  })

  const sway = 0.045 * Math.sin(stride - 0.7)
  const coatSway = (y: number) => sway * Math.max(0, (y + 0.15) / 0.6) ** 2
  const coat: Piece = {
    ...onFigure(
      'coat',
      (
        [
          [-0.06, -0.62],
          [0.1, -0.62],
          [0.2, -0.56],
          [0.235, -0.4],
          [0.225, -0.15],
          [0.26, 0.15],
          [0.33, 0.42],
          [0.15, 0.46 + 0.02 * Math.sin(stride)],
          [-0.06, 0.44 - 0.02 * Math.sin(stride)],
          [-0.29, 0.45],
          [-0.25, 0.15],
          [-0.215, -0.15],
          [-0.22, -0.4],
          [-0.17, -0.56],
        ] as [number, number][]
      ).map(([x, y]) => [x + coatSway(y), y]),
      (x, y, out) => coatCloth(x - coatSway(y), y, out),
    ),
    surfacePoint: (u, v) => at(u + coatSway(v), v),
  }

  const boardYaw = 0.2 * Math.sin((2 * Math.PI * t) / 37 + 0.3) - 0.1
  const boardRoll = 0.055 * Math.sin((2 * Math.PI * t) / 29 + 1.2)
  const [boardX, boardY] = at(0.34, -0.02 + 0.012 * Math.sin(2 * stride + 0.8))
  const board = boardPiece(boardX, boardY, boardYaw, boardRoll)

  const shoulder: [number, number] = [0.02, -0.5]
  const handOnBoard = local(...planePoint(board, -0.12, -BOARD.height / 2 + 0.05))
  const elbow: [number, number] = [-0.1 + 0.02 * Math.sin(stride), -0.22]
  const swing = 0.45 * Math.sin(stride + Math.PI)
  const farElbow: [number, number] = [0.28 * Math.sin(swing) - 0.02, -0.5 + 0.28 * Math.cos(swing)]
  const farHand: [number, number] = [
    farElbow[0] + 0.27 * Math.sin(swing + 0.45),
    farElbow[1] + 0.27 * Math.cos(swing + 0.45),
  ]
  const sleeve = (x: number, y: number, out: Colour) => {
    coatCloth(x * 1.1 + 0.3, y * 1.1, out)
    for (let i = 0; i < 3; i++) out[i]! *= 0.85
  }
  const leg = (id: string, phase: number): Piece => {
    const lift = 0.4 * Math.sin(stride + phase)
    const knee: [number, number] = [0.42 * Math.sin(lift) + 0.02, 0.42 * Math.cos(lift)]
    const bend = lift - 0.5 * Math.max(0, Math.sin(stride + phase - 1.1))
    const ankle: [number, number] = [knee[0] + 0.42 * Math.sin(bend), knee[1] + 0.42 * Math.cos(bend)]
    const foot: [number, number] = [ankle[0] + 0.34 * Math.sin(bend * 0.8), ankle[1] + 0.34 * Math.cos(bend * 0.8)]
    const joints: [number, number][] = [[0, 0.1], knee, ankle, foot]
    const bones = bonesOf(joints)
    return {
      ...onFigure(id, limb(joints, [0.1, 0.075, 0.06, 0.028]), (x, y, out) => {
        const bone = nearestBone(joints, x, y)
        const { from, dx, dy } = bones[bone]!
        const along = (x - from[0]) * dx + (y - from[1]) * dy
        const across = (y - from[1]) * dx - (x - from[0]) * dy
        if (bone === 2) stiltWood(along, across, out)
        else trouserCloth(along + ALONG_A_BONE * bone, across, out)
      }),
      surfacePoint(u, v) {
        const bone = Math.min(bones.length - 1, Math.max(0, Math.floor(u / ALONG_A_BONE)))
        const { from, dx, dy } = bones[bone]!
        const along = u - ALONG_A_BONE * bone
        return at(from[0] + along * dx - v * dy, from[1] + along * dy + v * dx)
      },
    }
  }
  const spin = (2 * Math.PI * t * 31) / 360
  const pieces: Piece[] = [
    postPiece(),
    onFigure('near-arm', limb([shoulder, elbow, handOnBoard], [0.085, 0.07, 0.05]), sleeve),
    board,
    onFigure(
      'pinwheel',
      pinwheelOutline(0.03, -1.19, 0.17, spin),
      (x, y, out) => {
        const angle = Math.atan2(y + 1.19, x - 0.03) - spin
        const red = Math.floor(((angle / (2 * Math.PI)) * 8 + 80) % 2) === 0
        out[0] = red ? 0.5 : 0.55
        out[1] = red ? 0.06 : 0.46
        out[2] = red ? 0.04 : 0.3
      },
      { corners: true },
    ),
    onFigure(
      'hat',
      hatOutline(),
      (x, y, out) => {
        const felt = 0.75 + 0.5 * fractalNoise(x * 38, y * 38, 151)
        const band = y > -0.91 && y < -0.86
        out[0] = (band ? 0.16 : 0.026) * felt
        out[1] = (band ? 0.045 : 0.024) * felt
        out[2] = (band ? 0.03 : 0.03) * felt
      },
      { corners: true },
    ),
    onFigure(
      'scarf',
      scarfOutline(stride),
      (x, y, out) => {
        const stripe = Math.sin((x * 0.8 + y) * 70) > 0.25
        const knit = 0.7 + 0.6 * valueNoise(x * 90, y * 90, 161)
        out[0] = (stripe ? 0.3 : 0.2) * knit
        out[1] = (stripe ? 0.17 : 0.05) * knit
        out[2] = (stripe ? 0.07 : 0.035) * knit
      },
      { softness: 1.5 },
    ),
    onFigure('head', ellipse(0.03, -0.73, 0.095, 0.135), (x, y, out) => {
      const skin = 0.85 + 0.3 * fractalNoise(x * 20, y * 20, 171)
      const beard = y > -0.7 + 0.03 * Math.sin(x * 60) && x > -0.03
      const shade = 0.75 + 1.6 * (x + 0.03)
      out[0] = (beard ? 0.09 : 0.27) * skin * shade
      out[1] = (beard ? 0.06 : 0.15) * skin * shade
      out[2] = (beard ? 0.045 : 0.1) * skin * shade
    }),
    coat,
    leg('near-leg', 0),
    leg('far-leg', Math.PI),
    onFigure('far-arm', limb([[-0.01, -0.5], farElbow, farHand], [0.075, 0.062, 0.045]), sleeve),
  ]
  return pieces
}

/** Part ids from nearest to farthest. */
export const PIECE_IDS = piecesAt(1001).map((piece) => piece.id)

function planePoint(piece: Piece, a: number, b: number): [number, number] {
  return [
    piece.origin[0] + a * piece.alongA[0] + b * piece.alongB[0],
    piece.origin[1] + a * piece.alongA[1] + b * piece.alongB[1],
  ]
}

const COAT = {
  ground: [0.038, 0.05, 0.046],
  check: [0.058, 0.07, 0.06],
  rust: [0.19, 0.075, 0.04],
  pale: [0.17, 0.16, 0.125],
  button: [0.42, 0.33, 0.16],
  buttonRim: [0.12, 0.09, 0.05],
} as const

function coatCloth(x: number, y: number, out: Colour) {
  const fold =
    0.82 + 0.22 * Math.sin(x * 24 + 2.5 * fractalNoise(x * 3, y * 2.2, 111)) * Math.min(1, Math.max(0.15, y + 0.6))
  const weave = 0.72 + 0.56 * fractalNoise(x * 70, y * 70, 121)
  // A checked cloth: dark green with a rust and a pale line.
  const u = (((x * 9) % 1) + 1) % 1
  const v = (((y * 9) % 1) + 1) % 1
  let colour: Tint = COAT.ground
  if (u < 0.4 !== v < 0.4) colour = COAT.check
  if (Math.abs(u - 0.7) < 0.045 || Math.abs(v - 0.7) < 0.045) colour = COAT.rust
  if (Math.abs(u - 0.2) < 0.025 || Math.abs(v - 0.2) < 0.025) colour = COAT.pale
  const seam = Math.abs(x - 0.09 - 0.02 * y) < 0.008 ? 0.4 : 1
  for (let k = 0; k < 5; k++) {
    const square = (x - 0.13 - 0.02 * y) ** 2 + (y + 0.42 - k * 0.16) ** 2
    if (square < 0.018 ** 2) colour = square < 0.011 ** 2 ? COAT.button : COAT.buttonRim
  }
  const value = fold * weave * seam
  out[0] = colour[0] * value
  out[1] = colour[1] * value
  out[2] = colour[2] * value
}

/** Warm rim from the lamp on the right, cool fill from the dusk behind. */
function lampLight(x: number, out: Colour) {
  const warm = 1.15 + 1.7 * Math.min(1, Math.max(0, (x + 0.25) / 0.6)) ** 1.5
  out[0] = out[0] * warm * 1.08
  out[1] = out[1] * (0.55 + 0.5 * warm)
  out[2] = out[2] * (0.95 + 0.12 * warm)
}

const boardText = [
  ...['OIL LAMPS', 'LIT & MENDED'].map((line, i) =>
    textStrokes(line, 0, i === 0 ? -0.085 : 0.105, i === 0 ? 0.088 : 0.056),
  ),
]

const BOARD_PAINT = {
  frame: [0.12, 0.075, 0.035],
  field: [0.42, 0.36, 0.24],
  line: [0.2, 0.04, 0.03],
  ink: [0.14, 0.025, 0.02],
  lamp: [0.5, 0.3, 0.06],
  lampRim: [0.05, 0.04, 0.035],
} as const

function boardPiece(x: number, y: number, yaw: number, roll: number): Piece {
  const [cy, sy] = [Math.cos(yaw), Math.sin(yaw)]
  const [cr, sr] = [Math.cos(roll), Math.sin(roll)]
  const half = [BOARD.width / 2, BOARD.height / 2] as const
  return {
    id: 'signboard',
    origin: [x, y, FIGURE_Z - 0.2],
    alongA: [cr * cy, sr, cr * sy],
    alongB: [-sr * cy, cr, -sr * sy],
    outline: Float64Array.of(-half[0], -half[1], half[0], -half[1], half[0], half[1], -half[0], half[1]),
    softness: 0,
    shade(a, b, out) {
      const d = Math.min(half[0] - Math.abs(a), half[1] - Math.abs(b))
      const grain = 0.8 + 0.4 * fractalNoise(a * 4, b * 60, 131)
      const wear = fractalNoise(a * 11, b * 11, 133)
      let colour: Tint = d < 0.035 ? BOARD_PAINT.frame : BOARD_PAINT.field
      if (d > 0.05 && d < 0.058) colour = BOARD_PAINT.line
      const ink =
        Math.max(inkAt(boardText[0]!, a, b, 0.023, 0.006), inkAt(boardText[1]!, a, b, 0.015, 0.006)) *
        (wear > 0.72 ? 0.5 : 1)
      let r = colour[0] + (BOARD_PAINT.ink[0] - colour[0]) * ink
      let g = colour[1] + (BOARD_PAINT.ink[1] - colour[1]) * ink
      let bl = colour[2] + (BOARD_PAINT.ink[2] - colour[2]) * ink
      // A small painted lamp in each corner of the field.
      const lamp = Math.sqrt(((Math.abs(a) - 0.32) * 1.3) ** 2 + (b - 0.2) ** 2)
      if (lamp < 0.038) [r, g, bl] = lamp <= 0.03 ? BOARD_PAINT.lamp : BOARD_PAINT.lampRim
      const shade = (0.5 + 0.16 * wear) * grain * (0.95 + 0.35 * a)
      out[0] = r * shade * 1.15
      out[1] = g * shade
      out[2] = bl * shade * 0.9
    },
    surfacePoint: (u, v) => [u, v],
  }
}

function postPiece(): Piece {
  const w = 0.058
  return {
    id: 'post',
    origin: [POST_X, 0, POST_Z],
    alongA: [1, 0, 0],
    alongB: [0, 1, 0],
    outline: Float64Array.of(-w, -4, w, -4, w, 0.85, w * 1.5, 0.9, w * 1.5, 1.0, w * 1.25, 1.05, w * 1.9, GROUND_Y, -w * 1.9, GROUND_Y, -w * 1.25, 1.05, -w * 1.5, 1.0, -w * 1.5, 0.9, -w, 0.85), // prettier-ignore
    softness: 0,
    shade(a, b, out) {
      const rust = fractalNoise(a * 30, b * 9, 181)
      const round = Math.max(0, 1 - (a / 0.075) ** 2)
      const gloss = Math.exp(-(((a + 0.022) / 0.012) ** 2))
      const value = 0.012 + 0.03 * round * rust + 0.085 * gloss * (0.5 + 0.5 * rust)
      out[0] = value * 1.25
      out[1] = value
      out[2] = value * 0.95
    },
    surfacePoint: (u, v) => [u, v],
  }
}

function ellipse(x: number, y: number, rx: number, ry: number): [number, number][] {
  return Array.from({ length: 14 }, (_, i) => {
    const a = (i / 14) * 2 * Math.PI
    return [x + rx * Math.cos(a), y + ry * Math.sin(a)]
  })
}

function hatOutline(): [number, number][] {
  return [
    [-0.17, -0.835], [-0.16, -0.862], [-0.085, -0.87], [-0.1, -1.06], [-0.02, -1.085], [0.08, -1.085], [0.155, -1.06],
    [0.145, -0.87], [0.21, -0.862], [0.22, -0.835], [0.1, -0.822], [-0.05, -0.822],
  ] // prettier-ignore
}

function pinwheelOutline(x: number, y: number, radius: number, spin: number): [number, number][] {
  const points: [number, number][] = []
  for (let blade = 0; blade < 4; blade++) {
    const a = spin + (blade * Math.PI) / 2
    points.push([x + 0.02 * Math.cos(a), y + 0.02 * Math.sin(a)])
    points.push([x + radius * Math.cos(a + 0.12), y + radius * Math.sin(a + 0.12)])
    points.push([x + radius * 0.72 * Math.cos(a + 0.85), y + radius * 0.72 * Math.sin(a + 0.85)])
  }
  return points
}

function scarfOutline(stride: number): [number, number][] {
  const wave = (k: number) => 0.035 * Math.sin(stride * 2 - k * 1.1)
  return [
    [0.13, -0.64], [0.11, -0.57], [-0.02, -0.545], [-0.15, -0.53 + wave(1)], [-0.3, -0.5 + wave(2)], [-0.45, -0.44 + wave(3)],
    [-0.475, -0.5 + wave(3)], [-0.44, -0.54 + wave(3)], [-0.3, -0.6 + wave(2)], [-0.15, -0.63 + wave(1)], [0.0, -0.655],
  ] // prettier-ignore
}

/** Outline of a limb: a tube of given half-widths along the joints, rounded at both ends. */
function limb(joints: [number, number][], halfWidths: number[]): [number, number][] {
  const left: [number, number][] = []
  const right: [number, number][] = []
  joints.forEach(([x, y], i) => {
    const [px, py] = joints[Math.max(0, i - 1)]!
    const [nx, ny] = joints[Math.min(joints.length - 1, i + 1)]!
    const length = Math.hypot(nx - px, ny - py)
    const [dx, dy] = [(nx - px) / length, (ny - py) / length]
    const w = halfWidths[i]!
    if (i === 0) left.push([x - dx * w, y - dy * w])
    left.push([x + dy * w, y - dx * w])
    right.unshift([x - dy * w, y + dx * w])
    if (i === joints.length - 1) left.push([x + dx * w, y + dy * w])
  })
  return [...left, ...right]
}

function flat(points: [number, number][]): Float64Array {
  return Float64Array.from(points.flat())
}

/** Closed Catmull-Rom curve through the points, eight pieces a stretch. */
function smoothClosed(points: [number, number][]): Float64Array {
  const out: number[] = []
  const n = points.length
  for (let i = 0; i < n; i++) {
    const [a, b, c, d] = [-1, 0, 1, 2].map((k) => points[(i + k + n) % n]!) as [[number, number], [number, number], [number, number], [number, number]] // prettier-ignore
    for (let k = 0; k < 8; k++) {
      const u = k / 8
      for (const axis of [0, 1] as const) {
        out.push(
          0.5 *
            (2 * b[axis] +
              (c[axis] - a[axis]) * u +
              (2 * a[axis] - 5 * b[axis] + 4 * c[axis] - d[axis]) * u * u +
              (3 * b[axis] - a[axis] - 3 * c[axis] + d[axis]) * u * u * u),
        )
      }
    }
  }
  return Float64Array.from(out)
}
