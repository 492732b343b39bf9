import CanvasKitInit from 'canvaskit-wasm'
import { neededSubTimes, PartBoundaries, renderMattes, type Scene } from '@tender-lasso/core/raster'
import { homogeneousOutline } from '@tender-lasso/core/spline'
import { roundOutline } from '@tender-lasso/core/document/testDocuments'
import { POINT_STRIDE } from '@tender-lasso/core/document'
import { inTurn, type Benchmark } from './benchmark'

const WIDTH = 2048
const HEIGHT = 1152
const SHAPES = 50
const POINTS = 20
/** Pixels that every shape goes while the shutter is open. */
const SWEEP = 15.5
/** What a hard edge takes for that: Skia is given as many. */
const SUB_TIMES = neededSubTimes(new PartBoundaries(sceneOf(outlines(), SWEEP).parts[0]!, true), 1)

/** Wobbly outlines all over the picture, neighbours overlapping here and there. */
function outlines(): Float64Array[] {
  return Array.from({ length: SHAPES }, (_, i) => {
    const values = roundOutline(POINTS, 90, 150 + (i % 10) * 190, 130 + Math.floor(i / 10) * 215)
    for (let p = 0; p < POINTS; p++) {
      values[p * POINT_STRIDE]! += 14 * Math.sin(i * 3 + p * 2.4)
      values[p * POINT_STRIDE + 1]! += 14 * Math.cos(i * 5 + p * 1.7)
    }
    return values
  })
}

function sceneOf(shapes: readonly Float64Array[], sweep: number, feather = 0): Scene {
  const outlinesAt = (u: number) => {
    const map = Float64Array.of(1, 0, (u - 0.5) * sweep, 0, 1, 0, 0, 0, 1)
    return shapes.map((values) => homogeneousOutline(values, POINT_STRIDE, map))
  }
  const edge = { innerFeather: feather, outerFeather: feather, grow: 0 }
  return { parts: [{ id: 'all', holdsOut: false, groups: [{ edge, opacity: 1, outlinesAt }] }] }
}

async function skia(shapes: readonly Float64Array[]) {
  const kit = await CanvasKitInit()
  const surface = kit.MakeSurface(WIDTH, HEIGHT)!
  const canvas = surface.getCanvas()
  const paint = new kit.Paint()
  paint.setAntiAlias(true)
  paint.setColor(kit.WHITE)
  const commands = shapes.map((values) => {
    const outline = homogeneousOutline(values, POINT_STRIDE, Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1))
    const list: number[] = [kit.MOVE_VERB, outline[0]!, outline[1]!]
    for (let i = 0; i < POINTS; i++) {
      const next = ((i + 1) % POINTS) * 9
      const at = i * 9
      list.push(kit.CUBIC_VERB, outline[at + 3]!, outline[at + 4]!, outline[at + 6]!, outline[at + 7]!, outline[next]!, outline[next + 1]!) // prettier-ignore
    }
    return list
  })
  /** Paths are made anew each time, as they are for every frame of a moving shape; pixels are read back, as ours are. */
  return (shiftX: number): Uint8Array => {
    canvas.clear(kit.TRANSPARENT)
    for (const list of commands) {
      const path = kit.Path.MakeFromCmds(list)!
      canvas.save()
      canvas.translate(shiftX, 0)
      canvas.drawPath(path, paint)
      canvas.restore()
      path.delete()
    }
    surface.flush()
    return canvas.readPixels(0, 0, surface.imageInfo()) as Uint8Array
  }
}

const box = { left: 0, top: 0, right: WIDTH, bottom: HEIGHT }
const request = [{ partId: 'all', withHoldouts: false }]

export const fillShapes: Benchmark = {
  name: 'fill-shapes',
  goal: 0.8,
  better: 'less',
  async run() {
    const shapes = outlines()
    const draw = await skia(shapes)
    // Frame after frame goes to the same memory, as in the hand-off and in the preview; Skia's surface stays as well.
    let reuse: Float32Array[] = []
    const [ours, theirs] = inTurn(
      9,
      () => {
        reuse = renderMattes(sceneOf(shapes, 0), request, { box, motionBlur: false, reuse })!
      },
      () => void draw(0),
    )
    return { value: ours / theirs, unit: 'x Skia', notes: `${ours.toFixed(1)} ms; Skia WASM ${theirs.toFixed(1)} ms` }
  },
}

export const fillShapesBlur: Benchmark = {
  name: 'fill-shapes-blur',
  goal: 1 / 3,
  better: 'less',
  async run() {
    const shapes = outlines()
    const draw = await skia(shapes)
    const sum = new Float32Array(WIDTH * HEIGHT)
    const [ours, theirs] = inTurn(
      5,
      () => void renderMattes(sceneOf(shapes, SWEEP), request, { box, motionBlur: true }),
      () => {
        sum.fill(0)
        for (let k = 0; k < SUB_TIMES; k++) {
          const pixels = draw(((k + 0.5) / SUB_TIMES - 0.5) * SWEEP)
          for (let i = 0; i < sum.length; i++) sum[i]! += pixels[i * 4 + 3]! / (255 * SUB_TIMES)
        }
      },
    )
    return {
      value: ours / theirs,
      unit: 'x Skia',
      notes: `${ours.toFixed(1)} ms; Skia WASM drawn and summed ${theirs.toFixed(1)} ms`,
    }
  },
}

/** Widths of feather on both sides, pixels. */
const FEATHERS = [4, 20, 60]

/** Soft edges as multiples of the plain fill of the same scene, measured in turn with it: still, and at 16 sub-times. */
export const featherShapes: Benchmark = {
  name: 'feather-shapes',
  goal: 3,
  better: 'less',
  run() {
    const shapes = outlines()
    const notes: string[] = []
    let worst = 0
    for (const [what, sweep] of [
      ['still', 0],
      [`swept by ${SWEEP} px`, SWEEP],
    ] as const) {
      // prettier-ignore
      for (const feather of FEATHERS) {
        const draw = (width: number) => void renderMattes(sceneOf(shapes, sweep, width), request, { box, motionBlur: sweep > 0 }) // prettier-ignore
        const [soft, plain] = inTurn(5, () => draw(feather), () => draw(0)) // prettier-ignore
        worst = Math.max(worst, soft / plain)
        notes.push(`${what} ${feather} px ${soft.toFixed(0)} ms, plain ${plain.toFixed(0)} ms`)
      }
    }
    return Promise.resolve({ value: worst, unit: 'x plain', notes: notes.join('; ') })
  },
}
