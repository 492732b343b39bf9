/** Milliseconds after an act for which the artist is taken to be in the middle of something. */
const REST_MS = 400
const ACTS = ['keydown', 'pointerdown', 'pointermove', 'wheel'] as const

let actedAt = -Infinity

const noteAct = () => (actedAt = performance.now())

/** Whether pointer or keys have just been used: what only fills memory waits for a pause. */
export const isArtistActing = () => performance.now() - actedAt < REST_MS

/** Begins to watch pointer and keys. Returns what ends it. */
export function watchActs(): () => void {
  for (const act of ACTS) addEventListener(act, noteAct, { capture: true, passive: true })
  return () => {
    for (const act of ACTS) removeEventListener(act, noteAct, { capture: true })
  }
}
