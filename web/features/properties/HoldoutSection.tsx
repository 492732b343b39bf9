'use client'

import { useShallow } from 'zustand/react/shallow'
import { Button, Select, Switch } from 'antd'
import { fieldSet, keysToggled } from '@tender-lasso/core/edits'
import { channelOf, findObject, keyStateOn } from '@tender-lasso/core/document'
import { orderChanges, partsByDepth } from '@tender-lasso/core/evaluation'
import { goTo, shotRange, useShot } from '../../store'
import { edit } from '../../session'
import { HiddenRow } from './HiddenRow'
import { KeyKnot } from './KeyKnot'
import { OperationRow } from './OperationRow'
import { Row } from './Row'
import styles from './properties.module.css'

export function HoldoutSection() {
  const { document, selection, frame } = useShot(
    useShallow(({ document, selection, frame }) => ({ document, selection, frame })),
  )
  const part = selection.partId ? findObject(document, 'part', selection.partId) : undefined
  if (!part) return null
  const shape = selection.shapeIds[0] ? findObject(document, 'shape', selection.shapeIds[0]) : undefined
  const order = partsByDepth(document, frame)
  const depth = channelOf(part, 'depth')
  const isKeyedHere = keyStateOn([depth], frame) === 'here'
  const place = order.findIndex((p) => p.id === part.id)
  return (
    <>
      <OperationRow />
      <HiddenRow owner={shape ?? part} />
      <Row label="Holds out" help="Cuts this Part out of the mattes of all Parts behind it">
        <Switch
          size="small"
          checked={part.holdsOut}
          onChange={(on) => edit(on ? 'hold out what is behind' : 'hold out nothing', [fieldSet(part, 'holdsOut', on)])}
        />
      </Row>
      {part.holdsOut && (
        <Row label="But not" help="Parts behind it that it does not cut all the same">
          <Select<string[]>
            size="small"
            mode="multiple"
            aria-label="Parts that are not cut"
            placeholder="cuts all behind it"
            value={part.spares.filter((id) => findObject(document, 'part', id))}
            options={order.filter(({ id }) => id !== part.id).map(({ id, name }) => ({ value: id, label: name }))}
            onChange={(spares) => edit(`what ${part.name} does not cut`, [fieldSet(part, 'spares', spares)])}
          />
        </Row>
      )}
      <Row
        label="Stays in front"
        help="New Parts are put behind it: for a post, a railing, whatever passes before all that is drawn later"
      >
        <Switch
          size="small"
          aria-label="Stays in front of new Parts"
          checked={part.staysInFront}
          disabled={!part.holdsOut}
          onChange={(on) =>
            edit(on ? 'stay in front of new Parts' : 'let new Parts in front', [fieldSet(part, 'staysInFront', on)])
          }
        />
      </Row>
      <Row label="Depth" help="Page Up moves it one place nearer, Page Down one farther">
        <span className={styles.value}>
          {place + 1} of {order.length}
        </span>
      </Row>
      <Row
        label="Depth keys"
        knot={<KeyKnot label={`Depth of ${part.name}`} channels={[depth]} />}
        help="From a keyed frame on the Part stands where it is put in the Depth list, until the next"
      >
        <span className={styles.buttons}>
          <span className={styles.value}>{depth.keys.map((key) => key.time).join(', ') || 'none'}</span>
          <Button
            size="small"
            onClick={() =>
              edit(
                isKeyedHere ? `delete the depth key on ${frame}` : `key the depth of ${part.name} on ${frame}`,
                keysToggled(document, [depth], frame),
              )
            }
          >
            {isKeyedHere ? 'Delete here' : 'Key here'}
          </Button>
        </span>
      </Row>
      <OrderChangesRow partId={part.id} />
      <p className={styles.hint}>Drag Parts in the Depth list to say what stands in front of what.</p>
    </>
  )
}

/** Frames from which the Part stands before or behind others than until then. */
function OrderChangesRow({ partId }: { partId: string }) {
  const document = useShot((state) => state.document)
  const [first, last] = shotRange()
  const changes = orderChanges(document).filter(
    ({ frame, partIds }) => frame > first && frame <= last && partIds.includes(partId),
  )
  if (changes.length === 0) return null
  const nameOf = (id: string) => findObject(document, 'part', id)?.name ?? id
  return (
    <div className={styles.row} title="Where threads cross below the thumbnails of the timeline">
      <span>Passes</span>
      <span className={styles.stretches}>
        {changes.map(({ frame, partIds }) => (
          <Button key={frame} size="small" title={partIds.map(nameOf).join(' before ')} onClick={() => goTo(frame)}>
            {frame}
          </Button>
        ))}
      </span>
    </div>
  )
}
