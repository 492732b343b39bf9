'use client'

import { Button, Segmented, Select, Switch } from 'antd'
import {
  interpolateBySet,
  closedSet,
  curveKindSet,
  directionReversed,
  fieldSet,
  firstPointSet,
  interpolationSet,
  keyAdded,
  keyDeleted,
  roundnessSet,
} from '@tender-lasso/core/edits'
import {
  findObject,
  type Interpolation,
  type Part,
  type Shape,
  outlineKeys,
  channelOf,
} from '@tender-lasso/core/document'
import { sayDeviations } from '../../commands'
import { say, useShot } from '../../store'
import { edit } from '../../session'
import { LifeRow } from './LifeRow'
import { NameField } from './NameField'
import { NumberField } from './NumberField'
import { PointRows } from './PointRows'
import { Row } from './Row'
import { SeamRows } from './SeamRows'
import { ShapePivotRow } from './ShapePivotRow'
import { TransformRows } from './TransformRows'
import styles from './properties.module.css'

const INTERPOLATIONS: readonly Interpolation[] = ['smooth', 'linear', 'ease', 'hold']

/** The outline itself: its form, its points and its keys. */
export function ShapeSection({ part, shape }: { part: Part; shape: Shape }) {
  const frame = useShot((state) => state.frame)
  const here = outlineKeys(shape).findLast((key) => key.time <= frame) ?? outlineKeys(shape)[0]!
  const hasKeyHere = here.time === frame
  return (
    <>
      <Row label="Name">
        <NameField
          label="Name of the shape"
          value={shape.name}
          onCommit={(name) => edit(`name ${name}`, [fieldSet(shape, 'name', name)])}
        />
      </Row>
      <div
        className={styles.row}
        title={part.mover ? 'Hand-made keys; they correct the Mover in its own space' : undefined}
      >
        <span>{part.mover ? 'Corrections' : 'Keys'}</span>
        <span className={styles.buttons}>
          <span className={styles.value}>{outlineKeys(shape).length}</span>
          {hasKeyHere ? (
            <Button
              size="small"
              disabled={outlineKeys(shape).length === 1}
              onClick={() => edit(`delete the key on ${frame}`, keyDeleted(channelOf(shape), frame))}
            >
              Delete here
            </Button>
          ) : (
            <Button size="small" onClick={() => edit(`key on ${frame}`, keyAdded(channelOf(shape), frame))}>
              Key here
            </Button>
          )}
        </span>
      </div>
      <Row label="Between keys" help="From the key at or before this frame to the next">
        <Segmented<Interpolation>
          className={styles.tight}
          size="small"
          value={here.interpolation}
          options={[...INTERPOLATIONS]}
          onChange={(value) => edit(`${value} between keys`, interpolationSet(channelOf(shape), [here.time], value))}
        />
      </Row>
      <Row
        label="Runs by"
        help="Turn and size: an outline that turns keeps its size on the way between keys, and its tangents their length"
      >
        <Segmented<Shape['interpolateBy']>
          className={styles.tight}
          size="small"
          value={shape.interpolateBy}
          options={[
            { label: 'coordinates', value: 'coordinates' },
            { label: 'turn and size', value: 'turning' },
          ]}
          onChange={(value) => edit(`${shape.name} runs by ${value}`, interpolateBySet(shape, value))}
        />
      </Row>
      <ShapePivotRow shape={shape} />
      <TransformRows />
      <PointRows shape={shape} />
      <FormRows shape={shape} />
      <SeamRows shape={shape} />
      <LifeRow owner={shape} />
    </>
  )
}

/** Kind, closedness, roundness and direction of the whole outline. */
function FormRows({ shape }: { shape: Shape }) {
  const pointIds = useShot((state) => state.selection.pointIds)
  const strokeWidth = useShot((state) => state.editing.strokeWidth)
  const [first] = shape.pointIds.filter((id) => pointIds.has(id))
  return (
    <>
      <Row label="Kind" help="A B-spline becomes Bézier exactly; the other way the largest deviation is told">
        <Select<Shape['curve']>
          size="small"
          aria-label="Kind of curve"
          value={shape.curve}
          options={[
            { value: 'bezier', label: `Bézier${shape.curve === 'bezier' ? `, ${shape.pointIds.length} points` : ''}` },
            {
              value: 'bspline',
              label: `B-spline${shape.curve === 'bspline' ? `, ${shape.pointIds.length} points` : ''}`,
            },
          ]}
          onChange={(curve) => convert(shape, curve)}
        />
      </Row>
      <Row label="Closed" help="Open it is a stroke along its points, as wide as each of them says">
        <Switch
          size="small"
          checked={shape.isClosed}
          onChange={(isClosed) => edit(isClosed ? 'close the outline' : 'open to a stroke', closedSet(shape, isClosed, strokeWidth))} // prettier-ignore
        />
      </Row>
      {shape.curve === 'bezier' && (
        <Row label="Roundness" help="All tangents anew, on every key: 0 a polygon, 100 as round as its points allow">
          <NumberField
            label="Roundness"
            value={100}
            min={0}
            max={200}
            step={5}
            unit="%"
            onCommit={(percent) => edit(`roundness ${percent} %`, roundnessSet(shape, percent / 100))}
          />
        </Row>
      )}
      <div className={styles.row}>
        <span>Direction</span>
        <span className={styles.buttons}>
          <Button size="small" onClick={() => edit('reverse the outline', directionReversed(shape))}>
            Reverse
          </Button>
          <Button
            size="small"
            disabled={!first || !shape.isClosed}
            title="The selected point becomes the one that the outline is counted from"
            onClick={() => first && edit('choose the first point', firstPointSet(shape, first))}
          >
            First point
          </Button>
        </span>
      </div>
    </>
  )
}

function convert(shape: Shape, curve: Shape['curve']) {
  const { patches, deviations } = curveKindSet(shape, curve)
  if (!edit(`${shape.name} as ${curve === 'bspline' ? 'B-spline' : 'Bézier'}`, patches)) return
  const after = findObject(useShot.getState().document, 'shape', shape.id)
  const worst = Math.max(...deviations.map(({ pixels }) => pixels))
  say('said', `${after?.pointIds.length ?? 0} points, off by at most ${worst.toFixed(2)} px on any key`)
  sayDeviations(deviations)
}
