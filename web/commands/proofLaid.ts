import { mainTrackId, say, setView, useShot, type ProofLaid } from '../store'

/** Lays the grid, or what was laid before, on four corners of the present frame; the selected track carries it. */
export function layProof(corners: readonly number[]) {
  const { selection, frame, view } = useShot.getState()
  const trackId = mainTrackId(selection)
  if (!trackId) say('doubtful', 'Select the track that is to carry the grid')
  else setView({ proofLaid: { trackId, frame, corners, content: view.proofLaid?.content ?? { kind: 'grid' } } })
}

/** Shows something else on the same corners. */
export function layInstead(content: ProofLaid['content']) {
  const { proofLaid } = useShot.getState().view
  if (proofLaid) setView({ proofLaid: { ...proofLaid, content } })
}

/** A picture file laid on the corners. */
export async function layPicture(file: File) {
  try {
    layInstead({ kind: 'picture', name: file.name, image: await createImageBitmap(file) })
  } catch {
    say('bad', `${file.name} cannot be shown: give it a PNG, JPEG or WebP picture`)
  }
}
