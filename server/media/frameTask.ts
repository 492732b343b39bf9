import type { ColourEncoding } from '@tender-lasso/core/colour'
import { Problem } from '../errors'
import type { DecodedFrame } from './frameFiles'

/** A frame to be made in a thread: from a picture's file, or from a movie's decoded picture. */
export interface FrameTask {
  /** Address of the store that gets the files. */
  store: string
  shotId: string
  frame: number
  width: number
  height: number
  colourEncoding: ColourEncoding
  source: { file: string; name: string } | Pick<DecodedFrame, 'rgb' | 'isChromaHalved'>
}

/** What is left of an error between threads, which would lose all but its message. */
export interface TaskFailure {
  /** Of a Problem; null for what nobody has foreseen. */
  status: number | null
  code: string | undefined
  message: string
}

export function failureOfTask(error: unknown): TaskFailure {
  const message = error instanceof Error ? error.message : String(error)
  if (error instanceof Problem) return { status: error.status, code: error.code, message }
  return { status: null, code: (error as { code?: string } | null)?.code, message }
}

/** The error it was. */
export function errorOfTask({ status, code, message }: TaskFailure): Error {
  if (status !== null) return new Problem(status, code ?? 'failed', message)
  return Object.assign(new Error(message), { code })
}
