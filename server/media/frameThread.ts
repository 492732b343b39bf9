import { failureOfTask, Problem, type TaskFailure } from '../errors'
import { openStore } from '../store'
import { writeFrameFiles } from './frameFiles'
import type { FrameTask } from './frameTask'
import { decodePicture } from './picture'

/** One thread of ingest: makes the files of a frame. @returns why it could not, or null */
export default async function makeFrame(task: FrameTask): Promise<TaskFailure | null> {
  try {
    const { store, shotId, frame, source, width, height, colourEncoding } = task
    const picture =
      'rgb' in source
        ? { ...source, width, height }
        : { ...(await decodePicture(source.file, source.name)), isChromaHalved: false }
    if ('name' in source && (picture.width !== width || picture.height !== height)) {
      const size = `${picture.width} x ${picture.height}`
      throw new Problem(422, 'mixed-sizes', `${source.name} is ${size} after decoding`)
    }
    await writeFrameFiles(openStore(store), shotId, frame, { ...picture, colourEncoding })
    return null
  } catch (error) {
    return failureOfTask(error)
  }
}
