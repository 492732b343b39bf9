import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { applyBatch, batchFromJson, findObject, isConflict, toJson, type CommittedBatch, type EditBatch, type Patch, type RotoDocument } from '@tender-lasso/core/document' // prettier-ignore
import { documentOf, testBatch, testPart, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { objectAdded } from '@tender-lasso/core/edits'
import { ApiProblem } from './api'
import { ShotSession, type BatchAnswer, type EditStore, type ShotServer } from './shotSession'
import type { SetAside } from '../store'

/** A log in memory that answers as the server does, and can be told to refuse, hang, answer twice or disappear. */
class FakeServer implements ShotServer {
  head: RotoDocument = documentOf([testShot, testSubject, testPart('coat')])
  log: CommittedBatch[] = []
  damage: string | null = null
  sent: string[][] = []
  /** What happens instead of an answer. */
  instead: ((batches: readonly EditBatch[]) => Promise<BatchAnswer[]>) | null = null
  /** Answers are lost on the way back, though the batches are committed. */
  losesAnswers = 0
  private followers: { sequence: () => number; onCommitted: (batches: CommittedBatch[]) => void; onLost: () => void }[] = [] // prettier-ignore

  document() {
    return Promise.resolve({ document: this.head, sequence: this.log.length, damage: this.damage })
  }

  batchesOf(author: string) {
    return Promise.resolve(this.log.filter(({ batch }) => batch.author === author))
  }

  batchesSince(sequence: number) {
    return Promise.resolve(this.log.slice(sequence))
  }

  submit(batches: readonly EditBatch[]): Promise<BatchAnswer[]> {
    this.sent.push(batches.map(({ label }) => label))
    if (this.instead) return this.instead(batches)
    const answers = batches.map((batch) => this.commit(batch))
    if (this.losesAnswers-- > 0) return Promise.reject(new ApiProblem(0, 'offline', 'The server cannot be reached'))
    return Promise.resolve(answers)
  }

  commit(raw: EditBatch): BatchAnswer {
    const batch = batchFromJson(JSON.parse(toJson(raw)))
    const known = this.log.find((entry) => entry.batch.batchId === batch.batchId)
    if (known) return { batchId: batch.batchId, outcome: 'committed', sequence: known.sequence }
    const next = applyBatch(this.head, batch)
    if (isConflict(next)) return { batchId: batch.batchId, outcome: 'set-aside', reason: next.reason }
    this.head = next
    this.log.push({ sequence: this.log.length + 1, batch })
    return { batchId: batch.batchId, outcome: 'committed', sequence: this.log.length }
  }

  follow(sequence: () => number, onCommitted: (batches: CommittedBatch[]) => void, onLost: () => void) {
    const follower = { sequence, onCommitted, onLost }
    this.followers.push(follower)
    return () => void (this.followers = this.followers.filter((one) => one !== follower))
  }

  /** The feed brings what came. */
  tell() {
    for (const one of this.followers) one.onCommitted(this.log.slice(one.sequence()))
  }
}

class FakeStore implements EditStore {
  rows = new Map<string, EditBatch>()
  unreadable = 0
  fails: Error | null = null

  keep(_shotId: string, batch: EditBatch) {
    if (this.fails) return Promise.reject(this.fails)
    this.rows.set(batch.batchId, batch)
    return Promise.resolve()
  }

  forget(batch: EditBatch) {
    if (this.fails) return Promise.reject(this.fails)
    this.rows.delete(batch.batchId)
    return Promise.resolve()
  }

  pendingOf() {
    if (this.fails) return Promise.reject(this.fails)
    return Promise.resolve({ batches: [...this.rows.values()], unreadable: this.unreadable })
  }
}

let server: FakeServer
let store: FakeStore
const told = { aside: [] as SetAside[], trouble: [] as string[], states: [] as string[], document: null as RotoDocument | null } // prettier-ignore

function session(author = 'Ida'): ShotSession {
  return new ShotSession(
    'shot',
    author,
    {
      onDocument: (document) => (told.document = document),
      onSaveState: (state, waiting) => told.states.push(`${state} ${waiting}`),
      onSetAside: (aside) => told.aside.push(aside),
      onUndoable: () => undefined,
      onTrouble: (words) => told.trouble.push(words),
    },
    server,
    store,
  )
}

const named = (from: string, to: string): Patch[] => [{ kind: 'field', id: 'coat', field: 'name', before: from, after: to }] // prettier-ignore
const nameShown = () => findObject(told.document!, 'part', 'coat')!.name
const settled = () => vi.advanceTimersByTimeAsync(0)
const lastState = () => told.states.at(-1)

beforeEach(() => {
  vi.useFakeTimers()
  server = new FakeServer()
  store = new FakeStore()
  Object.assign(told, { aside: [], trouble: [], states: [], document: null })
})
afterEach(() => vi.useRealTimers())

async function opened(author?: string) {
  const one = session(author)
  await one.open()
  await settled()
  return one
}

describe('a shot that is left', () => {
  it('has sent what was edited just before, and nothing more is heard of its document', async () => {
    const one = await opened()
    one.edit('name', named('coat', 'cloak'))
    one.close()
    const [states, shown] = [told.states.length, told.document]
    await settled()
    expect([server.log.length, store.rows.size]).toEqual([1, 0])
    expect([told.states.length, told.document]).toEqual([states, shown])
  })

  it('is told of nothing by an answer that was under way', async () => {
    const one = await opened()
    let answer = () => {}
    server.instead = (batches) =>
      new Promise((resolve) => (answer = () => resolve(batches.map((batch) => server.commit(batch)))))
    one.edit('name', named('coat', 'cloak'))
    await settled()
    one.close()
    told.document = null
    answer()
    await settled()
    expect([server.log.length, store.rows.size, told.document]).toEqual([1, 0, null])
  })

  it('before it was read, sends what was edited once it is', async () => {
    const one = session()
    const opening = one.open()
    one.edit('name', [objectAdded({ ...testSubject, id: 'passer-by' })])
    one.close()
    await opening
    await settled()
    expect([server.log.length, store.rows.size, told.states.at(-1)]).toEqual([1, 0, 'saving 1'])
  })

  it('while the server is away is not sent again and again: the browser keeps it for the next visit', async () => {
    const one = await opened()
    server.instead = () => Promise.reject(new ApiProblem(0, 'offline', 'The server cannot be reached'))
    one.edit('name', named('coat', 'cloak'))
    await settled()
    one.close()
    await vi.advanceTimersByTimeAsync(60_000)
    expect(server.sent.length).toBeLessThan(4)
    expect(store.rows.size).toBe(1)
    server.instead = null
    await opened()
    expect([server.log.length, store.rows.size, nameShown()]).toEqual([1, 0, 'cloak'])
  })

  it('and whose last edit is set aside then, says so', async () => {
    const one = await opened()
    server.commit(testBatch(named('coat', 'cape'), { author: 'Ben' }))
    one.edit('name', named('coat', 'cloak'))
    one.close()
    await settled()
    expect(told.aside.map(({ label }) => label)).toEqual(['name'])
  })
})

describe('edits of an open shot', () => {
  it('are shown at once, sent, and forgotten by the browser when they are answered', async () => {
    const one = await opened()
    expect(one.edit('name', named('coat', 'cloak'))).toBe(true)
    expect(nameShown()).toBe('cloak')
    await settled()
    expect(lastState()).toBe('saved 0')
    expect([server.log.length, store.rows.size, one.settledAt]).toEqual([1, 0, 1])
  })

  it('are sent although the browser cannot keep them, and that is said once', async () => {
    store.fails = new Error('the quota is used up')
    const one = await opened()
    one.edit('name', named('coat', 'cloak'))
    one.edit('name', named('cloak', 'cape'))
    await settled()
    expect(server.log).toHaveLength(2)
    expect(lastState()).toBe('saved 0')
    expect(told.trouble).toHaveLength(1)
    expect(told.trouble[0]).toContain('the quota is used up')
  })

  it('that cannot be read from an earlier visit are reported, and the others are sent', async () => {
    store.unreadable = 2
    await store.keep('shot', testBatch(named('coat', 'cloak'), { author: 'Ida' }))
    await opened()
    expect(told.trouble[0]).toContain('2 edits of an earlier visit cannot be read')
    expect(server.log).toHaveLength(1)
    expect(store.rows.size).toBe(0)
  })

  it('wait while the server is out of reach, with growing pauses, and arrive when it is back', async () => {
    const one = await opened()
    server.instead = () => Promise.reject(new ApiProblem(0, 'offline', 'The server cannot be reached'))
    one.edit('name', named('coat', 'cloak'))
    await settled()
    expect(lastState()).toBe('offline 1')
    await vi.advanceTimersByTimeAsync(60_000)
    expect(server.sent.length).toBeGreaterThan(4)
    expect(server.sent.length).toBeLessThan(12)
    server.instead = null
    await vi.advanceTimersByTimeAsync(15_000)
    expect(lastState()).toBe('saved 0')
    expect([server.log.length, store.rows.size]).toEqual([1, 0])
  })

  it('that were answered though the log could not be read then are taken from it the next time, without the feed', async () => {
    const one = await opened()
    const batchesSince = vi.spyOn(server, 'batchesSince').mockRejectedValueOnce(new TypeError('terminated'))
    one.edit('name', named('coat', 'cloak'))
    await settled()
    expect([server.log.length, store.rows.size, one.settledAt]).toEqual([1, 0, null])
    await vi.advanceTimersByTimeAsync(5000)
    expect([lastState(), one.settledAt, batchesSince.mock.calls.length]).toEqual(['saved 0', 1, 2])
  })

  it('a server error is tried again as well', async () => {
    const one = await opened()
    server.instead = () => Promise.reject(new ApiProblem(503, 'database-away', 'The database cannot be reached'))
    one.edit('name', named('coat', 'cloak'))
    await settled()
    expect(lastState()).toBe('offline 1')
    server.instead = null
    await vi.advanceTimersByTimeAsync(2000)
    expect(lastState()).toBe('saved 0')
  })

  it('whose answer was lost are sent again and apply once', async () => {
    const one = await opened()
    server.losesAnswers = 1
    one.edit('name', named('coat', 'cloak'))
    await vi.advanceTimersByTimeAsync(2000)
    expect(server.sent).toHaveLength(2)
    expect([server.log.length, lastState(), one.settledAt]).toEqual([1, 'saved 0', 1])
  })

  it('whose answer was lost, but which the log brings, are forgotten by the browser as well', async () => {
    const one = await opened()
    server.losesAnswers = 1
    one.edit('name', named('coat', 'cloak'))
    await settled()
    expect([server.log.length, store.rows.size]).toEqual([1, 1])
    server.tell()
    await settled()
    expect([one.settledAt, store.rows.size]).toEqual([1, 0])
    await vi.advanceTimersByTimeAsync(20_000)
    expect([server.sent.length, lastState()]).toEqual([1, 'saved 0'])
  })

  it('that were committed before this visit leave the queue though the log brings them no more', async () => {
    const before = testBatch(named('coat', 'cloak'), { author: 'Ida' })
    server.commit(before)
    await store.keep('shot', before)
    const one = await opened()
    expect([server.log.length, store.rows.size, one.settledAt, lastState()]).toEqual([1, 0, 1, 'saved 0'])
    expect(nameShown()).toBe('cloak')
    expect(told.aside).toEqual([])
  })

  it('that are refused are dropped with words; those behind them go through; nothing is called offline', async () => {
    const one = await opened()
    server.instead = (batches) => {
      server.instead = null
      return Promise.resolve(
        batches.map((batch) =>
          batch.label === 'bad' ? { batchId: batch.batchId, outcome: 'refused', reason: 'a label is too long' } : server.commit(batch),
        ),
      ) // prettier-ignore
    }
    one.edit('bad', named('coat', 'cloak'))
    one.edit('good', [{ kind: 'field', id: 'coat', field: 'locked', before: false, after: true }])
    await settled()
    expect(told.aside).toEqual([{ label: 'bad', reason: 'a label is too long' }])
    expect(nameShown()).toBe('coat')
    expect(findObject(told.document!, 'part', 'coat')!.locked).toBe(true)
    expect([lastState(), store.rows.size, server.log.length]).toEqual(['saved 0', 0, 1])
    expect(told.states.join()).not.toContain('offline')
  })

  it('one that has no id to be answered by is found by its place', async () => {
    const one = await opened()
    server.instead = () => Promise.resolve([{ batchId: null, index: 0, outcome: 'refused', reason: 'odd' }])
    one.edit('odd', named('coat', 'cloak'))
    await settled()
    expect([told.aside.length, lastState()]).toEqual([1, 'saved 0'])
  })

  it('too much at once is sent one by one; one that is too large by itself is dropped', async () => {
    const one = await opened()
    server.instead = (batches) =>
      batches.length > 1 || batches[0]!.label === 'huge'
        ? Promise.reject(new ApiProblem(413, 'too-large', 'The request is larger than 96 MB'))
        : Promise.resolve(batches.map((batch) => server.commit(batch)))
    one.edit('small', named('coat', 'cloak'))
    one.edit('huge', [{ kind: 'field', id: 'coat', field: 'locked', before: false, after: true }])
    await settled()
    expect([server.log.length, lastState()]).toEqual([1, 'saved 0'])
    expect(told.aside).toEqual([{ label: 'huge', reason: 'The request is larger than 96 MB' }])
  })

  it('of a shot that was deleted stop with words, and are not tried for ever', async () => {
    const one = await opened()
    server.instead = () => Promise.reject(new ApiProblem(404, 'not-found', 'The shot does not exist (any more)'))
    one.edit('name', named('coat', 'cloak'))
    await settled()
    const tries = server.sent.length
    await vi.advanceTimersByTimeAsync(120_000)
    expect(server.sent).toHaveLength(tries)
    expect(lastState()).toBe('stopped 1')
    expect(told.trouble[0]).toContain('does not exist')
    expect(() => one.edit('more', named('cloak', 'cape'))).toThrow('takes no edits')
    // They stay in the browser: who knows what they are still good for.
    expect(store.rows.size).toBe(1)
  })

  it('a server that answers nothing is tried again, not asked in a loop', async () => {
    const one = await opened()
    server.instead = () => Promise.resolve([])
    one.edit('name', named('coat', 'cloak'))
    await settled()
    expect(server.sent).toHaveLength(1)
    expect(lastState()).toBe('offline 1')
  })

  it('of a log that cannot be read to its end none are made; the shot is shown as it was', async () => {
    server.damage = 'Edit 7 of this shot cannot be read by this version'
    const one = await opened()
    expect(told.trouble[0]).toContain('Edit 7')
    expect(nameShown()).toBe('coat')
    expect(() => one.edit('name', named('coat', 'cloak'))).toThrow('Edit 7')
    expect(server.sent).toEqual([])
  })

  it('a label that undo makes too long for the log is cut', async () => {
    const one = await opened()
    one.edit('x'.repeat(200), named('coat', 'cloak'))
    await settled()
    expect(one.undo().done).toBe(true)
    await settled()
    expect(server.log.map(({ batch }) => batch.label.length)).toEqual([200, 200])
    expect(nameShown()).toBe('coat')
  })

  it('of another artist are laid beneath; what does not fit any more is set aside', async () => {
    const one = await opened()
    const hold = new Promise<BatchAnswer[]>(() => undefined)
    server.instead = () => hold
    one.edit('mine', named('coat', 'cloak'))
    await settled()
    server.instead = null
    server.commit(testBatch(named('coat', 'cape'), { author: 'Ola' }))
    server.tell()
    expect(nameShown()).toBe('cape')
  })

  it('a gap in what the feed brings is mended by reading the shot anew', async () => {
    await opened()
    server.commit(testBatch(named('coat', 'cape'), { author: 'Ola' }))
    server.commit(testBatch(named('cape', 'cloak'), { author: 'Ola' }))
    const [, second] = server.log
    // Only the second arrives.
    const { log } = server
    server.log = [second!]
    server.tell()
    server.log = log
    await settled()
    expect(nameShown()).toBe('cloak')
  })

  it('and then what was committed meanwhile waits no more', async () => {
    const one = await opened()
    one.edit('mine', named('coat', 'cloak'))
    // Committed and answered, but the log is not brought: it breaks off at something that does not fit.
    const since = server.batchesSince.bind(server)
    server.batchesSince = (sequence) => {
      server.batchesSince = since
      const strange = testBatch(named('nothing', 'at all'))
      return Promise.resolve([{ sequence: sequence + 1, batch: strange }])
    }
    await settled()
    expect([server.log.length, one.settledAt, lastState()]).toEqual([1, 1, 'saved 0'])
    expect(nameShown()).toBe('cloak')
    expect(one.undo().done).toBe(true)
  })
})
