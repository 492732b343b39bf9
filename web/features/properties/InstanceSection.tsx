'use client'

import { Button, Select } from 'antd'
import { allOf, findObject, type Part } from '@tender-lasso/core/document'
import { mirrorSet } from '@tender-lasso/core/edits'
import { mirrorLineAt } from '@tender-lasso/core/evaluation'
import { breakOff } from '../../commands'
import { select, useShot } from '../../store'
import { edit } from '../../session'
import { Row } from './Row'
import styles from './properties.module.css'

/** Nothing carries the line. */
const STILL = ''

/** What a Part follows, and the line about which it is reflected. */
export function InstanceSection({ part }: { part: Part }) {
  const document = useShot((state) => state.document)
  const frame = useShot((state) => state.frame)
  const { instance } = part
  const original = instance && findObject(document, 'part', instance.of)
  if (!instance || !original) return null
  const { mirror } = instance
  const tracks = allOf(document, 'track').sort((a, b) => a.order - b.order)
  return (
    <>
      <div className={styles.row}>
        <span>{mirror ? 'Reflection of' : 'Shows'}</span>
        <Button
          size="small"
          title="Select it"
          onClick={() => select({ partId: original.id, shapeIds: [], pointIds: new Set(), keys: [] })}
        >
          {original.name}
        </Button>
      </div>
      {mirror && (
        <Row
          label="Line moves with"
          help="The track of the surface in which it is reflected; on the frame of the line nothing moves"
        >
          <Select
            size="small"
            aria-label="Track that carries the line"
            value={mirror.trackId ?? STILL}
            options={[
              { value: STILL, label: 'Nothing: it stays' },
              ...tracks.map(({ id, name }) => ({ value: id, label: name })),
            ]}
            onChange={(trackId) => {
              // From the frame that is shown: there the line is seen where it belongs.
              const line = mirrorLineAt(document, part, frame)!
              edit(`line of ${part.name}`, mirrorSet(part, { line: Float64Array.from(line), referenceFrame: frame, trackId: trackId === STILL ? null : trackId })) // prettier-ignore
            }}
          />
        </Row>
      )}
      <div className={styles.buttons}>
        {mirror && (
          <Button size="small" title="Alt I" onClick={() => useShot.setState({ tool: 'reflect' })}>
            Lay the line anew
          </Button>
        )}
        <Button size="small" title="Shapes and motion of its own, where they are now" onClick={breakOff}>
          Break off
        </Button>
      </div>
    </>
  )
}
