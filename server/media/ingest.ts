import type { ShotRow } from '../database'
import { Problem } from '../errors'
import { keys, openStore, type Store } from '../store'
import { finishedFrames } from './frameFiles'
import { FRAMES_AT_ONCE, makeFrameInThread } from './frameThreads'
import { isMovie } from './inspect'
import { BYTES_A_PIXEL, withMemory } from './memoryBudget'
import { decodeMovie } from './movie'

export interface IngestProgress {
  /** Called after each frame of the stretch, kept or made; throws to stop the work. */
  onFrame(done: number): Promise<void>
  signal?: AbortSignal
}

export type IngestedShot = Pick<
  ShotRow,
  'id' | 'width' | 'height' | 'firstFrame' | 'lastFrame' | 'sources' | 'colourEncoding'
>

export const isOfMovie = (shot: Pick<ShotRow, 'sources'>) => shot.sources.length === 1 && isMovie(shot.sources[0]!.name)

/**
 * Makes the frame files of a stretch of a shot from its pictures. Frames that are there already are kept, so a killed
 * worker's work goes on where it was.
 *
 * @throws Problem 422 naming the file; what has been made of the shot is then taken away
 */
export async function ingestPictures(
  shot: IngestedShot,
  [first, last]: readonly [number, number],
  address: string,
  { onFrame, signal }: IngestProgress,
): Promise<void> {
  const store = openStore(address)
  const finished = await finishedFrames(store, shot.id)
  let done = 0
  const readOne = async (frame: number) => {
    signal?.throwIfAborted()
    if (!finished.has(frame)) {
      const source = shot.sources[frame - shot.firstFrame]
      if (!source) throw new Problem(422, 'no-such-picture', `There is no picture for frame ${frame}`)
      await withMemory(source.name, shot.width * shot.height * BYTES_A_PIXEL, () => makeFrame(frame, source), signal)
    }
    await onFrame(++done)
  }
  const { width, height, colourEncoding } = shot
  const makeFrame = async (frame: number, { name, hash }: { name: string; hash: string }) => {
    const source = { name, file: await store.fileOf(keys.original(hash)) }
    const task = { store: address, shotId: shot.id, frame, width, height, colourEncoding, source }
    return makeFrameInThread(task, signal)
  }
  let next = first
  const lane = async () => {
    while (next <= last) await readOne(next++)
  }
  const lanes = await Promise.allSettled(Array.from({ length: FRAMES_AT_ONCE }, lane))
  for (const ended of lanes) if (ended.status === 'rejected') await failed(ended.reason, shot, store)
}

/**
 * Makes the frame files of a shot from its movie, read from its beginning; frames that are there already are kept.
 *
 * @returns the last frame, which is known only when the movie has been read to its end, and what was odd, in words
 * @throws Problem 422 naming the file; what has been made of the shot is then taken away
 */
export async function ingestMovie(
  shot: IngestedShot,
  address: string,
  { onFrame, signal }: IngestProgress,
): Promise<{ lastFrame: number; warnings: string[] }> {
  const store = openStore(address)
  const finished = await finishedFrames(store, shot.id)
  const { width, height, colourEncoding } = shot
  const [{ hash, name }] = shot.sources as [{ hash: string; name: string }]
  let done = 0
  try {
    const { frames, complaints } = await decodeMovie(
      await store.fileOf(keys.original(hash)),
      name,
      shot,
      async (index, source) => {
        const frame = shot.firstFrame + index
        if (!finished.has(frame)) {
          const task = { store: address, shotId: shot.id, frame, width, height, colourEncoding, source } // prettier-ignore
          const make = () => makeFrameInThread(task, signal)
          await withMemory(name, width * height * BYTES_A_PIXEL, make, signal)
        }
        await onFrame(++done)
      },
      signal,
    )
    const promised = shot.lastFrame - shot.firstFrame + 1
    const warnings = complaints.map((words) => `The movie is damaged in places: ${words}`)
    if (frames !== promised) {
      warnings.unshift(`The movie promises ${promised} pictures, and ${frames} could be read: the shot has these`)
    }
    return { lastFrame: shot.firstFrame + frames - 1, warnings }
  } catch (error) {
    return failed(error, shot, store)
  }
}

async function failed(error: unknown, shot: IngestedShot, store: Store): Promise<never> {
  if (error instanceof Problem) await store.delete(keys.framesOf(shot.id))
  throw error
}
