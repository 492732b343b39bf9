import type { LiveEnding, LiveManifest } from '@tender-lasso/core/handoff'
import type { Follower } from '../live'
import type { MattePixels } from '../deliveryView'
import { errorOfTask, notFound } from '../errors'
import { INTERRUPTED, liveThreads, type LiveThreads } from './liveThreads'
import { RecentFrames } from './recentFrames'
import type { DeliveredTask, FrameTask, LiveAnswer, LiveFrame, LiveSource, LiveVersions, MatteTask } from './task'
import { OutputWatch } from './outputWatch'

/** Files that are kept for who asks again. */
const KEPT_BYTES = 192 * 2 ** 20

/** A frame that is being made, and how many wait for it. */
interface Making {
  made: Promise<LiveFrame>
  readers: number
  stop: Int32Array
}

/** A file of a frame; bytes are null where the asker has this version already. */
export interface LiveFile {
  version: string
  bytes: Uint8Array<ArrayBuffer> | null
}

/** Frames of outputs as the shots are now: made when asked for, kept, and told of when they change. */
export class LiveHandoff {
  private readonly recent = new RecentFrames(KEPT_BYTES)
  private readonly makings = new Map<string, Making>()
  private readonly watches = new Map<string, OutputWatch>()

  constructor(private readonly threads: LiveThreads) {}

  private async versions(source: LiveSource, frames: number[] | null): Promise<LiveVersions> {
    const answer = await this.threads.ask({ ...source, what: 'versions', frames })
    return 'versions' in answer ? answer.versions : failed(answer)
  }

  private async frame(task: FrameTask): Promise<LiveFrame> {
    const answer = await this.threads.ask(task)
    return 'frame' in answer ? answer.frame : failed(answer)
  }

  /** A matte as the shot is now. @throws Problem 404 when the shot is not there */
  async matte(task: Omit<MatteTask, 'what'>): Promise<MattePixels> {
    const answer = await this.threads.ask({ ...task, what: 'matte' })
    return 'matte' in answer ? answer.matte : failed(answer)
  }

  /** A matte out of the files of a delivery. @throws as deliveredMatte */
  async delivered(task: Omit<DeliveredTask, 'what'>): Promise<MattePixels> {
    const answer = await this.threads.ask({ ...task, what: 'delivered' })
    return 'matte' in answer ? answer.matte : failed(answer)
  }

  /** @throws Problem 404 when shot or output are not there */
  async require(source: LiveSource): Promise<void> {
    this.threads.warmUp()
    await this.versions(source, null)
  }

  /** @throws Problem 404 when shot or output are not there */
  async manifest(source: LiveSource): Promise<LiveManifest> {
    this.threads.warmUp()
    const { versions: _, ...rest } = await this.versions(source, null)
    const frames = Array.from({ length: rest.range[1] - rest.range[0] + 1 }, (__, i) => rest.range[0] + i)
    const { versions, sequence } = await this.versions(source, frames)
    const told = versions.flatMap((version, i) => (version === null ? [] : [[frames[i]!, version] as const]))
    return { ...rest, sequence, versions: Object.fromEntries(told) }
  }

  /**
   * A frame's file as the shot is now.
   *
   * @param has      version that the asker has
   * @param signal   aborted when the asker is gone: what only that one waited for is stopped
   * @param allowed  ends when the asker may read this; nothing is made or told before that
   * @throws what `allowed` does; Problem 404 when there is no such frame
   */
  async file(
    source: LiveSource,
    frame: number,
    ending: LiveEnding,
    has: string | null,
    signal: AbortSignal,
    allowed: Promise<void>,
  ): Promise<LiveFile> {
    const place = `${source.shotId}/${source.outputId}/${frame}.${ending}`
    // Both ask the database; neither waits for the other.
    const [permission, told] = await Promise.allSettled([allowed, this.versions(source, [frame])])
    if (permission.status === 'rejected') throw permission.reason
    if (told.status === 'rejected') throw told.reason
    this.watches.get(watchKey(source))?.lookAt(frame)
    const { versions } = told.value
    const [version] = versions
    if (version === null || version === undefined) throw notFound(`Frame ${frame} of the output`)
    if (version === has) return { version, bytes: null }
    const known = this.recent.get(`${place}/${version}`)
    if (known) return { version, bytes: known }
    const made = await this.made(`${place}/${version}`, source, frame, ending, signal)
    if (!made) throw errorOfTask(INTERRUPTED)
    this.recent.put(`${place}/${made.version}`, made.bytes)
    return made
  }

  /** Those who ask for the same frame wait for one making of it. */
  private async made(
    key: string,
    source: LiveSource,
    frame: number,
    ending: LiveEnding,
    signal: AbortSignal,
  ): Promise<LiveFrame> {
    let making = this.makings.get(key)
    if (!making) {
      const stop = new Int32Array(new SharedArrayBuffer(4))
      const made = this.frame({ ...source, what: 'frame', frame, ending, stop })
      making = { made, readers: 0, stop }
      this.makings.set(key, making)
      const forget = () => void (this.makings.get(key)?.made === made && this.makings.delete(key))
      made.then(forget, forget)
    }
    const own = making
    own.readers++
    const leave = () => {
      if (--own.readers > 0) return
      Atomics.store(own.stop, 0, 1)
      // Who asks from now on is not to get what is being stopped.
      if (this.makings.get(key) === own) this.makings.delete(key)
    }
    signal.addEventListener('abort', leave, { once: true })
    if (signal.aborted) leave()
    try {
      return await own.made
    } finally {
      signal.removeEventListener('abort', leave)
    }
  }

  /** Tells a follower which frames change, those that are looked at first. @returns what ends it */
  async watch(source: LiveSource, follower: Follower): Promise<() => void> {
    const key = watchKey(source)
    let watch = this.watches.get(key)
    if (!watch) {
      watch = new OutputWatch(source, (frames) => this.versions(source, frames), () => this.watches.delete(key)) // prettier-ignore
      this.watches.set(key, watch)
    }
    return watch.join(follower)
  }
}

/** @throws what the thread could not do */
function failed(answer: LiveAnswer): never {
  throw 'failure' in answer ? errorOfTask(answer.failure) : new Error('an answer of another kind')
}

const watchKey = ({ shotId, outputId }: LiveSource) => `${shotId}/${outputId}`

// Next.js loads route modules more than once; the one instance lives on the global object.
const holder = globalThis as unknown as { tenderLassoLive?: LiveHandoff }

/** @throws Problem 503 where its threads were not started */
export const liveHandoff = (): LiveHandoff => (holder.tenderLassoLive ??= new LiveHandoff(liveThreads()))
