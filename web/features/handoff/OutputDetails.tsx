'use client'

import { useState } from 'react'
import { Segmented } from 'antd'
import type { Output } from '@tender-lasso/core/document'
import type { DeliveryInfo } from '@tender-lasso/core/handoff'
import { Deliveries } from './Deliveries'
import { LiveAddress } from './LiveAddress'
import styles from './handoff.module.css'

type Way = 'Deliveries' | 'Live'

/** How the chosen output reaches others: written and numbered, or read at an address that follows each edit. */
export function OutputDetails({
  shotId,
  output,
  deliveries,
}: {
  shotId: string
  output: Output | undefined
  deliveries: DeliveryInfo[] | null
}) {
  const [way, setWay] = useState<Way>('Deliveries')
  return (
    <div className={styles.deliveries}>
      <div className={styles.bar}>
        <Segmented<Way>
          size="small"
          aria-label="How it is given"
          options={['Deliveries', 'Live']}
          value={way}
          onChange={setWay}
        />
        {output && <span>{way === 'Live' ? `${output.name}, as it is now` : `of ${output.name}`}</span>}
      </div>
      {way === 'Deliveries' ? (
        <Deliveries output={output} deliveries={deliveries} />
      ) : (
        <LiveAddress shotId={shotId} output={output} />
      )}
    </div>
  )
}
