import { mainTrackId, say, setView, useShot } from './shotStore'

/** Lays the proof grid on four corners of the present frame; the selected track carries it. */
export function layProofGrid(corners: readonly number[]) {
  const { selection, frame } = useShot.getState()
  const trackId = mainTrackId(selection)
  if (!trackId) say('doubtful', 'Select the track that is to carry the grid')
  else setView({ proofGrid: { trackId, frame, corners } })
}
