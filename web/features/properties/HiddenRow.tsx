'use client'

import { Button } from 'antd'
import { isHiddenOver, shownOver } from '@tender-lasso/core/edits'
import type { Part, Shape } from '@tender-lasso/core/document'
import { stretchWords, toggleHidden } from '../../commands'
import { useShot } from '../../store'
import { edit } from '../../session'
import styles from './properties.module.css'

/** Stretches on which the matte of a Part or a shape is empty. */
export function HiddenRow({ owner }: { owner: Part | Shape }) {
  const range = useShot((state) => state.range)
  const frame = useShot((state) => state.frame)
  const stretch = range ?? ([frame, frame] as const)
  return (
    <div
      className={styles.row}
      title="Shift D. Behind something that is not cut: the matte is empty there, keys and motion go on. Mark the stretch by Shift-dragging over its frames"
    >
      <span>Hidden</span>
      <span className={styles.stretches}>
        {owner.hidden.map((hidden) => (
          <Button
            key={hidden[0]}
            size="small"
            title="Show it there again"
            aria-label={`Show ${owner.name} on ${stretchWords(hidden)}`}
            onClick={() => edit(`show ${owner.name} on ${stretchWords(hidden)}`, shownOver([owner], hidden))}
          >
            {stretchWords(hidden)} ×
          </Button>
        ))}
        <Button size="small" onClick={toggleHidden}>
          {`${isHiddenOver(owner, stretch) ? 'Show' : 'Hide'} on ${stretchWords(stretch)}`}
        </Button>
      </span>
    </div>
  )
}
