'use client'

import { fieldSet } from '@tender-lasso/core/edits'
import { type Part, type Shape } from '@tender-lasso/core/document'
import { shotRange } from '../../store'
import { edit } from '../../session'
import { NumberField } from './NumberField'
import { Row } from './Row'
import styles from './properties.module.css'

/** First and last frame on which a Part or a shape exists. */
export function LifeRow({ owner }: { owner: Part | Shape }) {
  const [first, last] = shotRange()
  const [from, to] = owner.life ?? [first, last]
  const set = (life: [number, number]) => {
    const isAll = life[0] <= first && life[1] >= last
    edit(`life of ${owner.name}`, [fieldSet(owner, 'life', isAll ? null : life)])
  }
  return (
    <Row label="Life" help="First and last frame; also by dragging the ends of its thread">
      <span className={styles.pair}>
        <NumberField
          label="First frame of life"
          value={from}
          min={first}
          max={to}
          step={1}
          onCommit={(f) => set([f, to])}
        />
        <NumberField
          label="Last frame of life"
          value={to}
          min={from}
          max={last}
          step={1}
          onCommit={(f) => set([from, f])}
        />
      </span>
    </Row>
  )
}
