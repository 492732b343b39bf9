import type { Output } from '@tender-lasso/core/document'
import type { LiveEnding, LiveFacts } from '@tender-lasso/core/handoff'
import type { DeliveredPlace, MattePixels } from '../deliveryView'
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

/** One matte of a frame as the shot is now, by settings that need not be those of any of its outputs. */
export interface MatteTask {
  what: 'matte'
  shotId: string
  output: Output
  partId: string
  frame: number
}

/** A matte out of the files of a delivery: unpacking many channels takes as long as rendering. */
export interface DeliveredTask extends Omit<DeliveredPlace, 'store'> {
  what: 'delivered'
  /** Address of the store. */
  store: string
}

/** Only to have a thread. */
interface NoTask {
  what: 'nothing'
}

export type LiveTask = VersionsTask | FrameTask | MatteTask | DeliveredTask | NoTask

/** What an output is, and versions of some of its frames. */
export interface LiveVersions extends LiveFacts {
  /** In the order in which they were asked for; null: the output has no such frame. */
  versions: (string | null)[]
}

/** A frame as it was made; null: nobody waited for it any more. */
export type LiveFrame = { version: string; bytes: Uint8Array<ArrayBuffer> } | null

export type LiveAnswer =
  | { matte: MattePixels }
  | { nothing: true }
  | { versions: LiveVersions }
  | { frame: LiveFrame }
  | { failure: TaskFailure }
