import { homographyFromPoints, identity, type Matrix3 } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'
import { PatternTracker } from '@tender-lasso/core/tracking'
import type { Benchmark } from './benchmark'
import { cornerError } from './cornerError'
import { EccTracker, matOfLuma } from './ecc'
import { loadOpenCv, type OpenCv } from './openCv'
import { normalDeviates, photograph, planeRegion, surfaceUnder } from './photographedPlane'

const SIDE = 100
const REGION = planeRegion(SIDE, SIDE)
const ROOM = 70
const TRIALS = 100
const SIGMAS = [1, 2, 4, 6, 8, 10] as const
/** A trial has converged when its corners are off by less (root mean square). */
const CONVERGED = 1
/** Grain: sigma of 255. */
const GRAIN = 8

type Model = 'affine' | 'perspective'

/** The region's surroundings. */
const BOX = {
  left: Math.floor(REGION[0]! - ROOM),
  top: Math.floor(REGION[1]! - ROOM),
  width: SIDE + 2 * ROOM,
  height: SIDE + 2 * ROOM,
}

/** As many corners as the model needs, moved by noise. */
function displacedBy(model: Model, sigma: number, normal: () => number): Matrix3 {
  const to = REGION.map((value) => value + sigma * normal())
  if (model === 'affine') {
    // The fourth corner follows from three.
    to[4] = to[2]! + to[6]! - to[0]!
    to[5] = to[3]! + to[7]! - to[1]!
  }
  return homographyFromPoints(REGION, to)
}

function rootMeanSquare(errors: readonly number[]): number {
  return Math.sqrt(errors.reduce((sum, error) => sum + error * error, 0) / Math.max(1, errors.length))
}

function theirs(cv: OpenCv, reference: LumaImage, image: LumaImage, model: Model): Matrix3 | null {
  const ecc = new EccTracker(cv, reference, REGION, BOX, { model, iterations: 100 })
  const current = matOfLuma(cv, image)
  const found = ecc.align(current)
  current.delete()
  ecc.delete()
  return found
}

/** Share of trials that converged, and the error of those. */
function words(errors: readonly number[]): string {
  const good = errors.filter((error) => error < CONVERGED)
  return `${((100 * good.length) / errors.length).toFixed(0)} %, ${rootMeanSquare(good).toFixed(3)} px`
}

/**
 * The protocol of Baker & Matthews, "Lucas-Kanade 20 Years On", IJCV 2004, section 3.4: canonical points displaced by
 * Gaussian noise, how often it converges and how near. The same pictures for both.
 */
export const alignment: Benchmark = {
  name: 'alignment',
  goal: 99,
  better: 'more',
  async run() {
    const { cv } = await loadOpenCv()
    const surface = await photograph('building')
    const rows: string[] = []
    let least = 100
    for (const model of ['affine', 'perspective'] as const) {
      for (const [sigmas, sigmaOfGrain] of [[SIGMAS, GRAIN], [[10], 0]] as const) {
        const noise = normalDeviates(31)
        const grain = () => (sigmaOfGrain ? (noise() * sigmaOfGrain) / 255 : 0)
        const reference = surfaceUnder(surface, identity(), BOX, grain)
        const tracker = new PatternTracker(
          reference,
          { outlines: [REGION], hidden: [] },
          { surface: 'plane', model, search: [0, 0, 0, 0], texture: 'all', density: 1 },
        )
        for (const sigma of sigmas) {
          const normal = normalDeviates(1000 + sigma)
          const [mine, ecc]: [number[], number[]] = [[], []]
          for (let trial = 0; trial < TRIALS; trial++) {
            const truth = displacedBy(model, sigma, normal)
            const image = surfaceUnder(surface, truth, BOX, grain)
            mine.push(cornerError(tracker.align(image, identity()).matrix, truth, REGION))
            const found = theirs(cv, reference, image, model)
            ecc.push(found ? cornerError(found, truth, REGION) : Infinity)
          }
          const share = (100 * mine.filter((error) => error < CONVERGED).length) / TRIALS
          if (sigmaOfGrain) least = Math.min(least, share)
          rows.push(`${model}, sigma ${sigma}, grain ${sigmaOfGrain}: ours ${words(mine)}; ECC ${words(ecc)}`)
        }
      } // prettier-ignore
    }
    return { value: least, unit: '% converge at the worst sigma, with grain', notes: rows.join('\n  ') }
  },
}
