'use client'

import { Button, Select } from 'antd'
import {
  allOf,
  channelOf,
  findObject,
  leaveOutChannel,
  movedByTrack,
  type LeaveOut,
  type Patch,
  type RotoDocument,
  type Track,
} from '@tender-lasso/core/document'
import { fieldSet, leaveOutRemoved, leaveOutRidingSet } from '@tender-lasso/core/edits'
import { followedOn, partsByDepth } from '@tender-lasso/core/evaluation'
import { invert, movedPolygon } from '@tender-lasso/core/geometry'
import { say, useShot } from '../../store'
import { edit } from '../../session'
import { leaveOutOn } from '../../viewer/tools/trackHandles'
import { Row } from '../properties/Row'
import styles from '../properties/properties.module.css'

/** What the track does not look at: outlines, and Parts that stand in front of what it moves. */
export function LeaveOutSection({ track }: { track: Track }) {
  const document = useShot((state) => state.document)
  const set = (label: string, leaveOut: LeaveOut[]) => edit(label, [fieldSet(track, 'leaveOut', leaveOut)])
  const taken = new Set(track.leaveOut.flatMap((entry) => (entry.kind === 'part' ? [entry.partId] : [])))
  const proposed = partsInFront(document, track).filter((part) => !taken.has(part.id))
  const others = allOf(document, 'part').filter((part) => !taken.has(part.id))
  return (
    <>
      {track.leaveOut.map((entry, index) => (
        <div key={index} className={styles.listRow}>
          <span className={styles.grow}>
            {entry.kind === 'part'
              ? (findObject(document, 'part', entry.partId)?.name ?? 'a Part that is gone')
              : `Outline ${index + 1}`}
          </span>
          {entry.kind === 'outline' && (
            <Select
              size="small"
              aria-label={`Outline ${index + 1} lies`}
              popupMatchSelectWidth={false}
              value={entry.rides ? 'surface' : 'picture'}
              options={[
                { value: 'surface', label: 'on the surface' },
                { value: 'picture', label: `on the picture, ${entry.rides ? 'keyed' : keyWords(track, entry)}` },
              ]}
              onChange={(lies) => {
                const patches = lies === 'surface' ? ridden(track, index) : pinned(track, index)
                if (patches) edit('where a leave-out lies', patches)
              }}
            />
          )}
          <Button
            size="small"
            type="text"
            aria-label="Remove this leave-out"
            onClick={() => edit('remove a leave-out', leaveOutRemoved(track, index))}
          >
            ×
          </Button>
        </div>
      ))}
      {proposed.length > 0 && (
        <div className={styles.buttons}>
          <Button
            size="small"
            title="Parts that stand nearer than what this track moves, by the depth order"
            onClick={() =>
              set('leave out what is in front', [
                ...track.leaveOut,
                ...proposed.map((part) => ({ kind: 'part' as const, partId: part.id })),
              ])
            }
          >
            Leave out in front: {proposed.map((part) => part.name).join(', ')}
          </Button>
        </div>
      )}
      <Row label="Add a Part" help="Its outlines are left out on every frame, over its shutter and with a margin">
        <Select
          size="small"
          aria-label="Leave out a Part"
          placeholder={others.length ? 'Part in front' : 'no Parts'}
          disabled={others.length === 0}
          value={null}
          options={others.map((part) => ({ value: part.id, label: part.name }))}
          onChange={(partId: string) => set('leave out a Part', [...track.leaveOut, { kind: 'part', partId }])}
        />
      </Row>
      {track.leaveOut.length === 0 && (
        <p className={styles.words}>
          Draw reflections, lit windows and passers-by with Leave out (O); drag their corners with Adjust (A).
        </p>
      )}
    </>
  )
}

function keyWords(track: Track, { id }: Extract<LeaveOut, { kind: 'outline' }>): string {
  const { keys } = channelOf(track, leaveOutChannel(id))
  return keys.length === 1 ? '1 key' : `${keys.length} keys`
}

/** Parts nearer to the camera than the nearest that this track moves. */
function partsInFront(document: RotoDocument, track: Track) {
  const parts = partsByDepth(document, track.referenceFrame)
  const moved = movedByTrack(document, track.id).map((object) => (object.kind === 'part' ? object.id : object.partId))
  const first = parts.findIndex((part) => moved.includes(part.id))
  return first < 0 ? [] : parts.slice(0, first)
}

/** A leave-out keyed from this frame on where it lies now; null where that is not known. */
function pinned(track: Track, index: number): Patch[] | null {
  const { frame } = useShot.getState()
  const outline = leaveOutOn(track, track.leaveOut[index]!, frame)
  if (outline) return leaveOutRidingSet(track, index, outline, frame)
  say('doubtful', `${track.name} is not known on this frame`)
  return null
}

/** A leave-out that rides on the surface from where it lies on this frame; null where that is not known. */
function ridden(track: Track, index: number): Patch[] | null {
  const { frame } = useShot.getState()
  const motion = followedOn(track, frame)
  const outline = leaveOutOn(track, track.leaveOut[index]!, frame)
  if (motion && outline) return leaveOutRidingSet(track, index, movedPolygon(outline, invert(motion)), 'rides')
  say('doubtful', `${track.name} is not known on this frame`)
  return null
}
