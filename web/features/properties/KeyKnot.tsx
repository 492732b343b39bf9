'use client'

import { keysToggled } from '@tender-lasso/core/edits'
import { keyStateOn, type ChannelOf, type KeyState } from '@tender-lasso/core/document'
import { useShot } from '../../store'
import { edit } from '../../session'
import styles from './properties.module.css'

const WORDS: Record<KeyState, (what: string) => string> = {
  constant: (what) => `Key of ${what.toLowerCase()}: none, it is the same on all frames. Click: one here`,
  elsewhere: (what) => `Key of ${what.toLowerCase()}: on other frames. Click: one here`,
  here: (what) => `Key of ${what.toLowerCase()}: on this frame. Click: take it away`,
}

/**
 * How something is keyed, as a thread: bare where it is constant, with an open knot where its keys are on other frames,
 * with a tied one where it has one here. A click ties the knot or takes it away.
 */
export function KeyKnot({ label, channels }: { label: string; channels: readonly ChannelOf[] }) {
  const frame = useShot((state) => state.frame)
  const state = keyStateOn(channels, frame)
  const canChange = state !== 'here' || channels.some(({ keys, definition }) => keys.length > 1 || !definition.lastKeyStays) // prettier-ignore
  const toggle = () => {
    const { document } = useShot.getState()
    const words = state === 'here' ? `delete the key of ${label.toLowerCase()} on ${frame}` : `key ${label.toLowerCase()} on ${frame}` // prettier-ignore
    edit(words, keysToggled(document, channels, frame))
  }
  return (
    <button
      type="button"
      className={styles.knot}
      aria-pressed={state === 'here'}
      title={WORDS[state](label)}
      disabled={!canChange}
      onClick={(event) => {
        // The row is the label of its field, which a click would go on to.
        event.preventDefault()
        toggle()
      }}
    >
      <svg width="18" height="12" viewBox="0 0 18 12" aria-hidden="true">
        <path d={state === 'constant' ? 'M2 6h14' : 'M1 6h4M13 6h4'} className={styles.knotThread} />
        {state !== 'constant' && (
          <circle cx="9" cy="6" r="3.6" className={state === 'here' ? styles.knotTied : styles.knotOpen} />
        )}
      </svg>
    </button>
  )
}
