import { takeStep, useShot, STEPS, TOOL_WORDS, TOOLS, type ToolName } from '../../../store'
import type { Command } from './command'

const TOOL_PREFIX = 'tool-'

/** The tool that a command brings to hand, or null: its key can be held for one act. */
export function toolOf({ id }: Command): ToolName | null {
  return TOOLS.find((tool) => id === TOOL_PREFIX + tool) ?? null
}

export const TOOL_COMMANDS: readonly Command[] = [
  ...TOOLS.map((tool) => ({
    id: TOOL_PREFIX + tool,
    keys: [TOOL_WORDS[tool].key],
    words: `${TOOL_WORDS[tool].name} (hold the key for one act)`,
    run: () => useShot.setState({ tool }),
  })),
  ...STEPS.map((step, i) => ({
    id: `step-${step}`,
    keys: [`alt+${i + 1}`],
    words: `Step ${step}`,
    run: () => takeStep(step),
  })),
].map((command) => ({ ...command, section: 'Tools' as const }))
