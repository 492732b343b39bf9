import { findObject } from '@tender-lasso/core/document'
import { motionSamplesOf } from '@tender-lasso/core/evaluation'
import { applyToPoint, homographyFromPoints, identity, multiply, type Matrix3 } from '@tender-lasso/core/geometry'
import { relativeMotion } from '@tender-lasso/core/motion'
import type { ProofLaid, ShotState } from '../store'
import { drawWarped } from './warpedImage'
import { strokeCased } from './strokeCased'

const GRID_CELLS = 6
const LETTER_HEIGHT = 120

/** What is laid on four corners, carried by its track: a slip shows against the picture. */
export function drawProofLaid(context: CanvasRenderingContext2D, { shown, frame, view }: ShotState, toScreen: Matrix3) {
  const laid = view.proofLaid
  const track = laid && findObject(shown, 'track', laid.trackId)
  const motion =
    track && (frame === laid.frame ? identity() : relativeMotion(motionSamplesOf(track), laid.frame, frame))
  if (!laid || !motion) return
  const map = multiply(multiply(toScreen, motion), homographyFromPoints([0, 0, 1, 0, 1, 1, 0, 1], laid.corners))
  context.strokeStyle = 'rgb(236 233 226 / 0.8)'
  context.lineWidth = 1
  if (laid.content.kind === 'grid') return drawGrid(context, map, GRID_CELLS)
  const image = laid.content.kind === 'text' ? lettersOf(laid.content.text, laid) : laid.content.image
  context.globalAlpha = laid.content.kind === 'text' ? 1 : 0.9
  drawWarped(context, image, image.width, image.height, map)
  context.globalAlpha = 1
  drawGrid(context, map, 1)
}

function drawGrid(context: CanvasRenderingContext2D, map: Matrix3, cells: number) {
  const line = (ax: number, ay: number, bx: number, by: number) => {
    const [a, b] = [applyToPoint(map, ax, ay), applyToPoint(map, bx, by)]
    context.moveTo(a[0]!, a[1]!)
    context.lineTo(b[0]!, b[1]!)
  }
  context.beginPath()
  for (let i = 0; i <= cells; i++) {
    line(i / cells, 0, i / cells, 1)
    line(0, i / cells, 1, i / cells)
  }
  if (cells > 1) {
    line(0, 0, 1, 1)
    line(1, 0, 0, 1)
  }
  strokeCased(context)
}

let letters: { text: string; corners: ProofLaid['corners']; canvas: HTMLCanvasElement } | null = null

/** The text on a canvas of about the proportions of the four corners, as large as fits. */
function lettersOf(text: string, { corners }: ProofLaid): HTMLCanvasElement {
  if (letters?.text === text && letters.corners === corners) return letters.canvas
  const side = (a: number, b: number) => Math.hypot(corners[b]! - corners[a]!, corners[b + 1]! - corners[a + 1]!)
  const canvas = document.createElement('canvas')
  canvas.height = LETTER_HEIGHT
  canvas.width = Math.max(
    40,
    Math.min(1600, Math.round((LETTER_HEIGHT * (side(0, 2) + side(6, 4))) / (side(0, 6) + side(2, 4)))),
  )
  const context = canvas.getContext('2d')!
  context.textAlign = 'center'
  context.textBaseline = 'middle'
  const font = (size: number) => `600 ${size}px 'Spline Sans Variable', sans-serif`
  context.font = font(100)
  const size = Math.min(0.8 * LETTER_HEIGHT, (92 * canvas.width) / Math.max(1, context.measureText(text).width))
  context.font = font(size)
  context.lineWidth = size / 12
  context.strokeStyle = 'rgb(28 28 28 / 0.8)'
  context.strokeText(text, canvas.width / 2, LETTER_HEIGHT / 2)
  context.fillStyle = '#ece9e2'
  context.fillText(text, canvas.width / 2, LETTER_HEIGHT / 2)
  // Until its letters are there another font stands in: not to be kept.
  if (document.fonts.check(context.font)) letters = { text, corners, canvas }
  else void document.fonts.load(context.font)
  return canvas
}
