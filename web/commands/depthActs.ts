import { partsByDepth } from '@tender-lasso/core/evaluation'
import { partStepped } from '@tender-lasso/core/edits'
import { say, useShot, selectedPart } from '../store'
import { edit } from '../session'

/** The selected Part one place nearer or farther on this frame, and where it stands then. */
export function stepInDepth(way: -1 | 1) {
  const { document, selection, frame } = useShot.getState()
  const part = selectedPart({ document, selection })
  if (!part) return say('doubtful', 'Select a Part to move it nearer or farther')
  const patches = partStepped(document, part.id, way, frame)
  if (!patches) return say('said', `${part.name} is the ${way < 0 ? 'nearest' : 'farthest'} already`)
  if (!edit(`move ${part.name} ${way < 0 ? 'nearer' : 'farther'}`, patches)) return
  const order = partsByDepth(useShot.getState().document, frame)
  const place = order.findIndex(({ id }) => id === part.id)
  const neighbour = order[place - 1]
  say(
    'said',
    `${part.name} is ${place + 1} of ${order.length}, ${neighbour ? `behind ${neighbour.name}` : 'in front of all'}`,
  )
}
