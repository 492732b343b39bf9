/** Stands for the time from a shot's opening to its closing. */
let life = {}
const endings = new Set<() => void>()

/** Tells whether the shot that is open now still is: what takes a while is not to act on another one. */
export function whileOpen(): () => boolean {
  const begun = life
  return () => life === begun
}

/**
 * Has work end with the shot that is open, just before it closes and can no longer be edited. Returns what takes this
 * back.
 */
export function endWithShot(end: () => void): () => void {
  endings.add(end)
  return () => void endings.delete(end)
}

/** Ends the work of the shot that is open; called as it closes. */
export function endShotWork() {
  endings.forEach((end) => end())
  endings.clear()
  life = {}
}
