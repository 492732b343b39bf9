import { create } from 'zustand'
import { z } from 'zod'
import { COMMANDS } from './keymap'
import type { Command } from './commands/command'

/** Keys that the artist gave to commands in place of ours, by the id of the command. */
type OwnKeys = Readonly<Record<string, readonly string[]>>

const STORED_AS = 'own-keys'
const ownKeysSchema = z.record(z.string(), z.array(z.string().min(1).max(40)).max(4))

export const useOwnKeys = create<{ own: OwnKeys }>(() => ({ own: stored() }))

function stored(): OwnKeys {
  if (typeof localStorage === 'undefined') return {}
  try {
    const parsed = ownKeysSchema.safeParse(JSON.parse(localStorage.getItem(STORED_AS) ?? '{}'))
    return parsed.success ? parsed.data : {}
  } catch {
    return {}
  }
}

export const keysOf = (command: Command, own: OwnKeys): readonly string[] => own[command.id] ?? command.keys

/** Which command each key calls. */
export function commandsByKeys(own: OwnKeys): Map<string, Command> {
  return new Map(COMMANDS.flatMap((command) => keysOf(command, own).map((keys) => [keys, command])))
}

/** Keys given to a command; whatever had them before goes without. Returns that command, if there was one. */
export function giveKeys(command: Command, keys: string): Command | null {
  const { own } = useOwnKeys.getState()
  const former = COMMANDS.find((other) => other.id !== command.id && keysOf(other, own).includes(keys)) ?? null
  const next: Record<string, readonly string[]> = { ...own, [command.id]: [keys] }
  if (former) next[former.id] = keysOf(former, own).filter((one) => one !== keys)
  keep(next)
  return former
}

/** All commands have our keys again. */
export function giveBackKeys() {
  keep({})
}

function keep(own: OwnKeys) {
  localStorage.setItem(STORED_AS, JSON.stringify(own))
  useOwnKeys.setState({ own })
}

const NAMES: Record<string, string> = {
  ' ': 'Space',
  ArrowLeft: '←',
  ArrowRight: '→',
  ArrowUp: '↑',
  ArrowDown: '↓',
  mod: 'Ctrl',
  alt: 'Alt',
  shift: 'Shift',
  Escape: 'Esc',
}

/** "mod+shift+z" as its keys: Ctrl, Shift, Z. */
export function readableKeys(keys: string): string[] {
  if (keys === ' ') return ['Space']
  return keys.split('+').map((key) => NAMES[key] ?? key[0]!.toUpperCase() + key.slice(1))
}
