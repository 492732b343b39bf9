'use client'

import { Button, Select } from 'antd'
import { allOf, channelOf, type Track } from '@tender-lasso/core/document'
import { bridgeChanged, fieldSet, valuesKeyed } from '@tender-lasso/core/edits'
import { channelValuesAt, rawSamplesOf } from '@tender-lasso/core/evaluation'
import { bridgeSlopes } from '@tender-lasso/core/motion'
import { goTo, useShot } from '../../store'
import { edit } from '../../session'
import { bridgeByTrack, bridgeHere, clearStretch } from '../../commands'
import { KeyKnot } from '../properties/KeyKnot'
import { NumberField } from '../properties/NumberField'
import { Row } from '../properties/Row'
import styles from '../properties/properties.module.css'

/** Bridges over hidden stretches, the Offset, and what is taken away. */
export function RepairSection({ track }: { track: Track }) {
  const frame = useShot((state) => state.frame)
  const range = useShot((state) => state.range)
  const document = useShot((state) => state.document)
  const others = allOf(document, 'track').filter((other) => other.id !== track.id && other.blocks.length > 0)
  const offset = channelOf(track, 'offset')
  const [x, y] = channelValuesAt(offset, frame)!
  const setOffset = (toX: number, toY: number) =>
    edit(`offset ${track.name} on ${frame}`, valuesKeyed(offset, frame, Float64Array.of(toX, toY)))
  return (
    <>
      <Row
        label="Stretch"
        help="Shift-drag below the picture marks the frames that a Bridge crosses or that are cleared"
      >
        <span className={styles.value}>
          {range ? (
            <>
              {range[0]} to {range[1]}{' '}
              <Button size="small" type="link" style={{ padding: 0 }} onClick={() => useShot.setState({ range: null })}>
                unmark
              </Button>
            </>
          ) : (
            'Shift-drag below the picture'
          )}
        </span>
      </Row>
      <div className={styles.buttons}>
        <Button size="small" title="A curve across the stretch; what was tracked there goes (B)" onClick={bridgeHere}>
          Bridge
        </Button>
        <Button size="small" title="Takes the samples of the marked stretch away" onClick={clearStretch}>
          Clear the stretch
        </Button>
      </div>
      <Row label="Bridge by" help="The stretch is filled with another track's motion, fitted at both ends">
        <Select
          size="small"
          aria-label="Bridge by another track"
          placeholder={others.length ? 'another track' : 'no other track'}
          disabled={others.length === 0}
          value={null}
          options={others.map((other) => ({ value: other.id, label: other.name }))}
          onChange={(id: string) => bridgeByTrack(id)}
        />
      </Row>
      {track.bridges.map((bridge) => (
        <div key={bridge.from} className={styles.listRow}>
          <Button size="small" type="link" style={{ padding: 0 }} onClick={() => goTo(bridge.from)}>
            Bridge {bridge.from} to {bridge.to}
          </Button>
          <span className={styles.grow} />
          <Button
            size="small"
            type="text"
            title="Leaves and arrives as the motion goes outside"
            onClick={() =>
              edit(
                'smooth a Bridge',
                bridgeChanged(track, bridge, bridgeSlopes(rawSamplesOf(track), bridge.from, bridge.to)),
              )
            }
          >
            Smooth ends
          </Button>
          <Button
            size="small"
            type="text"
            aria-label={`Remove the Bridge from ${bridge.from}`}
            onClick={() => edit('remove a Bridge', [fieldSet(track, 'bridges', track.bridges.filter((b) => b.from !== bridge.from))])} // prettier-ignore
          >
            ×
          </Button>
        </div>
      ))}
      <Row
        label="Offset"
        help="Another place is reported than the one followed. Keyed: straight between keys"
        knot={<KeyKnot label="Offset" channels={[offset]} />}
      >
        <span className={styles.pair}>
          <NumberField
            label="Offset x"
            prefix="x"
            value={x!}
            min={-9999}
            max={9999}
            step={1}
            decimals={1}
            onCommit={(value) => setOffset(value, y!)}
          />
          <NumberField
            label="Offset y"
            prefix="y"
            value={y!}
            min={-9999}
            max={9999}
            step={1}
            decimals={1}
            onCommit={(value) => setOffset(x!, value)}
          />
        </span>
      </Row>
      {offset.keys.length > 0 && (
        <Row label="Offset keys">
          <span className={styles.value}>{offset.keys.map(({ time }) => time).join(', ')}</span>
        </Row>
      )}
    </>
  )
}
