import { motionSamplesOf } from '@tender-lasso/core/evaluation'
import type { Track } from '@tender-lasso/core/document'
import { applyToPoint } from '@tender-lasso/core/geometry'
import { sampledMatrix } from '@tender-lasso/core/motion'
import type { PositionMapSettings } from '@tender-lasso/core/handoff'
import { say, useShot } from '../store'
import { wordsOf } from '../session'
import type { PositionMapsWorker } from '../workers/positionMaps.worker'
import { watchedWorker } from '../workers/watchedWorker'
import { saveBlobAsFile } from './textOut'
import { toldMeanwhile } from './toldMeanwhile'
import { relativeFrames } from './trackData'
import { counted } from '../words/counted'

/**
 * Position maps of a track as a file of the browser's, of the marked stretch or of all its frames.
 *
 * @param onFrame  told how many of how many frames are done
 * @param stop  when aborted nothing is saved
 */
export async function savePositionMaps(
  track: Track,
  relativeTo: number,
  settings: PositionMapSettings,
  onFrame: (done: number, of: number) => void,
  stop: AbortSignal,
): Promise<void> {
  const { info, range } = useShot.getState()
  if (!info) return
  const motion = motionSamplesOf(track)
  const reference = sampledMatrix(motion, relativeTo)
  if (!reference) return say('doubtful', `${track.name} is not known on frame ${relativeTo}`)
  const frames = relativeFrames(motion, relativeTo).filter(
    ({ frame }) => !range || (frame >= range[0] && frame <= range[1]),
  )
  if (frames.length === 0) return say('doubtful', `${track.name} is not known on the marked frames`)
  const worker = new Worker(new URL('../workers/positionMaps.worker.ts', import.meta.url), { type: 'module' })
  const watched = watchedWorker<PositionMapsWorker>(worker, 'The helper that writes position maps')
  const stopped = new Promise<null>((resolve) => stop.addEventListener('abort', () => resolve(null)))
  try {
    const { width, height, pixelAspect, rate } = info
    const [x, y] = applyToPoint(reference, track.pivot[0], track.pivot[1])
    const maps = { name: track.name, width, height, pixelAspect, rate, relativeTo, settings, centre: [x!, y!] as const, frames } // prettier-ignore
    const zip = await toldMeanwhile(
      (done: number) => onFrame(done, frames.length),
      (tell) => Promise.race([watched.remote.write(maps, tell), stopped]),
    )
    if (!zip) return say('said', 'No position maps were saved')
    saveBlobAsFile(zip, `${track.name}_${settings.way}.zip`)
    say('said', `${track.name}: position maps of ${counted(frames.length, 'frame')}`)
  } catch (error) {
    say('bad', wordsOf(error))
  } finally {
    watched.close()
  }
}
