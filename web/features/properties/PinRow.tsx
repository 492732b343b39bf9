'use client'

import { Button, Select } from 'antd'
import { channelOf, findObject, keyStateOn, type Part } from '@tender-lasso/core/document'
import { keyDeleted, pinSet, pivotKeyed, pivotOnPlate, type PinTo } from '@tender-lasso/core/edits'
import { useShot } from '../../store'
import { edit } from '../../session'
import { heldByTracks } from './heldByTracks'
import { Row } from './Row'
import styles from './properties.module.css'

const FREE = 'free'
const PARENT = 'parent'
const KEYS = 'keys'

/** What holds the pivot of a Part, whatever moves the Part. */
export function PinRow({ part }: { part: Part }) {
  const document = useShot((state) => state.document)
  const parent = part.parentId === null ? undefined : findObject(document, 'part', part.parentId)
  const choose = (value: string) => {
    const { frame } = useShot.getState()
    const to: PinTo = value === FREE ? null : value === PARENT || value === KEYS ? value : { trackId: value }
    const words = value === FREE ? 'let go' : `held from ${frame}`
    edit(`pivot of ${part.name} ${words}`, pinSet(document, part, frame, to))
  }
  return (
    <>
      <Row
        label="Pivot"
        help="Held by the Part that carries it, a limb cannot come apart though it has a track of its own; keys of its own or a track can hold it, too. On the present frame nothing moves"
      >
        <Select
          size="small"
          showSearch={{ optionFilterProp: 'label' }}
          aria-label="Pivot held by"
          value={part.pin === null ? FREE : part.pin.to === 'track' ? part.pin.trackId : part.pin.to}
          options={[
            { value: FREE, label: 'goes with the Part' },
            ...(parent ? [{ value: PARENT, label: `pinned to ${parent.name}` }] : []),
            { value: KEYS, label: 'held by keys of its own' },
            ...heldByTracks(document),
          ]}
          onChange={choose}
        />
      </Row>
      {part.pin?.to === 'keys' && <PivotKeysRow part={part} />}
    </>
  )
}

/** Keys of a pivot: dragging its eyelet makes them, too. */
function PivotKeysRow({ part }: { part: Part }) {
  const pivot = channelOf(part, 'pivot')
  const { keys } = pivot
  const frame = useShot((state) => state.frame)
  const hasKeyHere = keyStateOn([pivot], frame) === 'here'
  const keyHere = () => {
    const { document } = useShot.getState()
    const [x, y] = pivotOnPlate(document, part, frame)
    edit(`key of the pivot of ${part.name} on ${frame}`, pivotKeyed(document, part, frame, x, y))
  }
  return (
    <div
      className={styles.row}
      title="Drag the eyelet with Select to put a key on this frame; between keys it goes straight"
    >
      <span>Pivot keys</span>
      <span className={styles.buttons}>
        <span className={styles.value}>{keys.length}</span>
        {hasKeyHere ? (
          <Button
            size="small"
            disabled={keys.length === 1}
            onClick={() => edit(`delete the key of the pivot on ${frame}`, keyDeleted(pivot, frame))}
          >
            Delete here
          </Button>
        ) : (
          <Button size="small" onClick={keyHere}>
            Key here
          </Button>
        )}
      </span>
    </div>
  )
}
