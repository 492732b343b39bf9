import { rm } from 'node:fs/promises'
import path from 'node:path'
import type { ColourEncoding } from '@tender-lasso/core/colour'
import type { ShotRow } from '../database'
import { Problem } from '../errors'
import type { Settings } from '../settings'
import { originalPath } from '../store'
import { decodeMovie, decodePicture } from './decode'
import { finishedFrames, writeFrameFiles } from './frameFiles'
import { isMovie } from './inspect'

export interface IngestProgress {
  /** Called after each frame; throws to stop the work. */
  onFrame(done: number, total: number): Promise<void>
}

type IngestedShot = Pick<ShotRow, 'id' | 'width' | 'height' | 'firstFrame' | 'lastFrame' | 'sources' | 'colourEncoding'>

/**
 * Makes the frame files of a shot from its originals. Frames that are there already are kept, so a killed job goes on
 * where it was.
 *
 * @returns the last frame, which for a movie is known only when it has been read to its end
 * @throws Problem 422 naming the file; what has been made is then taken away
 */
export async function ingestShot(shot: IngestedShot, settings: Settings, progress: IngestProgress): Promise<number> {
  const finished = await finishedFrames(settings.frames, shot.id)
  const total = shot.lastFrame - shot.firstFrame + 1
  let done = 0
  const write = async (frame: number, rgb: Uint16Array) => {
    if (!finished.has(frame)) {
      const { width, height } = shot
      const colourEncoding = shot.colourEncoding as ColourEncoding
      await writeFrameFiles(settings.frames, shot.id, frame, { rgb, width, height, colourEncoding })
    }
    await progress.onFrame(++done, total)
  }
  try {
    const [first] = shot.sources
    if (shot.sources.length === 1 && isMovie(first!.name)) {
      const count = await decodeMovie(
        originalPath(settings.originals, first!.hash),
        first!.name,
        shot.width,
        shot.height,
        (index, rgb) => write(shot.firstFrame + index, rgb),
      )
      return shot.firstFrame + count - 1
    }
    const readOne = async (index: number) => {
      const source = shot.sources[index]!
      const frame = shot.firstFrame + index
      if (finished.has(frame)) return progress.onFrame(++done, total)
      const picture = await decodePicture(originalPath(settings.originals, source.hash), source.name)
      if (picture.width !== shot.width || picture.height !== shot.height) {
        throw new Problem(422, 'mixed-sizes', `${source.name} is ${picture.width} x ${picture.height} after decoding`)
      }
      await write(frame, picture.rgb)
    }
    // Two frames at a time: one is decoded while the other's tiles are packed on the threads of zlib.
    let next = 0
    const lane = async () => {
      while (next < shot.sources.length) await readOne(next++)
    }
    const lanes = await Promise.allSettled([lane(), lane()])
    for (const ended of lanes) if (ended.status === 'rejected') throw ended.reason
    return shot.lastFrame
  } catch (error) {
    if (error instanceof Problem) await rm(path.join(settings.frames, shot.id), { recursive: true, force: true })
    throw error
  }
}
