'use client'

import { Button, Segmented } from 'antd'
import {
  cornersSet,
  fieldSet,
  interpolationSet,
  keyAdded,
  keyDeleted,
  type Interpolation,
  type Part,
  type Shape,
} from '@tender-lasso/core/document'
import { edit, useShot } from '../../state/shotStore'
import { NameField } from './NameField'
import { Row } from './Row'
import styles from './properties.module.css'

/** The outline itself: its points and its keys. */
export function ShapeSection({ part, shape }: { part: Part; shape: Shape }) {
  const frame = useShot((state) => state.frame)
  const pointIds = useShot((state) => state.selection.pointIds)
  const here = shape.keys.findLast((key) => key.time <= frame) ?? shape.keys[0]!
  const hasKeyHere = here.time === frame
  const chosen = shape.pointIds.filter((id) => pointIds.has(id))
  return (
    <>
      <Row label="Name">
        <NameField
          label="Name of the shape"
          value={shape.name}
          onCommit={(name) => edit(`name ${name}`, [fieldSet(shape, 'name', name)])}
        />
      </Row>
      <Row label="Kind">
        <span className={styles.value}>Bézier, {shape.pointIds.length} points</span>
      </Row>
      <Row
        label={part.mover ? 'Corrections' : 'Keys'}
        help="Hand-made keys; on a moved Part they correct the Mover in its own space"
      >
        <span className={styles.buttons}>
          <span className={styles.value}>{shape.keys.length}</span>
          {hasKeyHere ? (
            <Button
              size="small"
              disabled={shape.keys.length === 1}
              onClick={() => edit(`delete the key on ${frame}`, keyDeleted(shape, frame))}
            >
              Delete here
            </Button>
          ) : (
            <Button size="small" onClick={() => edit(`key on ${frame}`, keyAdded(shape, frame))}>
              Key here
            </Button>
          )}
        </span>
      </Row>
      <Row label="Between keys" help="From the key at or before this frame to the next">
        <Segmented<Interpolation>
          size="small"
          value={here.interpolation}
          options={[
            { label: 'smooth', value: 'smooth' },
            { label: 'linear', value: 'linear' },
            { label: 'hold', value: 'hold' },
          ]}
          onChange={(value) => edit(`${value} between keys`, interpolationSet(shape, [here.time], value))}
        />
      </Row>
      {chosen.length > 0 && (
        <Row label={`${chosen.length} point${chosen.length === 1 ? '' : 's'}`}>
          <span className={styles.buttons}>
            <Button size="small" onClick={() => edit('make points smooth', cornersSet(shape, new Set(chosen), false))}>
              Smooth
            </Button>
            <Button size="small" onClick={() => edit('make points corners', cornersSet(shape, new Set(chosen), true))}>
              Corner
            </Button>
          </span>
        </Row>
      )}
    </>
  )
}
