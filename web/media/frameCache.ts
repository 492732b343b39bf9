import { isRead, type ReadStretches } from './readStretches'

/** Milliseconds after which it is asked again whether the machine is free. */
const REST_MS = 250

/** Frames that are fetched ahead come by the dozen: what only tells how many there are is told in such steps. */
const STEP_MS = 250

/**
 * Decoded frames of one shot, held as bitmaps up to a budget. The frames nearest to the playhead stay; what is asked
 * for last is fetched first.
 */
export class FrameCache {
  private readonly bitmaps = new Map<number, ImageBitmap>()
  private readonly loading = new Map<number, Promise<ImageBitmap | null>>()
  /** Asked for in vain the last time. */
  private readonly lost = new Set<number>()
  private readonly listeners = new Set<() => void>()
  private playhead = 0
  private held: ReadonlySet<number> | null = null
  /** Frames beyond these are not asked for: they are not read yet. null: all are there. */
  private readable: ReadStretches = null

  constructor(
    private readonly shotId: string,
    private readonly bytesPerFrame: number,
    private budgetBytes: number,
  ) {}

  get(frame: number): ImageBitmap | undefined {
    return this.bitmaps.get(frame)
  }

  /** True for a frame that did not come when it was asked for last. */
  isLost(frame: number): boolean {
    return this.lost.has(frame)
  }

  get heldBytes(): number {
    return this.bitmaps.size * this.bytesPerFrame
  }

  get budget(): number {
    return this.budgetBytes
  }

  /** The same set until something is fetched or dropped. */
  heldFrames(): ReadonlySet<number> {
    return (this.held ??= new Set(this.bitmaps.keys()))
  }

  /** More of the plate has been read. */
  setReadable(stretches: ReadStretches) {
    this.readable = stretches
    this.tell()
  }

  private readonly isReadable = (frame: number) => isRead(frame, this.readable)

  setBudget(bytes: number) {
    this.budgetBytes = bytes
    this.trim()
    this.tell()
  }

  clear() {
    for (const bitmap of this.bitmaps.values()) bitmap.close()
    this.bitmaps.clear()
    this.tell()
  }

  onChange(listener: () => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  /** The same some time later, once for all changes until then: for what shows how much is held. */
  onChangeInSteps(listener: () => void): () => void {
    let waiting: ReturnType<typeof setTimeout> | undefined
    const stop = this.onChange(() => {
      waiting ??= setTimeout(() => {
        waiting = undefined
        listener()
      }, STEP_MS)
    })
    return () => {
      stop()
      clearTimeout(waiting)
    }
  }

  /** The frame, fetched when it is not held. Null when it is not read yet, or does not come; never rejects. */
  load(frame: number): Promise<ImageBitmap | null> {
    this.playhead = frame
    const held = this.bitmaps.get(frame)
    if (held) return Promise.resolve(held)
    if (!this.isReadable(frame)) return Promise.resolve(null)
    const running = this.loading.get(frame)
    if (running) return running
    const started = this.fetchFrame(frame)
      .catch(() => {
        this.lost.add(frame)
        return null
      })
      .finally(() => this.loading.delete(frame))
    this.loading.set(frame, started)
    return started
  }

  /**
   * Fetches ahead of the playhead, a few frames at a time, while the budget lasts.
   *
   * @param isBusy  true while something else needs the machine more: fetching rests
   */
  async fetchAhead(
    frames: readonly number[],
    isWanted: () => boolean,
    isBusy: () => boolean = () => false,
  ): Promise<void> {
    const most = Math.floor(this.budgetBytes / this.bytesPerFrame)
    const missing = frames.slice(0, most).filter((frame) => !this.bitmaps.has(frame) && this.isReadable(frame))
    for (let i = 0; i < missing.length; i += 3) {
      while (isWanted() && isBusy()) await new Promise((resolve) => setTimeout(resolve, REST_MS))
      // The shot may have been closed meanwhile.
      if (!isWanted()) return
      await Promise.all(missing.slice(i, i + 3).map((frame) => this.fetchQuietly(frame)))
    }
  }

  private fetchQuietly(frame: number): Promise<unknown> {
    const playhead = this.playhead
    const done = this.load(frame)
    this.playhead = playhead
    return done
  }

  private async fetchFrame(frame: number): Promise<ImageBitmap> {
    const response = await fetch(`/api/shots/${this.shotId}/frames/${frame}/display`)
    if (!response.ok) throw new Error(`Frame ${frame} was refused (status ${response.status})`)
    const bitmap = await createImageBitmap(await response.blob(), {
      colorSpaceConversion: 'none',
      premultiplyAlpha: 'none',
    })
    this.lost.delete(frame)
    this.bitmaps.set(frame, bitmap)
    this.trim()
    this.tell()
    return bitmap
  }

  private trim() {
    while (this.bitmaps.size > 1 && this.heldBytes > this.budgetBytes) {
      let farthest = -1
      let distance = -1
      for (const frame of this.bitmaps.keys()) {
        if (Math.abs(frame - this.playhead) > distance) {
          distance = Math.abs(frame - this.playhead)
          farthest = frame
        }
      }
      this.bitmaps.get(farthest)?.close()
      this.bitmaps.delete(farthest)
    }
  }

  private tell() {
    this.held = null
    for (const listener of this.listeners) listener()
  }
}
