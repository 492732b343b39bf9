'use client'

import { fieldSet } from '@tender-lasso/core/edits'
import type { Shape } from '@tender-lasso/core/document'
import { useShot } from '../../store'
import { edit } from '../../session'
import { NumberField } from './NumberField'
import { Row } from './Row'

/** How much of the motion within the shutter the selected points take part in: for a foot that stands while the shin swings. */
export function BlurWeightRow({ shapes }: { shapes: readonly Shape[] }) {
  const pointIds = useShot((state) => state.selection.pointIds)
  const held = shapes.flatMap((shape) => shape.pointIds.filter((id) => pointIds.has(id)).map((id) => ({ shape, id })))
  if (held.length === 0) return null
  const weights = held.map(({ shape, id }) => 100 * (shape.blurWeights[id] ?? 1))
  const [least, most] = [Math.min(...weights), Math.max(...weights)]
  const set = (percent: number) =>
    edit(
      `blur weight of ${held.length === 1 ? 'a point' : `${held.length} points`}`,
      shapes.flatMap((shape) => {
        const own = shape.pointIds.filter((id) => pointIds.has(id))
        if (own.length === 0) return []
        const others = Object.entries(shape.blurWeights).filter(([id]) => !own.includes(id))
        // All of the motion is what a point takes part in that nobody has weighed.
        const weighed = percent === 100 ? [] : own.map((id) => [id, percent / 100] as const)
        return [fieldSet(shape, 'blurWeights', Object.fromEntries([...others, ...weighed]))]
      }),
    )
  return (
    <Row
      label="Blur weight"
      help="How much of the motion within the shutter the selected points take part in: 0 they rest, 100 they move. Points that a Seam ties always move"
    >
      <NumberField
        label="Blur weight of the points"
        value={weights[0]!}
        min={0}
        max={100}
        step={5}
        unit="%"
        spread={least === most ? undefined : [least, most]}
        onCommit={set}
      />
    </Row>
  )
}
