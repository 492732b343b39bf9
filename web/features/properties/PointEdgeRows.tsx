'use client'

import { Button } from 'antd'
import {
  applied,
  FEATHER_SIDES,
  pointEdgeChanged,
  pointEdgeCleared,
  type EdgeNumber,
  type NumberChange,
} from '@tender-lasso/core/edits'
import { channelOf, type Shape } from '@tender-lasso/core/document'
import { edgeBars, edgeOn, pointFocusAt } from '@tender-lasso/core/evaluation'
import { editReaching, keyingNow } from '../../commands'
import { useShot } from '../../store'
import { KeyKnot } from './KeyKnot'
import { NumberField } from './NumberField'
import { Row } from './Row'
import styles from './properties.module.css'

const NUMBERS = [
  {
    number: 'innerFeather',
    label: 'Feather in',
    help: 'How far the edge fades inwards at the selected points, in plate pixels',
    max: 500,
  },
  {
    number: 'outerFeather',
    label: 'Feather out',
    help: 'How far the edge fades outwards at the selected points, in plate pixels',
    max: 500,
  },
  {
    number: 'focus',
    label: 'Focus blur',
    help: 'How far the selected points are out of focus: sigma of a Gaussian in plate pixels, running evenly to their neighbours',
    max: 200,
  },
] as const

/** How soft the edge is at the selected points of a closed shape, by its feather and its focus. */
export function PointEdgeRows({ shape }: { shape: Shape }) {
  const document = useShot((state) => state.document)
  const frame = useShot((state) => state.frame)
  const pointIds = useShot((state) => state.selection.pointIds)
  if (!shape.pointIds.some((id) => pointIds.has(id))) return null
  const bars = edgeBars(document, shape, frame, 'feather').filter(({ pointId }) => pointIds.has(pointId))
  if (bars.length === 0) return null
  const sigmas = pointFocusAt(shape, frame, edgeOn(shape, frame).focus)
  const valuesOf = (number: EdgeNumber) =>
    number === 'focus'
      ? shape.pointIds.flatMap((id, i) => (pointIds.has(id) ? [sigmas[i]!] : []))
      : bars.map((bar) => (number === 'innerFeather' ? bar.inner : bar.outer))
  const chosen = new Set(bars.map(({ pointId }) => pointId))
  const count = bars.length === 1 ? '1 point' : `${bars.length} points`
  const set = (number: EdgeNumber, change: NumberChange) => {
    const to = (value: number) => applied(change, value)
    const patches = pointEdgeChanged(document, shape, frame, { numbers: [number], pointIds: chosen, softness: 0, to }, keyingNow()) // prettier-ignore
    editReaching(`${number === 'focus' ? 'focus blur' : 'feather'} at ${count} of ${shape.name}`, patches)
  }
  return (
    <>
      <h4 className={styles.group}>
        {count} of {shape.name}
      </h4>
      {NUMBERS.map(({ number, label, help, max }) => {
        const values = valuesOf(number)
        const spread = [Math.min(...values), Math.max(...values)] as const
        return (
          <Row
            key={number}
            label={label}
            help={help}
            knot={<KeyKnot label={`${label} of the points`} channels={[channelOf(shape)]} />}
          >
            <NumberField
              label={`${label} at the points`}
              value={values[0]!}
              min={0}
              max={max}
              step={0.1}
              decimals={1}
              unit="px"
              spread={spread[0] === spread[1] ? undefined : spread}
              onCommit={(_, change) => set(number, change)}
            />
          </Row>
        )
      })}
      <div className={styles.row}>
        <span />
        <Button
          size="small"
          title="The selected points are as soft as the shape"
          onClick={() =>
            editReaching(
              `even edge at ${count}`,
              pointEdgeCleared(shape, frame, { numbers: [...FEATHER_SIDES, 'focus'], pointIds: chosen }, keyingNow()),
            )
          }
        >
          As the shape
        </Button>
      </div>
    </>
  )
}
