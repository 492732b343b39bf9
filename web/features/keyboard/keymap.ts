import { EVERYWHERE_COMMANDS, TRACK_COMMANDS } from './commands/everywhere'
import { REACH_COMMANDS } from './commands/reach'
import { KEY_COMMANDS, SHAPE_COMMANDS } from './commands/shapes'
import { TIME_COMMANDS } from './commands/time'
import { TOOL_COMMANDS } from './commands/tools'
import { VIEW_COMMANDS } from './commands/view'
import type { Command } from './commands/command'

/** Every act of the workspace that has keys. */
export const COMMANDS: readonly Command[] = [
  ...TIME_COMMANDS,
  ...VIEW_COMMANDS,
  ...TOOL_COMMANDS,
  ...SHAPE_COMMANDS,
  ...REACH_COMMANDS,
  ...KEY_COMMANDS,
  ...TRACK_COMMANDS,
  ...EVERYWHERE_COMMANDS,
]
