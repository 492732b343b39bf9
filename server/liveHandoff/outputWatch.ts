import { onShotEdited, type Follower } from '../live'
import { Problem } from '../errors'
import type { LiveSource, LiveVersions } from './task'

/** Frames that are looked at in one go, so that the first changed ones are told at once. */
const TOGETHER = 4

const encoder = new TextEncoder()
const eventOf = (name: string, data: unknown) => encoder.encode(`event: ${name}\ndata: ${JSON.stringify(data)}\n\n`)

/** One output as all see it who follow it: each version is worked out once and told to all. */
export class OutputWatch {
  private readonly followers = new Set<Follower>()
  /** By frame what was told last. */
  private readonly told = new Map<number, string | null>()
  private settledAt: number | null = null
  private near: number | null = null
  private isStale = false
  private looking: Promise<void> | null = null
  private readonly stopListening: () => void

  /**
   * @param ask    versions of some frames as they are now
   * @param onEnd  nobody follows any more
   */
  constructor(
    source: LiveSource,
    private readonly ask: (frames: number[]) => Promise<LiveVersions>,
    private readonly onEnd: () => void,
  ) {
    this.stopListening = onShotEdited(source.shotId, () => this.look())
  }

  /** The frame that somebody looks at: it and its neighbours are told first. */
  lookAt(frame: number): void {
    this.near = frame
  }

  join(follower: Follower): () => void {
    this.followers.add(follower)
    if (this.told.size > 0) this.tell('versions', Object.fromEntries(this.told), [follower])
    if (this.settledAt !== null && !this.looking) this.tell('settled', { sequence: this.settledAt }, [follower])
    this.look()
    return () => this.leave(follower)
  }

  private leave(follower: Follower) {
    if (!this.followers.delete(follower) || this.followers.size > 0) return
    this.stopListening()
    this.onEnd()
  }

  private look() {
    this.isStale = true
    this.looking ??= this.looked().finally(() => (this.looking = null))
  }

  private async looked() {
    try {
      while (this.isStale && this.followers.size > 0) {
        this.isStale = false
        const sequence = await this.compared()
        if (sequence !== null && this.settledAt !== sequence) {
          this.settledAt = sequence
          this.tell('settled', { sequence })
        }
      }
    } catch (error) {
      // The output is gone, or nobody can tell: followers open the stream again and are told so then.
      this.tell('ended', { reason: error instanceof Problem ? error.message : 'The versions cannot be told just now' })
      for (const follower of [...this.followers]) {
        follower.drop()
        this.leave(follower)
      }
    }
  }

  /**
   * Tells of frames that are others than they were, those near the one that is looked at first.
   *
   * @returns the place in the log up to which all are told, or null when the shot was edited again meanwhile
   */
  private async compared(): Promise<number | null> {
    const ahead = this.near === null ? [] : [this.near]
    const seen = new Set<number>()
    let known: readonly [number, number] | null = null
    for (;;) {
      const some = ahead.splice(0, TOGETHER)
      const { range, sequence, versions } = await this.ask(some)
      some.forEach((frame) => seen.add(frame))
      if (String(range) !== String(known)) {
        known = range
        ahead.splice(0, ahead.length, ...this.inOrder(range).filter((frame) => !seen.has(frame)))
        this.changed([...this.told.keys()].filter((frame) => frame < range[0] || frame > range[1]).map((frame) => [frame, null])) // prettier-ignore
      }
      this.changed(some.map((frame, i) => [frame, versions[i]!]))
      if (this.isStale) return null
      if (ahead.length === 0) return sequence
    }
  }

  private changed(versions: readonly (readonly [number, string | null])[]) {
    const others = versions.filter(([frame, version]) => (this.told.get(frame) ?? null) !== version)
    if (others.length === 0) return
    this.near = others[0]![0]
    for (const [frame, version] of others) this.told.set(frame, version)
    this.tell('versions', Object.fromEntries(others))
  }

  private inOrder([first, last]: [number, number]): number[] {
    const near = this.near ?? first
    const frames = Array.from({ length: last - first + 1 }, (_, i) => first + i)
    return frames.sort((a, b) => Math.abs(a - near) - Math.abs(b - near))
  }

  private tell(name: string, data: unknown, to: Iterable<Follower> = this.followers) {
    const bytes = eventOf(name, data)
    for (const follower of [...to]) {
      if (follower.take(bytes)) continue
      follower.drop()
      this.leave(follower)
    }
  }
}
