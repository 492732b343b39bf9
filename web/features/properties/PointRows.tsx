'use client'

import { useState } from 'react'
import { Button } from 'antd'
import { formChanged, cornersRounded, cornersSet, tangentsMade, type KeyedChange } from '@tender-lasso/core/edits'
import { channelOf, POINT, POINT_STRIDE, type Shape } from '@tender-lasso/core/document'
import { shapePointsAt } from '@tender-lasso/core/evaluation' // prettier-ignore
import { editReaching, keyingNow } from '../../commands'
import { select, useShot } from '../../store'
import { edit } from '../../session'
import { KeyKnot } from './KeyKnot'
import { NumberField } from './NumberField'
import { Row } from './Row'
import styles from './properties.module.css'

/** What the selected points are: corners or smooth, their tangents, width or tension. */
export function PointRows({ shape }: { shape: Shape }) {
  const frame = useShot((state) => state.frame)
  const pointIds = useShot((state) => state.selection.pointIds)
  const [radius, setRadius] = useState(20)
  const chosen = shape.pointIds.filter((id) => pointIds.has(id))
  const isBezier = shape.curve === 'bezier'
  // Width belongs to the whole stroke when no point is selected.
  const touched = new Set(chosen.length ? chosen : shape.pointIds)
  if (chosen.length === 0 && shape.isClosed) return null
  const values = shapePointsAt(shape, frame)
  const at =
    Math.max(
      0,
      shape.pointIds.findIndex((id) => touched.has(id)),
    ) * POINT_STRIDE
  const set = (channel: 'width' | 'tension', to: number) => {
    const change: KeyedChange = (_before, out) =>
      shape.pointIds.forEach((id, i) => touched.has(id) && (out[i * POINT_STRIDE + POINT[channel]] = to))
    editReaching(`${channel} of points`, formChanged(shape, frame, change, keyingNow()))
  }
  const knot = (label: string) => <KeyKnot label={`${label} of the points`} channels={[channelOf(shape)]} />
  return (
    <>
      {isBezier && chosen.length > 0 && (
        <>
          <div className={styles.row}>
            <span>{chosen.length === 1 ? '1 point' : `${chosen.length} points`}</span>
            <span className={styles.buttons}>
              <Button
                size="small"
                onClick={() => edit('make points smooth', cornersSet(shape, new Set(chosen), false))}
              >
                Smooth
              </Button>
              <Button
                size="small"
                onClick={() => edit('make points corners', cornersSet(shape, new Set(chosen), true))}
              >
                Corner
              </Button>
            </span>
          </div>
          <div className={styles.row}>
            <span>Tangents</span>
            <span className={styles.buttons}>
              <Button
                size="small"
                title="Both on one line and of the same length"
                onClick={() => editReaching('make tangents equal', formChanged(shape, frame, tangentsMade(shape, new Set(chosen), 'equal'), keyingNow()))} // prettier-ignore
              >
                Equal
              </Button>
              <Button
                size="small"
                title="Both drawn in: the outline meets in the point"
                onClick={() => editReaching('draw tangents in', formChanged(shape, frame, tangentsMade(shape, new Set(chosen), 'none'), keyingNow()))} // prettier-ignore
              >
                None
              </Button>
            </span>
          </div>
          <div className={styles.row} title="Each corner gives way to an arc between two points, on every key">
            <span>Round corners</span>
            <span className={styles.pair}>
              <NumberField
                label="Radius"
                value={radius}
                min={0.5}
                max={5000}
                step={1}
                decimals={1}
                unit="px"
                onCommit={setRadius}
              />
              <Button size="small" onClick={() => round(shape, new Set(chosen), radius)}>
                Round
              </Button>
            </span>
          </div>
        </>
      )}
      {!shape.isClosed && (
        <Row label="Width" help="Of the stroke at the selected points, or at all" knot={knot('Width')}>
          <NumberField
            label="Width of the stroke"
            value={values[at + POINT.width]!}
            min={0}
            max={4000}
            step={1}
            decimals={1}
            unit="px"
            onCommit={(width) => set('width', width)}
          />
        </Row>
      )}
      {!isBezier && chosen.length > 0 && (
        <Row
          label="Tension"
          knot={knot('Tension')}
          help="How far the curve goes towards the selected points; 100 is a corner"
        >
          <NumberField
            label="Tension"
            value={100 * values[at + POINT.tension]!}
            min={0}
            max={100}
            step={5}
            unit="%"
            onCommit={(percent) => set('tension', percent / 100)}
          />
        </Row>
      )}
    </>
  )
}

function round(shape: Shape, chosen: ReadonlySet<string>, radius: number) {
  const { patches, pointIds } = cornersRounded(shape, chosen, radius)
  if (edit(`round corners by ${radius} px`, patches)) select({ pointIds: new Set(pointIds) })
}
