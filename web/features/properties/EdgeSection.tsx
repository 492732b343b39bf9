'use client'

import { useShallow } from 'zustand/react/shallow'
import { channelOf, findObject, type Shape } from '@tender-lasso/core/document'
import { vanishedHalfWidth } from '@tender-lasso/core/evaluation'
import { selectedShapes, useShot } from '../../store'
import { ChannelRow } from './ChannelRow'
import { FalloffRow } from './FalloffRow'
import { PointEdgeRows } from './PointEdgeRows'
import { SoftnessRows } from './SoftnessRows'
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
  {
    name: 'focus',
    label: 'Focus blur',
    help: 'How far the lens is out of focus: sigma of a Gaussian over the whole shape, in plate pixels, beside its feather',
    min: 0,
    max: 200,
    step: 0.1,
    decimals: 1,
  },
  { name: 'opacity', label: 'Opacity', help: 'Share of the matte that is kept', min: 0, max: 100, step: 1 },
]

/** Of the whole matte of the Part. */
const MATTE_SETTINGS = [
  {
    name: 'blur',
    label: 'Blur',
    help: 'Softens the whole matte, whatever its shapes: sigma of a Gaussian, in plate pixels',
    min: 0,
    max: 200,
    step: 0.1,
    decimals: 1,
  },
  { name: 'blackPoint', label: 'Black point', help: 'What is no denser becomes empty', min: 0, max: 100, step: 1 },
  {
    name: 'whitePoint',
    label: 'White point',
    help: 'What is at least as dense becomes full',
    min: 0,
    max: 100,
    step: 1,
  },
  { name: 'opacity', label: 'Opacity', help: 'Share of the whole matte that is kept', min: 0, max: 100, step: 1 },
]

/** Feather, growth and opacity of the selected shapes, or of all shapes of the selected Part; then what is done to its whole matte. */
export function EdgeSection() {
  const selected = useShot(useShallow(({ document, selection }) => ({ document, selection })))
  const shapes = selectedShapes(selected)
  const { partId } = selected.selection
  const part = partId ? findObject(selected.document, 'part', partId) : undefined
  if (shapes.length === 0 && !part?.instance)
    return <p className={styles.hint}>Draw a shape first: the edge belongs to its outline.</p>
  return (
    <>
      {shapes.length > 0 && <ShapeEdgeRows shapes={shapes} />}
      {part && (
        <>
          <h4 className={styles.group}>Whole matte of {part.name}</h4>
          {MATTE_SETTINGS.map(({ name, label, ...row }) => (
            <ChannelRow
              key={name}
              label={label}
              name={`${label} of the matte`}
              channels={[channelOf(part, name)]}
              {...row}
            />
          ))}
        </>
      )}
    </>
  )
}

function ShapeEdgeRows({ shapes }: { shapes: readonly Shape[] }) {
  return (
    <>
      {SETTINGS.map(({ name, ...row }) => (
        <ChannelRow key={name} channels={shapes.map((shape) => channelOf(shape, name))} {...row} />
      ))}
      {shapes.length > 1 && (
        <p className={styles.hint}>Changes {shapes.length} shapes: 4 sets all, +2 and *1.5 change each.</p>
      )}
      <VanishedHint shapes={shapes} />
      <FalloffRow shapes={shapes} />
      {shapes.map((shape) => (
        <PointEdgeRows key={shape.id} shape={shape} />
      ))}
      <SoftnessRows shapes={shapes} />
    </>
  )
}

/** Says of which shapes the edge leaves nothing on this frame. */
function VanishedHint({ shapes }: { shapes: readonly Shape[] }) {
  // As it is while a number is dragged or a contour is.
  const shown = useShot((state) => state.shown)
  const frame = useShot((state) => state.frame)
  const gone = shapes.flatMap(({ id }) => {
    const shape = findObject(shown, 'shape', id)
    const halfWidth = shape ? vanishedHalfWidth(shown, shape, frame) : null
    return shape && halfWidth !== null ? [`${shape.name} is nowhere wider than ${(2 * halfWidth).toFixed(0)} px`] : []
  })
  if (gone.length === 0) return null
  return (
    <p className={styles.warning} role="alert">
      Nothing is left with this feather and growth: {gone.join('; ')}.
    </p>
  )
}
