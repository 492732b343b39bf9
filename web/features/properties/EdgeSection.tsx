'use client'

import { useShallow } from 'zustand/react/shallow'
import { fieldSet } from '@tender-lasso/core/edits'
import { type Shape } from '@tender-lasso/core/document'
import { edit, preview, selectedShapes, useShot } from '../../state/shotStore'
import { NumberField } from './NumberField'
import { Row } from './Row'
import styles from './properties.module.css'

type EdgeField = keyof Shape['edge']

const FIELDS: { field: EdgeField; label: string; min: number; help: string }[] = [
  {
    field: 'innerFeather',
    label: 'Feather in',
    min: 0,
    help: 'How far the edge fades inwards from the outline, in plate pixels',
  },
  {
    field: 'outerFeather',
    label: 'Feather out',
    min: 0,
    help: 'How far the edge fades outwards from the outline, in plate pixels',
  },
  { field: 'grow', label: 'Grow', min: -500, help: 'Moves the edge outwards; less than zero shrinks the matte' },
]

/** Feather, growth and opacity of the selected shapes, or of all shapes of the selected Part. */
export function EdgeSection() {
  const selected = useShot(useShallow(({ document, selection }) => ({ document, selection })))
  const shapes = selectedShapes(selected)
  const first = shapes[0]
  if (!first) return <p className={styles.hint}>Draw a shape first: the edge belongs to its outline.</p>
  const edgePatches = (field: EdgeField, value: number) =>
    shapes
      .filter((shape) => shape.edge[field] !== value)
      .map((shape) => fieldSet(shape, 'edge', { ...shape.edge, [field]: value }))
  const opacityPatches = (percent: number) => shapes.map((shape) => fieldSet(shape, 'opacity', percent / 100))
  return (
    <>
      {FIELDS.map(({ field, label, min, help }) => (
        <Row key={field} label={label} help={help}>
          <NumberField
            label={label}
            value={first.edge[field]}
            unit="px"
            min={min}
            max={500}
            step={0.1}
            decimals={1}
            onPreview={(value) => preview(edgePatches(field, value))}
            onCommit={(value) => edit(`${label.toLowerCase()} ${value} px`, edgePatches(field, value))}
          />
        </Row>
      ))}
      <Row label="Opacity" help="Share of the matte that is kept">
        <NumberField
          label="Opacity"
          value={first.opacity * 100}
          unit="%"
          min={0}
          max={100}
          step={1}
          onPreview={(value) => preview(opacityPatches(value))}
          onCommit={(value) => edit(`opacity ${value} %`, opacityPatches(value))}
        />
      </Row>
      {shapes.length > 1 && <p className={styles.hint}>Changes {shapes.length} shapes.</p>}
    </>
  )
}
