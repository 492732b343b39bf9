import { say, useShot } from '../store'

export const RENAME = 'rename-in-place'

/** Opens the name of the selected Part in the list, chosen whole, to be typed over. */
export function renameSelected() {
  const { partId } = useShot.getState().selection
  if (partId === null) return say('doubtful', 'Select a Part to name it')
  window.dispatchEvent(new CustomEvent(RENAME, { detail: partId }))
}
