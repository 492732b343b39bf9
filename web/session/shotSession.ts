import {
  BOUNDS,
  newId,
  patchesTakenBack,
  replicaOf,
  SCHEMA_VERSION,
  undoStacks,
  withCommitted,
  withLocalEdit,
  withoutPending,
  type CommittedBatch,
  type EditBatch,
  type Patch,
  type Replica,
  type RotoDocument,
} from '@tender-lasso/core/document'
import type { SaveState, SetAside } from '../store'
import { ApiProblem, wordsOf } from './api'

/** After the shot is left only what is set aside or troubles is told. */
export interface SessionListener {
  onDocument(document: RotoDocument): void
  onSaveState(state: SaveState, waiting: number): void
  onSetAside(aside: SetAside): void
  onUndoable(undo: string | null, redo: string | null): void
  /** Something that the artist should know, in words; the work goes on. */
  onTrouble(words: string): void
}

/** What the server says to one batch. */
export interface BatchAnswer {
  batchId: string | null
  /** Place in the request, where it cannot be told by its id. */
  index?: number
  outcome: 'committed' | 'set-aside' | 'refused'
  sequence?: number
  reason?: string
}

/** The server's side of a shot. What is asked fails with an ApiProblem. */
export interface ShotServer {
  document(sequence?: number): Promise<{ document: RotoDocument; sequence: number; damage: string | null }>
  batchesOf(author: string): Promise<CommittedBatch[]>
  batchesSince(sequence: number): Promise<CommittedBatch[]>
  submit(batches: readonly EditBatch[]): Promise<BatchAnswer[]>
  /** Calls back with what is committed after a place. Lost: what this side has must be read anew. Returns what ends it. */
  follow(sequence: () => number, onCommitted: (batches: CommittedBatch[]) => void, onLost: () => void): () => void
}

/** Where edits are kept until the server has answered. */
export interface EditStore {
  keep(shotId: string, batch: EditBatch): Promise<void>
  forget(batch: EditBatch): Promise<void>
  pendingOf(shotId: string): Promise<{ batches: EditBatch[]; unreadable: number }>
}

const FIRST_RETRY_MS = 1500
const LONGEST_RETRY_MS = 15_000
const BATCHES_A_SEND = 50

/**
 * One open shot: applies edits at once, keeps them in the browser until the server has them, sends them in order, and
 * lays other people's edits beneath. Knows nothing of the screen.
 */
export class ShotSession {
  private replica: Replica = replicaOf()
  /** Batches that the server has committed, by their places in the log, which has yet to bring them. */
  private readonly answered = new Map<string, number>()
  private ownLog: EditBatch[] = []
  private readonly clientId = newId()
  private clientSequence = 0
  private sending = false
  /** The server was out of reach the last time; edits wait, and the header says so until one goes through. */
  private isOffline = false
  /** Why the server takes no edits any more. */
  private stopped: string | null = null
  /** Nothing is sent before the shot has been read: what was committed meanwhile could not be told from what waits. */
  private isOpen = false
  private closed = false
  private unfollow: () => void = () => {}
  private retry: ReturnType<typeof setTimeout> | undefined
  private retryMs = FIRST_RETRY_MS
  private atOnce = BATCHES_A_SEND
  private isStoreTold = false

  constructor(
    readonly shotId: string,
    private readonly author: string,
    private readonly listener: SessionListener,
    private readonly server: ShotServer,
    private readonly store: EditStore,
  ) {}

  get document(): RotoDocument {
    return this.replica.live
  }

  /** Place in the log of what is on screen, or null while something of it waits to be sent. */
  get settledAt(): number | null {
    return this.replica.pending.length === 0 ? this.replica.sequence : null
  }

  /** The shot as it was after a batch of the past. */
  async documentAt(sequence: number): Promise<RotoDocument> {
    return (await this.server.document(sequence)).document
  }

  /** Loads the shot, and offers again what an earlier visit could not send. */
  async open(): Promise<void> {
    const [own, waiting] = await Promise.all([this.server.batchesOf(this.author), this.waiting(), this.load()])
    this.ownLog = own.map(({ batch }) => batch)
    // An edit made while the shot was being read stands in both: kept here, and among what waits.
    const known = new Set(this.replica.pending.map((batch) => batch.batchId))
    for (const batch of waiting) if (!known.has(batch.batchId)) this.adopt(batch)
    this.isOpen = true
    if (this.stopped === null && !this.closed) this.follow()
    this.publish()
    void this.send()
  }

  /**
   * Leaves the shot: the listener hears no more of its document. What waits is still sent, once; where that fails the
   * browser keeps it until the shot is opened again.
   */
  close() {
    this.closed = true
    this.unfollow()
    clearTimeout(this.retry)
    void this.send()
  }

