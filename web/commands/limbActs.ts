import { bendSideOf, limbPosed, limbOf, pivotOnPlate, withEnd } from '@tender-lasso/core/edits'
import { editReaching, keyingNow } from './keying'
import { posedPart, say, useShot } from '../store'

/**
 * The bend of the selected Part's limb turned over: its joint goes to the other side while its end stays. A straight limb
 * bends to the other side from then on.
 */
export function turnBendOver() {
  const { document, frame, bendSides } = useShot.getState()
  const part = posedPart()
  const limb = part && limbOf(document, part)
  const ended = limb && withEnd(document, limb)
  if (!part || !ended) return say('doubtful', 'Select a hand, a foot or the lower bone of a limb to turn its bend over')
  const tip = pivotOnPlate(document, ended.end, frame)
  const { side, isGuess } = bendSideOf(document, ended, frame, tip)
  if (isGuess) {
    const now = bendSides[ended.lower.id] ?? side
    useShot.setState({ bendSides: { ...bendSides, [ended.lower.id]: now === 1 ? -1 : 1 } })
    return say('said', `${ended.lower.name} is straight: pulled, it bends to the other side now`)
  }
  const [root, joint] = [ended.upper, ended.lower].map((bone) => pivotOnPlate(document, bone, frame)) as [[number, number], [number, number]] // prettier-ignore
  // Any place on the other side of the way from root to end will do.
  const middle = [(root[0] + tip[0]) / 2, (root[1] + tip[1]) / 2] as const
  const target = [2 * middle[0] - joint[0], 2 * middle[1] - joint[1]] as const
  const patches = limbPosed(document, ended, frame, target, false, keyingNow())
  if (!patches) return say('doubtful', `${ended.upper.name} or ${ended.lower.name} is locked`)
  editReaching(`turn the bend at ${ended.lower.name} over`, patches)
}
