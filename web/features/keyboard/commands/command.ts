export const COMMAND_SECTIONS = ['Time', 'View', 'Tools', 'Shapes', 'Reach', 'Keys', 'Track', 'Everywhere'] as const
export type CommandSection = (typeof COMMAND_SECTIONS)[number]

/** An act with keys of its own. */
export interface Command {
  /** Names it in settings; stays when words and keys change. */
  id: string
  /** As the browser names them, with modifiers in front: "shift+ArrowLeft", "mod+z". */
  keys: readonly string[]
  section: CommandSection
  words: string
  run(): void
}
