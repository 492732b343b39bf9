'use client'

import { Select } from 'antd'
import { FALLOFFS, type Shape } from '@tender-lasso/core/document'
import { fieldSet } from '@tender-lasso/core/edits'
import { edit } from '../../session'
import { Row } from './Row'

const WORDS: Record<Shape['falloff'], { label: string; help: string }> = {
  smooth: { label: 'Smooth', help: 'Slow at both ends, as a lens blurs' },
  linear: { label: 'Linear', help: 'Even all the way, as motion blurs' },
  early: { label: 'Early', help: 'Most is lost near the full side' },
  late: { label: 'Late', help: 'Most is lost near the side where it has faded out' },
}

/** How the feather of shapes runs from full to nothing. */
export function FalloffRow({ shapes }: { shapes: readonly Shape[] }) {
  const [first] = shapes
  const isMixed = shapes.some(({ falloff }) => falloff !== first!.falloff)
  const set = (falloff: Shape['falloff']) =>
    edit(
      `falloff ${falloff}`,
      shapes.filter((shape) => shape.falloff !== falloff).map((shape) => fieldSet(shape, 'falloff', falloff)),
    )
  return (
    <Row label="Falloff" help="How the feather runs from full to nothing">
      <Select<Shape['falloff']>
        size="small"
        aria-label="Falloff of the feather"
        placeholder="mixed"
        value={isMixed ? undefined : first!.falloff}
        options={FALLOFFS.map((value) => ({ value, label: WORDS[value].label, title: WORDS[value].help }))}
        onChange={set}
      />
    </Row>
  )
}
