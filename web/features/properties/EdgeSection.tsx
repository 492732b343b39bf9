'use client'

import { useShallow } from 'zustand/react/shallow'
import { channelOf } from '@tender-lasso/core/document'
import { selectedShapes, useShot } from '../../store'
import { ChannelRow } from './ChannelRow'
import styles from './properties.module.css'

const SETTINGS = [
  {
    name: 'innerFeather',
    label: 'Feather in',
    help: 'How far the edge fades inwards from the outline, in plate pixels',
    min: 0,
    max: 500,
    step: 0.1,
    decimals: 1,
  },
  {
    name: 'outerFeather',
    label: 'Feather out',
    help: 'How far the edge fades outwards from the outline, in plate pixels',
    min: 0,
    max: 500,
    step: 0.1,
    decimals: 1,
  },
  {
    name: 'grow',
    label: 'Grow',
    help: 'Moves the edge outwards; less than zero shrinks the matte',
    min: -500,
    max: 500,
    step: 0.1,
    decimals: 1,
  },
  { name: 'opacity', label: 'Opacity', help: 'Share of the matte that is kept', min: 0, max: 100, step: 1 },
]

/** Feather, growth and opacity of the selected shapes, or of all shapes of the selected Part. */
export function EdgeSection() {
  const selected = useShot(useShallow(({ document, selection }) => ({ document, selection })))
  const shapes = selectedShapes(selected)
  if (shapes.length === 0) return <p className={styles.hint}>Draw a shape first: the edge belongs to its outline.</p>
  return (
    <>
      {SETTINGS.map(({ name, ...row }) => (
        <ChannelRow key={name} channels={shapes.map((shape) => channelOf(shape, name))} {...row} />
      ))}
      {shapes.length > 1 && (
        <p className={styles.hint}>Changes {shapes.length} shapes: 4 sets all, +2 and *1.5 change each.</p>
      )}
    </>
  )
}
