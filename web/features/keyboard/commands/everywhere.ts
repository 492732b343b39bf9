import { preview, useShot, viewer } from '../../../store'
import { redo, undo } from '../../../session'
import { REPAIRS, stopTracking, TRACK_RUNS } from '../../../commands'
import type { Command } from './command'

const get = useShot.getState

export const TRACK_COMMANDS: readonly Command[] = [...TRACK_RUNS, ...REPAIRS].map(({ keys, words, run }) => ({
  id: `track-${keys}`,
  keys: [keys],
  section: 'Track' as const,
  words,
  run,
}))

/** @returns whether the tool under the hand has taken it */
const toolKey = (key: 'Enter' | 'Escape') => viewer()?.offered(key) ?? false

function escape() {
  if (get().track) return stopTracking()
  if (get().helpOpen) return useShot.setState({ helpOpen: false })
  // A gesture is given up first, then the mark goes, then the selection.
  if (!toolKey('Escape') && get().range) return useShot.setState({ range: null })
  preview([])
}

export const EVERYWHERE_COMMANDS: readonly Command[] = [
  { id: 'undo', keys: ['mod+z'], words: 'Undo', run: undo },
  { id: 'redo', keys: ['mod+shift+z', 'mod+y'], words: 'Redo', run: redo },
  { id: 'history', keys: ['shift+h'], words: 'History and versions', run: () => useShot.setState({ historyOpen: !get().historyOpen }) }, // prettier-ignore
  {
    id: 'finish',
    keys: ['Enter'],
    words: 'Finish what is being drawn; with Select: from an outline to its Part',
    run: () => void toolKey('Enter'),
  },
  { id: 'escape', keys: ['Escape'], words: 'Stop tracking, give up, take the mark away, select nothing', run: escape },
  { id: 'sheet', keys: ['?'], words: 'This sheet', run: () => useShot.setState({ helpOpen: !get().helpOpen }) },
].map((command) => ({ ...command, section: 'Everywhere' as const }))
