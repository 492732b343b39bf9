'use client'

import { Select } from 'antd'
import { shapePivotSet } from '@tender-lasso/core/edits'
import { type Shape } from '@tender-lasso/core/document'
import { say, useShot } from '../../store'
import { edit } from '../../session'
import { pivotOfChosen } from '../../selection'
import { heldByTracks } from './heldByTracks'
import { Row } from './Row'

const MIDDLE = 'middle'
const KEPT = 'kept'

/** What a shape is turned and scaled about, and what carries that place. */
export function ShapePivotRow({ shape }: { shape: Shape }) {
  const document = useShot((state) => state.document)
  const choose = (value: string) => {
    const state = useShot.getState()
    const place = pivotOfChosen(state)
    if (!place) return say('doubtful', 'The shape is not there on this frame')
    const to = value === MIDDLE ? null : value === KEPT ? 'shape' : { trackId: value }
    edit(`pivot of ${shape.name}`, shapePivotSet(state.document, shape, state.frame, to, place))
    useShot.setState({ pivot: null })
  }
  return (
    <Row
      label="Pivot"
      help="What the shape is turned and scaled about. Click with Turn to choose the place first; kept, it goes with the shape; held by a track, it goes with the picture"
    >
      <Select
        size="small"
        showSearch={{ optionFilterProp: 'label' }}
        aria-label="Pivot of the shape"
        value={shape.pivot === null ? MIDDLE : shape.pivot.to === 'shape' ? KEPT : shape.pivot.trackId}
        options={[
          { value: MIDDLE, label: 'the middle' },
          { value: KEPT, label: 'kept on the shape' },
          ...heldByTracks(document),
        ]}
        onChange={choose}
      />
    </Row>
  )
}