  /** One gesture. Returns false when it does not fit the document. @throws Error in words when none can be made */
  edit(label: string, patches: Patch[], undoes: string | null = null): boolean {
    if (patches.length === 0) return false
    if (this.stopped !== null) throw new Error(this.stopped)
    const batch: EditBatch = {
      batchId: newId(),
      clientId: this.clientId,
      clientSequence: this.clientSequence++,
      author: this.author,
      baseSequence: this.replica.sequence,
      schemaVersion: SCHEMA_VERSION,
      label: label.slice(0, BOUNDS.label),
      undoes,
      patches,
    }
    const next = withLocalEdit(this.replica, batch)
    if (!next) return false
    this.replica = next
    this.publish()
    if (!this.isOffline) this.publishSaveState('saving')
    // An edit is sent whether or not the browser can keep it meanwhile.
    void this.kept(this.store.keep(this.shotId, batch)).then(() => this.send())
    return true
  }

  /** Takes back the artist's last edit. Returns words: what was undone, or why it cannot be. */
  undo(): { done: boolean; words: string } {
    return this.takeBack('undo')
  }

  redo(): { done: boolean; words: string } {
    return this.takeBack('redo')
  }

  private takeBack(direction: 'undo' | 'redo') {
    const top = this.stacks()[direction].at(-1)
    if (!top) return { done: false, words: direction === 'undo' ? 'Nothing to undo' : 'Nothing to redo' }
    const label = direction === 'undo' ? `undo ${top.label}` : top.label.replace(/^undo /, 'redo ')
    try {
      const done = this.edit(label, patchesTakenBack(top), top.batchId)
      return { done, words: done ? label : `${top.label}: somebody has changed it since, so it stays` }
    } catch (error) {
      return { done: false, words: `${top.label} stays: ${wordsOf(error)}` }
    }
  }

  private stacks() {
    const known = new Set(this.ownLog.map((batch) => batch.batchId))
    const waiting = this.replica.pending.filter((batch) => !known.has(batch.batchId))
    return undoStacks([...this.ownLog, ...waiting], this.author)
  }

  /** Edits of an earlier visit; what cannot be had of them is said and stops nothing. */
  private async waiting(): Promise<EditBatch[]> {
    try {
      const { batches, unreadable } = await this.store.pendingOf(this.shotId)
      if (unreadable > 0) {
        const count = unreadable === 1 ? 'One edit' : `${unreadable} edits`
        this.listener.onTrouble(
          `${count} of an earlier visit cannot be read, and will not be sent; what was sent is safe`,
        )
      }
      return batches
    } catch (error) {
      this.tellOfStore(error)
      return []
    }
  }

  private async kept(keeping: Promise<void>): Promise<void> {
    try {
      await keeping
    } catch (error) {
      this.tellOfStore(error)
    }
  }

  private tellOfStore(error: unknown) {
    if (this.isStoreTold) return
    this.isStoreTold = true
    this.listener.onTrouble(
      `This browser keeps no unsent edits (${wordsOf(error)}). They are sent all the same: leave the page open until it says "saved"`,
    )
  }

  /** Begins from the server's state, keeping what waits to be sent. */
  private async load() {
    const { document, sequence, damage } = await this.server.document()
    // What stands in what was just read waits no more.
    const waiting = this.replica.pending.filter(({ batchId }) => (this.answered.get(batchId) ?? Infinity) > sequence)
    this.replica = replicaOf(document, sequence)
    waiting.forEach((batch) => this.adopt(batch))
    if (damage) this.stop(`${damage}. The shot is shown as it was before that, and can be looked at but not changed`)
  }

  /** The server takes no more edits of this shot. */
  private stop(why: string) {
    this.stopped = why
    this.unfollow()
    clearTimeout(this.retry)
    this.listener.onTrouble(why)
    this.publishSaveState('stopped')
  }

  private adopt(batch: EditBatch) {
    let next: Replica | null = null
    try {
      next = withLocalEdit(this.replica, batch)
    } catch {
      // It can fit no document: the server says so, and it is dropped then.
    }
    // What does not fit any more still goes to the server, which sets it aside visibly.
    this.replica = next ?? { ...this.replica, pending: [...this.replica.pending, batch] }
  }

  private follow() {
    this.unfollow()
    this.unfollow = this.server.follow(
      () => this.replica.sequence,
      (committed) => this.take(committed),
      () => void this.reload(),
    )
  }

  private async reload() {
    if (this.closed) return
    try {
      const [own] = await Promise.all([this.server.batchesOf(this.author), this.load()])
      this.ownLog = own.map(({ batch }) => batch)
      this.publish()
    } catch {
      // Out of reach: the feed is opened again, and this is asked again, or an edit that is sent tells why not.
    }
  }

