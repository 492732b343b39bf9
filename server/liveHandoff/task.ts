import type { LiveEnding } from '@tender-lasso/core/handoff'
import type { TaskFailure } from '../errors'

/** Whose output is asked for. */
export interface LiveSource {
  shotId: string
  outputId: string
}

/** What the frames are now. */
export interface VersionsTask extends LiveSource {
  what: 'versions'
  /** null: none of them, only what the output is. */
  frames: number[] | null
}

/** A frame to be made. */
export interface FrameTask extends LiveSource {
  what: 'frame'
  frame: number
  ending: LiveEnding
  /** One number, shared: not 0 where nobody waits for it any more. */
  stop: Int32Array
}

/** Only to have a thread. */
interface NoTask {
  what: 'nothing'
}

export type LiveTask = VersionsTask | FrameTask | NoTask

/** What an output is at a place in the log, and versions of some frames. */
export interface LiveVersions {
  shot: string
  output: string
  sequence: number
  range: [number, number]
  width: number
  height: number
  pixelAspect: number
  rate: { numerator: number; denominator: number }
  mattes: string[]
  /** In the order in which they were asked for; null: the output has no such frame. */
  versions: (string | null)[]
}

/** A frame as it was made; null: nobody waited for it any more. */
export type LiveFrame = { version: string; bytes: Uint8Array<ArrayBuffer> } | null

export type LiveAnswer =
  { nothing: true } | { versions: LiveVersions } | { frame: LiveFrame } | { failure: TaskFailure }
