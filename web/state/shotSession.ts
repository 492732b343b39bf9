import {
  batchFromJson,
  decodeObjects,
  newId,
  patchesTakenBack,
  replicaOf,
  SCHEMA_VERSION,
  toJson,
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
import { api, ApiProblem, wordsOf } from './api'
import { forgetPending, keepPending, pendingOf } from './editQueue'

export type SaveState = 'saved' | 'saving' | 'offline'

export interface SetAside {
  label: string
  reason: string
}

export interface SessionListener {
  onDocument(document: RotoDocument): void
  onSaveState(state: SaveState, waiting: number): void
  onSetAside(aside: SetAside): void
  onUndoable(undo: string | null, redo: string | null): void
}

const RETRY_MS = 1500
const BATCHES_A_SEND = 50

/**
 * One open shot: applies edits at once, keeps them in the browser until the server has them, sends them in order, and
 * lays other people's edits beneath. Knows nothing of the screen.
 */
export class ShotSession {
  private replica: Replica = replicaOf()
  private readonly answered = new Set<string>()
  private ownLog: EditBatch[] = []
  private readonly clientId = newId()
  private clientSequence = 0
  private sending = false
  /** The server was out of reach the last time; edits wait, and the header says so until one goes through. */
  private isOffline = false
  /** Nothing is sent before the shot has been read: what was committed meanwhile could not be told from what waits. */
  private isOpen = false
  private closed = false
  private events: EventSource | null = null
  private retry: ReturnType<typeof setTimeout> | undefined

  constructor(
    readonly shotId: string,
    private readonly author: string,
    private readonly listener: SessionListener,
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
    return (await this.fetched(`?sequence=${sequence}`)).document
  }

  /** Loads the shot, and offers again what an earlier visit could not send. */
  async open(): Promise<void> {
    const [own, waiting] = await Promise.all([
      api<{ batch: unknown }[]>(`/api/shots/${this.shotId}/edits?author=${encodeURIComponent(this.author)}&limit=200`),
      pendingOf(this.shotId),
      this.load(),
    ])
    this.ownLog = own.map((row) => batchFromJson(row.batch))
    // An edit made while the shot was being read stands in both: kept here, and among what waits.
    const known = new Set(this.replica.pending.map((batch) => batch.batchId))
    for (const batch of waiting) if (!known.has(batch.batchId)) this.adopt(batch)
    this.isOpen = true
    this.listen()
    this.publish()
    void this.send()
  }

  close() {
    this.closed = true
    this.events?.close()
    clearTimeout(this.retry)
  }

  /** One gesture. Returns false when it does not fit the document. */
  edit(label: string, patches: Patch[], undoes: string | null = null): boolean {
    if (patches.length === 0) return false
    const batch: EditBatch = {
      batchId: newId(),
      clientId: this.clientId,
      clientSequence: this.clientSequence++,
      author: this.author,
      baseSequence: this.replica.sequence,
      schemaVersion: SCHEMA_VERSION,
      label,
      undoes,
      patches,
    }
    const next = withLocalEdit(this.replica, batch)
    if (!next) return false
    this.replica = next
    this.publish()
    if (!this.isOffline) this.publishSaveState('saving')
    void keepPending(this.shotId, batch).then(() => this.send())
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
    const done = this.edit(label, patchesTakenBack(top), top.batchId)
    return { done, words: done ? label : `${top.label}: somebody has changed it since, so it stays` }
  }

  private stacks() {
    const known = new Set(this.ownLog.map((batch) => batch.batchId))
    const waiting = this.replica.pending.filter((batch) => !known.has(batch.batchId))
    return undoStacks([...this.ownLog, ...waiting], this.author)
  }

  /** Begins from the server's state, keeping what waits to be sent. */
  private async load() {
    const { document, sequence } = await this.fetched('')
    const waiting = this.replica.pending
    this.replica = replicaOf(document, sequence)
    waiting.forEach((batch) => this.adopt(batch))
  }

  private async fetched(query: string): Promise<{ document: RotoDocument; sequence: number }> {
    const response = await fetch(`/api/shots/${this.shotId}/document${query}`)
    if (!response.ok) throw new ApiProblem(response.status, 'not-found', 'The shot cannot be opened')
    const objects = decodeObjects(new Uint8Array(await response.arrayBuffer()))
    const document = { objects: new Map(objects.map((object) => [object.id, object])) }
    return { document, sequence: Number(response.headers.get('X-Sequence')) }
  }

  private adopt(batch: EditBatch) {
    const next = withLocalEdit(this.replica, batch)
    // What does not fit any more still goes to the server, which sets it aside visibly.
    this.replica = next ?? { ...this.replica, pending: [...this.replica.pending, batch] }
  }

  private listen() {
    this.events?.close()
    this.events = new EventSource(`/api/shots/${this.shotId}/events?since=${this.replica.sequence}`)
    this.events.onmessage = (message: MessageEvent<string>) => {
      const { sequence, batch } = JSON.parse(message.data) as { sequence: number; batch: unknown }
      if (sequence > this.replica.sequence) this.take([{ sequence, batch: batchFromJson(batch) }])
    }
    this.events.onerror = () => {
      if (this.events?.readyState === EventSource.CLOSED && !this.closed) setTimeout(() => this.listen(), RETRY_MS)
    }
  }

  private take(committed: CommittedBatch[]) {
    const isNew = committed.filter((entry) => entry.sequence > this.replica.sequence)
    if (isNew.length === 0) return
    try {
      this.replica = withCommitted(this.replica, isNew)
    } catch {
      // A gap in what was received.
      void this.load().then(() => this.publish())
      return
    }
    for (const { batch } of isNew) if (batch.author === this.author) this.ownLog.push(batch)
    this.publish()
  }

  private async send(): Promise<void> {
    if (this.sending || this.closed || !this.isOpen) return
    this.sending = true
    try {
      for (;;) {
        const batches = this.replica.pending.filter((b) => !this.answered.has(b.batchId)).slice(0, BATCHES_A_SEND)
        if (batches.length === 0) break
        this.publishSaveState('saving')
        const results = await api<{ batchId: string; outcome: 'committed' | 'aside'; reason?: string }[]>(
          `/api/shots/${this.shotId}/edits`,
          { body: toJson({ batches }) },
        )
        for (const result of results) {
          const batch = batches.find((b) => b.batchId === result.batchId)
          if (!batch) continue
          this.answered.add(batch.batchId)
          await forgetPending(batch)
          if (result.outcome === 'aside') {
            this.replica = withoutPending(this.replica, batch.batchId)
            this.listener.onSetAside({ label: batch.label, reason: result.reason ?? '' })
          }
        }
        const rows = await api<{ sequence: number; batch: unknown }[]>(
          `/api/shots/${this.shotId}/edits?since=${this.replica.sequence}`,
        )
        this.take(rows.map((row) => ({ sequence: row.sequence, batch: batchFromJson(row.batch) })))
        this.publish()
      }
      this.publishSaveState('saved')
    } catch (error) {
      this.publishSaveState('offline')
      if (!(error instanceof ApiProblem)) console.warn(wordsOf(error))
      clearTimeout(this.retry)
      this.retry = setTimeout(() => void this.send(), RETRY_MS)
    } finally {
      this.sending = false
    }
  }

  private publishSaveState(state: SaveState) {
    this.isOffline = state === 'offline'
    this.listener.onSaveState(state, this.replica.pending.filter((b) => !this.answered.has(b.batchId)).length)
  }

  private publish() {
    this.listener.onDocument(this.replica.live)
    const { undo, redo } = this.stacks()
    this.listener.onUndoable(undo.at(-1)?.label ?? null, redo.at(-1)?.label ?? null)
  }
}