  private take(committed: CommittedBatch[]) {
    const isNew = committed.filter((entry) => entry.sequence > this.replica.sequence)
    if (isNew.length === 0) return
    // The log may bring what was sent before its answer does, or in place of it.
    const unheard = new Set(this.unanswered().map(({ batchId }) => batchId))
    try {
      this.replica = withCommitted(this.replica, isNew)
    } catch {
      // A gap in what was received.
      void this.reload()
      return
    }
    for (const { batch } of isNew) {
      this.answered.delete(batch.batchId)
      if (unheard.has(batch.batchId)) void this.kept(this.store.forget(batch))
      if (batch.author === this.author) this.ownLog.push(batch)
    }
    this.publish()
  }

  private async send(): Promise<void> {
    if (this.sending || !this.isOpen || this.stopped !== null) return
    this.sending = true
    try {
      while (this.replica.pending.length > 0) {
        const batches = this.unanswered().slice(0, this.atOnce)
        if (batches.length === 0) {
          // Answered the last time, when the log could not be read.
          this.take(await this.server.batchesSince(this.replica.sequence))
          // An edit may have been made meanwhile; what the log still lacks the feed will bring.
          if (this.unanswered().length === 0) break
          continue
        }
        this.publishSaveState('saving')
        const answers = await this.submitted(batches)
        if (!answers) continue
        for (const [index, batch] of batches.entries()) {
          const answer = answers.find((one) => one.batchId === batch.batchId) ?? answers.find((one) => one.batchId === null && one.index === index) // prettier-ignore
          if (answer) this.hear(batch, answer)
        }
        if (!batches.some((batch) => this.answered.has(batch.batchId) || !this.isPending(batch))) {
          throw new ApiProblem(0, 'no-answer', 'The server answered none of the edits')
        }
        this.take(await this.server.batchesSince(this.replica.sequence))
        this.publish()
      }
      this.retryMs = FIRST_RETRY_MS
      this.publishSaveState('saved')
    } catch (error) {
      this.failed(error)
    } finally {
      this.sending = false
    }
  }

  /** The server's answers; null when it was too much at once, and less is to be sent. */
  private async submitted(batches: readonly EditBatch[]): Promise<BatchAnswer[] | null> {
    try {
      return await this.server.submit(batches)
    } catch (error) {
      if (!(error instanceof ApiProblem) || error.status !== 413) throw error
      if (batches.length > 1) this.atOnce = 1
      else this.hear(batches[0]!, { batchId: batches[0]!.batchId, outcome: 'refused', reason: error.message })
      return null
    }
  }

  private unanswered(): EditBatch[] {
    return this.replica.pending.filter((batch) => !this.answered.has(batch.batchId))
  }

  private isPending(batch: EditBatch): boolean {
    return this.replica.pending.some(({ batchId }) => batchId === batch.batchId)
  }

  private hear(batch: EditBatch, { outcome, sequence, reason }: BatchAnswer) {
    void this.kept(this.store.forget(batch))
    if (outcome === 'committed' && sequence !== undefined && sequence > this.replica.sequence) {
      this.answered.set(batch.batchId, sequence)
      return
    }
    // Set aside, refused, or in what was read already: it leaves the queue.
    this.replica = withoutPending(this.replica, batch.batchId)
    if (outcome !== 'committed') this.listener.onSetAside({ label: batch.label, reason: reason ?? '' })
  }

  /** Out of reach is tried again; a refusal is told, and would only be repeated. */
  private failed(error: unknown) {
    const status = error instanceof ApiProblem ? error.status : 0
    if (status >= 400 && status < 500 && status !== 408 && status !== 429) return this.stop(this.wordsOfStop(error))
    this.publishSaveState('offline')
    clearTimeout(this.retry)
    if (this.closed) return
    this.retry = setTimeout(() => void this.send(), this.retryMs)
    this.retryMs = Math.min(LONGEST_RETRY_MS, this.retryMs * 2)
  }

  private wordsOfStop(error: unknown): string {
    const waiting = this.unanswered().length
    const count = waiting === 1 ? 'one edit' : `${waiting} edits`
    return `The server takes no edits: ${wordsOf(error)}. ${count} could not be stored`
  }

  private publishSaveState(state: SaveState) {
    const shown = this.stopped === null ? state : 'stopped'
    this.isOffline = shown === 'offline'
    if (this.closed) return
    this.listener.onSaveState(shown, this.unanswered().length)
  }

  private publish() {
    if (this.closed) return
    this.listener.onDocument(this.replica.live)
    const { undo, redo } = this.stacks()
    this.listener.onUndoable(undo.at(-1)?.label ?? null, redo.at(-1)?.label ?? null)
  }
}
