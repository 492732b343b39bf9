import type { Patch } from '@tender-lasso/core/document'
import { FrameCache } from '../media'
import { beginWithShot, forgetShot, say, sayInPassing, stillThere, useShot, type ShotInfo } from '../store'
import { wordsOf } from './api'
import { watchActs } from './artistActing'
import { isBackgroundHeld } from './background'
import { browserEditStore } from './editStore'
import { watchReading } from './plateReading'
import { endShotWork, whileOpen } from './shotWork'
import { shotServerOf } from './shotServer'
import { ShotSession, type SessionListener } from './shotSession'

const set = useShot.setState
const get = useShot.getState

let session: ShotSession | null = null
let frames: FrameCache | null = null

export const frameCache = () => frames

/** The open shot's link to its log. */
export const shotSession = () => session

const DEFAULT_BUDGET_BYTES = 1.5e9

/** Opens a shot: its document, its frames. Returns what ends it. */
export function openShot(info: ShotInfo, author: string): () => void {
  const isOpen = whileOpen()
  // What the last edits of a shot that was left come to is told in the one that is open by then.
  const about = () => (isOpen() ? '' : `${info.name}: `)
  const listener: SessionListener = {
    onDocument: (document) => set({ document, shown: document, selection: stillThere(document, get().selection) }),
    onSaveState: (saveState, waiting) => set({ saveState, waiting }),
    onSetAside: (one) => {
      if (isOpen()) set({ setAside: [...get().setAside, one] })
      say('bad', `${about()}Set aside: ${one.label} (${one.reason})`)
    },
    onUndoable: (undoLabel, redoLabel) => set({ undoLabel, redoLabel }),
    onTrouble: (words) => say('bad', about() + words),
  }
  const opened = new ShotSession(info.id, author, listener, shotServerOf(info.id), browserEditStore)
  session = opened
  const budget = Number(localStorage.getItem('frame-budget')) || DEFAULT_BUDGET_BYTES
  frames = new FrameCache(info.id, info.width * info.height * 4, budget)
  beginWithShot(info, author)
  const cache = frames
  const range = Array.from({ length: info.lastFrame - info.firstFrame + 1 }, (_, i) => info.firstFrame + i)
  // The first frame comes at once; the others fill the memory behind it in the artist's pauses.
  const isWanted = () => frames === cache
  const stopWatchingActs = watchActs()
  const isBusy = () => get().track !== null || isBackgroundHeld()
  const nearestFirst = () => {
    const { frame } = get()
    return range.toSorted((a, b) => Math.abs(a - frame) - Math.abs(b - frame))
  }
  const fill = () => void cache.load(get().frame).then(() => cache.fetchAhead(nearestFirst(), isWanted, isBusy))
  const stopWatching = watchReading(info, {
    onFrames(stretches) {
      cache.setReadable(stretches)
      set({ readStretches: stretches })
      fill()
    },
    onEnd(now, count) {
      set({ info: now })
      if (now.state === 'ready') sayInPassing(`The plate is read: ${count} frames`)
      else say('bad', `The plate was not read to its end: ${now.message}`)
    },
  })
  opened.open().catch((error: unknown) => isOpen() && say('bad', wordsOf(error)))
  return () => {
    endShotWork()
    opened.close()
    stopWatching()
    stopWatchingActs()
    frames?.clear()
    session = null
    frames = null
    forgetShot()
  }
}

/** One gesture, one edit. Says so when it does not fit. */
export function edit(label: string, patches: Patch[]): boolean {
  if (patches.length === 0 || !session) return false
  try {
    if (session.edit(label, patches)) return true
    say('bad', `Could not ${label}: somebody has changed it meanwhile`)
  } catch (error) {
    say('bad', `Could not ${label}: ${wordsOf(error)}`)
  }
  set({ shown: get().document })
  return false
}

export function undo() {
  const result = session?.undo()
  if (result) say(result.done ? 'said' : 'doubtful', result.words)
}

export function redo() {
  const result = session?.redo()
  if (result) say(result.done ? 'said' : 'doubtful', result.words)
}
