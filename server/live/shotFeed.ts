import { listening, onShotEdited } from './notifications'

/** A committed batch, as JSON text. */
interface Logged {
  sequence: number
  payload: string
}

/** Reads what comes after a place in a shot's log, some at a time; an empty list is the end of it. */
export type LogReader = (shotId: string, after: number) => Promise<Logged[]>

/** Somebody who follows a shot. */
export interface Follower {
  /** Takes the text of events; false when so much of it waits to be read that the follower is dropped. */
  take(events: Uint8Array<ArrayBuffer>): boolean
  /** Ends the follower: it opens the feed again from where it was. */
  drop(): void
}

interface Place {
  follower: Follower
  /** Place in the log that it has been sent. */
  sequence: number
  /** It is being brought to where the feed is. */
  isBehind: boolean
}

// Next.js loads route modules more than once; the feeds live on the global object.
const holder = globalThis as unknown as { tenderLassoFeeds?: Map<string, ShotFeed> }
const feeds = () => (holder.tenderLassoFeeds ??= new Map())

const encoder = new TextEncoder()

/** Each event names its place, which the browser sends along when it opens the feed again. */
const eventOf = ({ sequence, payload }: Logged) =>
  `id: ${sequence}\ndata: {"sequence":${sequence},"batch":${payload}}\n\n`

/** The commits of one shot for all who follow it: each is read once and its text is made once. */
class ShotFeed {
  private readonly places = new Set<Place>()
  private readonly stopListening: () => void
  /** Place in the log up to which those who keep up have been told. */
  private head = 0
  private isStale = false
  private advancing: Promise<void> | null = null

  constructor(
    private readonly shotId: string,
    private readonly read: LogReader,
  ) {
    this.stopListening = onShotEdited(shotId, () => void this.advance())
  }

  /** @param since  place in the log that the follower has */
  async join(follower: Follower, since: number): Promise<() => void> {
    const place: Place = { follower, sequence: since, isBehind: true }
    this.places.add(place)
    const leave = () => this.leave(place)
    try {
      await listening()
      await this.catchUp(place)
    } catch (error) {
      leave()
      throw error
    }
    return leave
  }

  private leave(place: Place) {
    this.places.delete(place)
    if (this.places.size > 0) return
    this.stopListening()
    feeds().delete(this.shotId)
  }

  /** Sends what the follower lacks, until it stands where those stand who keep up. */
  private async catchUp(place: Place) {
    while (place.isBehind) {
      const rows = await this.read(this.shotId, place.sequence)
      if (!this.places.has(place)) return
      if (rows.length > 0) this.send(place, encoder.encode(rows.map(eventOf).join('')), rows.at(-1)!.sequence)
      else if (!this.hasKeptUp) this.head = place.sequence
      // It has read what the others were not told yet.
      else if (place.sequence > this.head) await this.advance()
      // No wait comes between this look and joining those who keep up.
      if (rows.length === 0 && place.sequence === this.head) place.isBehind = false
    }
    // What was committed since the last reading was told to a feed that was not looking yet.
    void this.advance()
  }

  private get hasKeptUp() {
    return [...this.places].some(({ isBehind }) => !isBehind)
  }

  /** Tells those who keep up what has come; ends when there is nothing more. */
  private advance(): Promise<void> {
    this.isStale = true
    this.advancing ??= this.advanced().finally(() => (this.advancing = null))
    return this.advancing
  }

  private async advanced() {
    try {
      while (this.isStale) {
        this.isStale = false
        // Those who are being brought up read for themselves.
        while (this.hasKeptUp) {
          const from = this.head
          const rows = await this.read(this.shotId, from)
          if (rows.length === 0) break
          this.head = rows.at(-1)!.sequence
          const text = encoder.encode(rows.map(eventOf).join(''))
          for (const place of this.places) if (!place.isBehind) this.send(place, text, this.head)
        }
      }
    } catch {
      // The database is away, or the shot is gone: everybody opens the feed again, and is told so then.
      for (const { follower } of this.places) follower.drop()
    }
  }

  private send(place: Place, text: Uint8Array<ArrayBuffer>, sequence: number) {
    place.sequence = sequence
    if (place.follower.take(text)) return
    place.follower.drop()
    this.leave(place)
  }
}

/**
 * Follows a shot from a place in its log on. What was committed before is sent first, however much it is.
 *
 * @returns what ends it
 */
export function followShot(shotId: string, since: number, follower: Follower, read: LogReader): Promise<() => void> {
  let feed = feeds().get(shotId)
  if (!feed) feeds().set(shotId, (feed = new ShotFeed(shotId, read)))
  return feed.join(follower, since)
}
