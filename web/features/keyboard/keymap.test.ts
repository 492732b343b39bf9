import { describe, expect, it } from 'vitest'
import { TOOLS } from '../../store'
import { COMMANDS } from './keymap'
import { toolOf } from './commands/tools'
import { commandsByKeys, keysOf, readableKeys } from './ownKeys'

describe('keys of the keyboard', () => {
  it('mean one act each, and every act has a name of its own', () => {
    const keys = COMMANDS.flatMap((command) => command.keys)
    expect(keys.filter((key, i) => keys.indexOf(key) !== i)).toEqual([])
    const ids = COMMANDS.map(({ id }) => id)
    expect(ids.filter((id, i) => ids.indexOf(id) !== i)).toEqual([])
    // Held, this one hides what is drawn over the picture.
    expect(keys).not.toContain('h')
  })

  it('reach every tool', () => {
    expect(COMMANDS.flatMap((command) => toolOf(command) ?? []).sort()).toEqual([...TOOLS].sort())
  })

  it('are those that the artist gave, where there are any', () => {
    const play = COMMANDS.find(({ id }) => id === 'play')!
    const own = { play: ['F8'] }
    expect(keysOf(play, own)).toEqual(['F8'])
    expect(commandsByKeys(own).get('F8')).toBe(play)
    expect(commandsByKeys(own).get(' ')).toBeUndefined()
  })

  it('are read as they stand on the keyboard', () => {
    expect(readableKeys('mod+shift+z')).toEqual(['Ctrl', 'Shift', 'Z'])
    expect(readableKeys(' ')).toEqual(['Space'])
    expect(readableKeys('alt+ArrowLeft')).toEqual(['Alt', '←'])
  })
})
