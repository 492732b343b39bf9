import { homographyOf, invert, multiply, type Matrix3 } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'
import type { Benchmark } from './benchmark'
import { byEcc, followedError, followedInWords, ours } from './followed'
import { loadOpenCv } from './openCv'
import { normalDeviates, photograph, planeRegion, surfaceUnder, type Surface } from './photographedPlane'

const FRAMES = 21
const [X, Y] = [950, 555]
const REGION = planeRegion(240, 180).map((value, i) => value - (i % 2 ? 0 : 120))
const CROP = { left: X - 330, top: Y - 200, width: 660, height: 400 }
/** Common practice, no published source: the shutter is open for half of the frame's time. */
const SHUTTER = 0.5
/** Pictures that make one frame; at 24 px a frame they are 0.75 px apart. */
const LOOKS = 16
/** Grain: sigma of 255. */
const GRAIN = 2

/**
 * A camera that swings over: from rest to 24 px a frame, 12 px of blur, and to rest again, with a little turn, zoom and
 * perspective.
 */
function swingMotion(time: number): Matrix3 {
  const length = FRAMES - 1
  const swing = time / length - Math.sin((2 * Math.PI * time) / length) / (2 * Math.PI)
  const reach = 12 * length
  return homographyOf(
    [X + reach * (swing - 0.5), Y + 20 * swing, 0.05 * swing, 0.03 * swing, 0.02 * swing, 0, 4e-5 * swing, 0],
    X,
    Y,
  )
}

/** Motion from the swing's frame 0. */
const since = (time: number) => multiply(swingMotion(time), invert(swingMotion(0)))

function exposed(surface: Surface, frame: number, grain: () => number): LumaImage {
  const data = new Float32Array(CROP.width * CROP.height)
  for (let look = 0; look < LOOKS; look++) {
    const time = frame + SHUTTER * ((look + 0.5) / LOOKS - 0.5)
    const picture = surfaceUnder(surface, swingMotion(time), CROP, () => 0)
    for (let i = 0; i < data.length; i++) data[i]! += picture.data[i]! / LOOKS
  }
  for (let i = 0; i < data.length; i++) data[i]! += grain()
  return { ...CROP, data }
}

export const planarBlurred: Benchmark = {
  name: 'planar-blurred',
  goal: 0.06,
  better: 'less',
  async run() {
    const surface = await photograph('building')
    const normal = normalDeviates(815)
    const frames = Array.from({ length: FRAMES }, (_, i) => exposed(surface, i, () => (normal() * GRAIN) / 255))
    const { cv } = await loadOpenCv()
    const sequence = { frames, region: REGION, motionOn: since }
    const without = await ours(sequence)
    const allowing = await ours(sequence, { shutter: SHUTTER })
    const rows = [
      `with the pattern blurred as the frame is: ${followedInWords(allowing)}`,
      `as if the frames were sharp: ${followedInWords(without)}`,
      `findTransformECC WASM ${followedInWords(byEcc(cv, sequence))}`,
    ]
    return { value: followedError(allowing), unit: 'px median corner error', notes: rows.join('\n  ') }
  },
}
