'use client'

import { useShallow } from 'zustand/react/shallow'
import { Switch } from 'antd'
import { fieldSet, find, partsByDepth } from '@tender-lasso/core/document'
import { edit, useShot } from '../../state/shotStore'
import { Row } from './Row'
import styles from './properties.module.css'

export function HoldoutSection() {
  const { document, selection } = useShot(useShallow(({ document, selection }) => ({ document, selection })))
  const part = selection.partId ? find(document, 'part', selection.partId) : undefined
  if (!part) return null
  const order = partsByDepth(document)
  const place = order.findIndex((p) => p.id === part.id)
  return (
    <>
      <Row label="Holds out" help="Cuts this Part out of the mattes of all Parts behind it">
        <Switch
          size="small"
          checked={part.holdsOut}
          onChange={(on) => edit(on ? 'hold out what is behind' : 'hold out nothing', [fieldSet(part, 'holdsOut', on)])}
        />
      </Row>
      <Row label="Depth">
        <span className={styles.value}>
          {place + 1} of {order.length}
        </span>
      </Row>
      <p className={styles.hint}>Drag Parts in the Depth list to say what stands in front of what.</p>
    </>
  )
}
