'use client'

import { Modal } from 'antd'
import { useShot } from '../../state/shotStore'
import { COMMANDS } from './keymap'
import styles from './keyboard.module.css'

const SECTIONS = ['Time', 'View', 'Tools', 'Shapes', 'Track', 'Everywhere'] as const
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

function readable(keys: string): string[] {
  return keys === ' '
    ? ['Space']
    : keys
        .split('+')
        .map(
          (key) =>
            NAMES[key] ?? key.toUpperCase().replace(/^(.)(.+)$/, (_, a: string, b: string) => a + b.toLowerCase()),
        )
}

export function KeyboardSheet() {
  const isOpen = useShot((state) => state.helpOpen)
  return (
    <Modal
      open={isOpen}
      onCancel={() => useShot.setState({ helpOpen: false })}
      footer={null}
      width={980}
      title="Keys"
      centered
    >
      <div className={styles.sheet}>
        <div className={styles.columns}>
          {SECTIONS.map((section) => (
            <section key={section}>
              <h3>{section}</h3>
              {COMMANDS.filter((command) => command.section === section).map((command) => (
                <div key={command.keys[0]} className={styles.row}>
                  <span className={styles.keys}>
                    {readable(command.keys[0]!).map((key) => (
                      <kbd key={key}>{key}</kbd>
                    ))}
                  </span>
                  <span>{command.words}</span>
                </div>
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
          ))}
        </div>
      </div>
    </Modal>
  )
}
