import { chooseReach, REACH_WORDS } from '../../../commands'
import type { ReachKind } from '../../../store'
import type { Command } from './command'

const REACH_KEYS = [['onward', ']'], ['back', '['], ['span', '-'], ['everywhere', '='], ['here', '0']] as const // prettier-ignore

const words = (kind: ReachKind) =>
  kind === 'here' ? 'Reach Here' : `Reach ${REACH_WORDS[kind].name} for one edit; again to lock it, again for Here`

export const REACH_COMMANDS: readonly Command[] = REACH_KEYS.map(([kind, key]) => ({
  id: `reach-${kind}`,
  keys: [key],
  section: 'Reach' as const,
  words: words(kind),
  run: () => chooseReach(kind),
}))
