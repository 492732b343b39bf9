'use client'

import { Button } from 'antd'
import { otherShape, seamsOf, type Shape } from '@tender-lasso/core/document'
import { breakSeam, nameOf, tieSelected } from '../../commands'
import { useShot } from '../../store'
import styles from './properties.module.css'

/** What the shape is tied to. */
export function SeamRows({ shape }: { shape: Shape }) {
  const document = useShot((state) => state.document)
  const hasTwo = useShot((state) => state.selection.shapeIds.length === 2)
  return (
    <>
      {seamsOf(document, shape.id).map((seam) => {
        const isOwner = seam.ownerId === shape.id
        const other = otherShape(document, seam, shape)
        return (
          <div
            key={seam.id}
            className={styles.row}
            title={isOwner ? "The line is this shape's; the other one takes it over" : "The line is the other shape's"}
          >
            <span>{isOwner ? 'Lends to' : 'Borrows from'}</span>
            <span className={styles.buttons}>
              <span className={styles.value}>{other ? nameOf(other) : ''}</span>
              <Button size="small" onClick={() => breakSeam(seam)}>
                Break
              </Button>
            </span>
          </div>
        )
      })}
      {hasTwo && (
        <div className={styles.row} title="The selected stretches of both shapes become one line (Alt T)">
          <span>Seam</span>
          <Button size="small" onClick={tieSelected}>
            Tie the stretches
          </Button>
        </div>
      )}
    </>
  )
}
