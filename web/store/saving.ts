/** stopped: the server takes no edits of this shot any more, and says why. */
export type SaveState = 'saved' | 'saving' | 'offline' | 'stopped'

/** An edit that did not become part of the shot. */
export interface SetAside {
  label: string
  reason: string
}
