'use client'

import { Button } from 'antd'
import {
  applied,
  pointFeatherChanged,
  pointFeatherCleared,
  type FeatherSide,
  type NumberChange,
} from '@tender-lasso/core/edits'
import { channelOf, type Shape } from '@tender-lasso/core/document'
import { featherBars } from '@tender-lasso/core/evaluation'
import { editReaching, keyingNow } from '../../commands'
import { useShot } from '../../store'
import { KeyKnot } from './KeyKnot'
import { NumberField } from './NumberField'
import { Row } from './Row'
import styles from './properties.module.css'

const SIDES = [
  { side: 'innerFeather', label: 'Feather in', way: 'inwards' },
  { side: 'outerFeather', label: 'Feather out', way: 'outwards' },
] as const

/** How soft the edge is at the selected points of a closed shape. */
export function PointFeatherRows({ shape }: { shape: Shape }) {
  const document = useShot((state) => state.document)
  const frame = useShot((state) => state.frame)
  const pointIds = useShot((state) => state.selection.pointIds)
  if (!shape.pointIds.some((id) => pointIds.has(id))) return null
  const bars = featherBars(document, shape, frame).filter(({ pointId }) => pointIds.has(pointId))
  if (bars.length === 0) return null
  const chosen = new Set(bars.map(({ pointId }) => pointId))
  const count = bars.length === 1 ? '1 point' : `${bars.length} points`
  const set = (side: FeatherSide, change: NumberChange) => {
    const to = (width: number) => applied(change, width)
    const patches = pointFeatherChanged(document, shape, frame, { sides: [side], pointIds: chosen, softness: 0, to }, keyingNow()) // prettier-ignore
    editReaching(`feather at ${count} of ${shape.name}`, patches)
  }
  return (
    <>
      <h4 className={styles.group}>
        {count} of {shape.name}
      </h4>
      {SIDES.map(({ side, label, way }) => {
        const widths = bars.map((bar) => (side === 'innerFeather' ? bar.inner : bar.outer))
        const spread = [Math.min(...widths), Math.max(...widths)] as const
        return (
          <Row
            key={side}
            label={label}
            help={`How far the edge fades ${way} at the selected points, in plate pixels`}
            knot={<KeyKnot label={`${label} of the points`} channels={[channelOf(shape)]} />}
          >
            <NumberField
              label={`${label} at the points`}
              value={widths[0]!}
              min={0}
              max={500}
              step={0.1}
              decimals={1}
              unit="px"
              spread={spread[0] === spread[1] ? undefined : spread}
              onCommit={(_, change) => set(side, change)}
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
            editReaching(`even feather at ${count}`, pointFeatherCleared(shape, frame, chosen, keyingNow()))
          }
        >
          As the shape
        </Button>
      </div>
    </>
  )
}
