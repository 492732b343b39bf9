'use client'

import { Segmented } from 'antd'
import { isShownOn, setView, useShot, type DeliveredMatteShown } from '../../store'
import styles from './handoff.module.css'

const WAYS = ['Against now', 'As delivered'] as const

/** What of a delivery is in the viewer, and how far it is from the present mattes. */
export function DeliveryLookedAt() {
  const delivery = useShot(({ view }) => view.delivery)
  const shown = useShot((state) => state.deliveredMatte)
  const frame = useShot((state) => state.frame)
  if (!delivery) return null
  return (
    <div className={styles.bar}>
      <Segmented
        size="small"
        aria-label="How the delivery is shown"
        options={[...WAYS]}
        value={delivery.isCompared ? WAYS[0] : WAYS[1]}
        onChange={(way) => setView({ delivery: { ...delivery, isCompared: way === WAYS[0] } })}
      />
      <span data-testid="delivered-matte" title="Orange was added since, blue was taken away">
        {isShownOn(shown, delivery, frame) ? wordsOfShown(shown) : 'Looking …'}
      </span>
    </div>
  )
}

function wordsOfShown({ matte, difference, trouble }: DeliveredMatteShown): string {
  if (trouble !== null) return trouble
  if (!difference) return matte.name
  const { differing, largest } = difference
  if (differing === 0) return 'alike'
  return `${differing} pixel${differing === 1 ? ' differs' : 's differ'}, by ${largest.toFixed(2)} at most`
}
