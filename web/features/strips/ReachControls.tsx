'use client'

import { Lock } from 'lucide-react'
import { Tooltip } from 'antd'
import { chooseReach, REACH_WORDS } from '../../commands'
import { REACHES, useShot } from '../../store'
import styles from './strips.module.css'

/** Which frames the next edit touches; a second click locks it, a third goes back to Here. */
export function ReachControls() {
  const editing = useShot((state) => state.editing)
  return (
    <span className={styles.reach} role="radiogroup" aria-label="Reach">
      {REACHES.map((kind) => {
        const isChosen = editing.reach === kind
        const isLocked = isChosen && editing.isReachLocked
        const more = kind === 'here' ? '' : isLocked ? '; locked until you choose Here' : '; once, again to lock it'
        return (
          <Tooltip key={kind} title={`${REACH_WORDS[kind].hint}${more}`} mouseEnterDelay={0.6}>
            <button
              type="button"
              role="radio"
              aria-checked={isChosen}
              className={isChosen ? styles.reachActive : styles.reachChoice}
              onClick={() => chooseReach(kind)}
            >
              {REACH_WORDS[kind].name}
              {isLocked && <Lock size={10} aria-label="locked" />}
            </button>
          </Tooltip>
        )
      })}
    </span>
  )
}
