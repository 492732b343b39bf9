import { outlineKeys, type Shape } from '@tender-lasso/core/document'
import { say, shotRange, useShot, type MeasuredFrames, type Measuring, type ShotInfo } from '../store'
import { endWithShot, wordsOf } from '../session'
import type { LitPlate } from '../workers/track.worker'
import { plateOf, trackWorkers } from './trackWorkers'

const get = useShot.getState

/** Frames that are looked at in a stretch: evenly spaced, its ends among them. */
const MOST_OF_RANGE = 24

/** Frames to be looked at, in the order of time, within the shot. */
export function framesToMeasure(which: MeasuredFrames, shapes: readonly Shape[]): number[] {
  const [first, last] = shotRange()
  if (which === 'here') return [get().frame]
  if (which === 'keys') {
    const times = new Set(shapes.flatMap((shape) => outlineKeys(shape).map(({ time }) => Math.round(time))))
    return [...times].filter((time) => time >= first && time <= last).sort((a, b) => a - b)
  }
  const [from, to] = get().range ?? [first, last]
  const count = Math.min(MOST_OF_RANGE, to - from + 1)
  return Array.from({ length: count }, (_, i) => Math.round(from + ((to - from) * i) / Math.max(1, count - 1)))
}

const litPlateOf = (info: ShotInfo): LitPlate => ({ ...plateOf(info), colourEncoding: info.colourEncoding })

type Worker = ReturnType<typeof trackWorkers>[number]

/** Asked for anew, what is still measured is given up. */
let latest = 0

/** Gives up what is measured now. */
export function stopMeasuring() {
  latest++
  useShot.setState({ measuring: null })
}

/**
 * Asks the helpers that look at pictures about frames, each of them about one at a time, and shows how far that is.
 *
 * @returns  answers in the order of `frames`; null when it was given up or failed, which is said then
 */
export async function askedOfFrames<T>(
  what: Measuring['what'],
  frames: readonly number[],
  ask: (worker: Worker, plate: LitPlate, frame: number) => Promise<T>,
): Promise<T[] | null> {
  const { info } = get()
  if (!info) return null
  const own = ++latest
  const isAsked = () => own === latest
  const ending = endWithShot(stopMeasuring)
  const plate = litPlateOf(info)
  const answers = new Array<T>(frames.length)
  let next = 0
  let done = 0
  useShot.setState({ measuring: { what, done, all: frames.length } })
  const work = async (worker: Worker) => {
    while (isAsked() && next < frames.length) {
      const n = next++
      answers[n] = await ask(worker, plate, frames[n]!)
      done++
      if (isAsked()) useShot.setState({ measuring: { what, done, all: frames.length } })
    }
  }
  try {
    await Promise.all(trackWorkers(frames.length).map(work))
    if (!isAsked()) return null
    useShot.setState({ measuring: null })
    return answers
  } catch (error) {
    if (!isAsked()) return null
    say('bad', `The plate could not be read: ${wordsOf(error)}`)
    // The others are not to go on for nothing.
    stopMeasuring()
    return null
  } finally {
    ending()
  }
}
