'use client'

import { Button, Select } from 'antd'
import {
  poseKeyAdded,
  keyDeleted,
  partReparented,
  poseChanged,
  withDescendants,
  type KeyedChange,
} from '@tender-lasso/core/edits'
import { partsByDepth, poseAt } from '@tender-lasso/core/evaluation'
import { POSE, type Part, poseKeys, channelOf } from '@tender-lasso/core/document'
import { editReaching, keyingNow } from '../../commands'
import { useShot } from '../../store'
import { edit } from '../../session'
import { KeyKnot } from './KeyKnot'
import { LifeRow } from './LifeRow'
import { LimbRows } from './LimbRows'
import { NumberField } from './NumberField'
import { Row } from './Row'
import styles from './properties.module.css'

const ALONE = 'alone'
const DEGREES = 180 / Math.PI

/** A Part's own turn, size and way on top of what carries it; keyed. */
export function PoseSection({ part }: { part: Part }) {
  const frame = useShot((state) => state.frame)
  const document = useShot((state) => state.document)
  const own = new Set(withDescendants(document, part.id).map(({ id }) => id))
  const others = partsByDepth(document, frame).filter(({ id }) => !own.has(id))
  const pose = poseAt(part, frame)
  const hasKeyHere = poseKeys(part).some((key) => key.time === frame)
  const set = (channel: keyof typeof POSE, value: number) => {
    const way = value - pose[POSE[channel]]!
    const change: KeyedChange = (_values, out) => void (out[POSE[channel]]! += way)
    editReaching(`pose of ${part.name}`, poseChanged(document, part, frame, change, keyingNow()))
  }
  const scale = (channel: 'logScaleX' | 'logScaleY', label: string) => (
    <NumberField
      label={label}
      value={100 * Math.exp(pose[POSE[channel]]!)}
      min={1}
      max={10000}
      step={1}
      decimals={1}
      onCommit={(percent) => set(channel, Math.log(percent / 100))}
    />
  )
  const place = (channel: 'x' | 'y') => (
    <NumberField
      label={`Pose ${channel}`}
      value={pose[POSE[channel]]!}
      min={-99999}
      max={99999}
      step={1}
      decimals={1}
      onCommit={(value) => set(channel, value)}
    />
  )
  // One key of a pose holds all its numbers.
  const knot = (label: string) => <KeyKnot label={`${label} of ${part.name}`} channels={[channelOf(part)]} />
  return (
    <>
      <Row label="Carried by" help="Goes with that Part; on the present frame nothing moves">
        <Select
          size="small"
          aria-label="Carried by"
          value={part.parentId ?? ALONE}
          options={[
            { value: ALONE, label: 'no other Part' },
            ...others.map(({ id, name }) => ({ value: id, label: name })),
          ]}
          onChange={(value: string) => {
            const parentId = value === ALONE ? null : value
            const patches = partReparented(document, part, parentId, frame)
            if (patches) edit(parentId ? `carry ${part.name} along` : `let ${part.name} go`, patches)
          }}
        />
      </Row>
      <Row
        label="Rotation"
        knot={knot('Rotation')}
        help="About the pivot; more than a whole turn is gone through. The children go along"
      >
        <NumberField
          label="Pose rotation"
          value={pose[POSE.rotation]! * DEGREES}
          min={-36000}
          max={36000}
          step={1}
          decimals={2}
          unit="°"
          onCommit={(degrees) => set('rotation', degrees / DEGREES)}
        />
      </Row>
      <Row label="Scale x, y, %" knot={knot('Scale')}>
        <span className={styles.pair}>
          {scale('logScaleX', 'Pose scale x')}
          {scale('logScaleY', 'Pose scale y')}
        </span>
      </Row>
      <Row
        label="Moved by x, y"
        knot={knot('Place')}
        help={part.pin ? 'The pivot is pinned: it stays on its joint' : 'In the space of what carries the Part, pixels'}
      >
        <span className={styles.pair}>
          {place('x')}
          {place('y')}
        </span>
      </Row>
      <LimbRows part={part} />
      <LifeRow owner={part} />
      <Row label="Pose keys">
        <span className={styles.buttons}>
          <span className={styles.value}>{poseKeys(part).length}</span>
          <Button
            size="small"
            onClick={() =>
              hasKeyHere
                ? edit(`delete the pose key on ${frame}`, keyDeleted(channelOf(part), frame))
                : edit(`pose key on ${frame}`, poseKeyAdded(document, part, frame))
            }
          >
            {hasKeyHere ? 'Delete here' : 'Key here'}
          </Button>
        </span>
      </Row>
    </>
  )
}
