'use client'

import { Popover } from 'antd'
import { NumberField } from '../properties/NumberField'
import { setView, useShot } from '../../store'
import styles from './strips.module.css'

/** How thick outlines are drawn and how large their points. */
export function LineLook() {
  const lineWidth = useShot((state) => state.view.lineWidth)
  const handleSize = useShot((state) => state.view.handleSize)
  const fields = (
    <div className={styles.look}>
      <span>Outlines</span>
      <NumberField
        label="Thickness of outlines"
        value={lineWidth}
        unit="px"
        min={0.5}
        max={4}
        step={0.1}
        decimals={1}
        onCommit={(width) => setView({ lineWidth: width })}
      />
      <span>Points</span>
      <NumberField
        label="Size of points"
        value={2 * handleSize}
        unit="px"
        min={3}
        max={16}
        step={0.2}
        decimals={1}
        onCommit={(size) => setView({ handleSize: size / 2 })}
      />
    </div>
  )
  return (
    <Popover content={fields} trigger="click" placement="top">
      <button type="button" className={styles.choice} title="Thickness of outlines, size of points">
        Lines
      </button>
    </Popover>
  )
}
