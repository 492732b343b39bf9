import { say, useShot } from '../store'

/** Opens the name of the selected Part in the list, chosen whole, to be typed over. */
export function renameSelected() {
  const { partId } = useShot.getState().selection
  if (partId === null) return say('doubtful', 'Select a Part to name it')
  useShot.setState({ renamingId: partId })
}
