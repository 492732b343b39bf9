'use client'

import { Select } from 'antd'
import { allOf, find, pinSet, type Part } from '@tender-lasso/core/document'
import { edit, useShot } from '../../state/shotStore'
import { Row } from './Row'

const FREE = 'free'
const PARENT = 'parent'

/** What holds the pivot of a Part, whatever moves the Part. */
export function PinRow({ part }: { part: Part }) {
  const document = useShot((state) => state.document)
  const parent = part.parentId === null ? undefined : find(document, 'part', part.parentId)
  const tracks = allOf(document, 'track').sort((a, b) => a.order - b.order)
  const choose = (value: string) => {
    const { frame } = useShot.getState()
    const to = value === FREE ? null : value === PARENT ? PARENT : { trackId: value }
    const words = value === FREE ? 'let go' : `held from ${frame}`
    edit(`pivot of ${part.name} ${words}`, pinSet(document, part, frame, to))
  }
  return (
    <Row
      label="Pivot"
      help="Held by the Part that carries it, a limb cannot come apart though it has a track of its own; a track can hold it, too. On the present frame nothing moves"
    >
      <Select
        size="small"
        aria-label="Pivot held by"
        value={part.pin === null ? FREE : part.pin.to === 'parent' ? PARENT : part.pin.trackId}
        options={[
          { value: FREE, label: 'goes with the Part' },
          ...(parent ? [{ value: PARENT, label: `pinned to ${parent.name}` }] : []),
          ...tracks.map((track) => ({ value: track.id, label: `held by ${track.name}` })),
        ]}
        onChange={choose}
      />
    </Row>
  )
}
