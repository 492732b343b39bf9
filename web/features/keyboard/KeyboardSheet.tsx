'use client'

import { Fragment, useEffect, useState } from 'react'
import { Button, Input, Modal } from 'antd'
import { say, useShot } from '../../store'
import { COMMAND_SECTIONS, type Command } from './commands/command'
import { COMMANDS } from './keymap'
import { giveBackKeys, giveKeys, keysOf, readableKeys, useOwnKeys } from './ownKeys'
import { nameOfKeys } from './useKeyboard'
import styles from './keyboard.module.css'

const MODIFIERS = ['Shift', 'Control', 'Alt', 'Meta']

/** All keys; a click on those of a command waits for others. */
export function KeyboardSheet() {
  const isOpen = useShot((state) => state.helpOpen)
  const own = useOwnKeys((state) => state.own)
  const [sought, setSought] = useState('')
  const [waiting, setWaiting] = useState<Command | null>(null)

  useEffect(() => {
    if (!waiting) return
    const take = (event: KeyboardEvent) => {
      event.preventDefault()
      event.stopPropagation()
      if (MODIFIERS.includes(event.key)) return
      setWaiting(null)
      if (event.key === 'Escape') return
      const keys = nameOfKeys(event)
      const former = giveKeys(waiting, keys)
      const lost = former ? `; "${former.words}" has lost it` : ''
      say('said', `${readableKeys(keys).join(' ')}: ${waiting.words}${lost}`)
    }
    window.addEventListener('keydown', take, true)
    return () => window.removeEventListener('keydown', take, true)
  }, [waiting])

  const isShown = (command: Command) => command.words.toLowerCase().includes(sought.trim().toLowerCase())
  return (
    <Modal
      open={isOpen}
      onCancel={() => {
        setWaiting(null)
        useShot.setState({ helpOpen: false })
      }}
      footer={null}
      width={1060}
      title="Keys"
      centered
    >
      <div className={styles.above}>
        <Input
          className={styles.search}
          size="small"
          allowClear
          placeholder="Find an act"
          aria-label="Find an act"
          value={sought}
          onChange={({ target }) => setSought(target.value)}
        />
        <span className={styles.hint}>
          {waiting ? `Press the new keys for "${waiting.words}"; Esc leaves them` : 'Click keys to change them'}
        </span>
        <Button size="small" disabled={Object.keys(own).length === 0} onClick={giveBackKeys}>
          All as they were
        </Button>
      </div>
      <div className={styles.sheet}>
        <div className={styles.columns}>
          {COMMAND_SECTIONS.map((section) => {
            const commands = COMMANDS.filter((command) => command.section === section && isShown(command))
            if (commands.length === 0) return null
            return (
              <section key={section}>
                <h3>{section}</h3>
                {commands.map((command) => (
                  <KeyRow
                    key={command.id}
                    command={command}
                    keys={keysOf(command, own)}
                    isOwn={command.id in own}
                    isWaiting={waiting === command}
                    onChange={() => setWaiting(command)}
                  />
                ))}
                {section === 'View' && (
                  <div className={styles.row}>
                    <span className={styles.keys}>
                      <kbd>H</kbd>
                    </span>
                    <span>Hide everything drawn over the picture while held</span>
                  </div>
                )}
              </section>
            )
          })}
        </div>
      </div>
    </Modal>
  )
}

interface KeyRowProps {
  command: Command
  keys: readonly string[]
  isOwn: boolean
  isWaiting: boolean
  onChange(): void
}

function KeyRow({ command, keys, isOwn, isWaiting, onChange }: KeyRowProps) {
  const shown = isWaiting ? ['press'] : keys[0] ? readableKeys(keys[0]) : ['none']
  return (
    <div className={styles.row}>
      <button
        type="button"
        className={isOwn ? styles.ownKeys : styles.keys}
        aria-label={`Keys of: ${command.words}: ${shown.join(' ')}`}
        onClick={onChange}
      >
        {isWaiting || !keys[0] ? (
          <em>{shown[0]}</em>
        ) : (
          shown.map((key) => (
            <Fragment key={key}>
              <kbd>{key}</kbd>{' '}
            </Fragment>
          ))
        )}
      </button>
      <span>{command.words}</span>
    </div>
  )
}
