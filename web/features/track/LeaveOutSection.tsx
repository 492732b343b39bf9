'use client'

import { Button, Select } from 'antd'
import { allOf, find, movedByTrack, type LeaveOut, type RotoDocument, type Track } from '@tender-lasso/core/document'
import { fieldSet } from '@tender-lasso/core/edits'
import { followedOn, partsByDepth } from '@tender-lasso/core/evaluation'
import { invert, movedPolygon } from '@tender-lasso/core/geometry'
import { edit, say, useShot } from '../../state/shotStore'
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
              ? (find(document, 'part', entry.partId)?.name ?? 'a Part that is gone')
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
                { value: 'picture', label: `on the picture, ${entry.rides ? 'keyed' : keyWords(entry)}` },
              ]}
              onChange={(lies) => {
                const other = lies === 'surface' ? ridden(track, entry) : pinned(track, entry)
                if (other)
                  set(
                    'where a leave-out lies',
                    track.leaveOut.map((e, i) => (i === index ? other : e)),
                  )
              }}
            />
          )}
          <Button
            size="small"
            type="text"
            aria-label="Remove this leave-out"
            onClick={() =>
              set(
                'remove a leave-out',
                track.leaveOut.filter((_, i) => i !== index),
              )
            }
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

const keyWords = (entry: Extract<LeaveOut, { kind: 'outline' }>) =>
  entry.keys.length === 1 ? '1 key' : `${entry.keys.length} keys`

/** Parts nearer to the camera than the nearest that this track moves. */
function partsInFront(document: RotoDocument, track: Track) {
  const parts = partsByDepth(document, track.referenceFrame)
  const moved = movedByTrack(document, track.id).map((object) => (object.kind === 'part' ? object.id : object.partId))
  const first = parts.findIndex((part) => moved.includes(part.id))
  return first < 0 ? [] : parts.slice(0, first)
}

function pinned(track: Track, entry: Extract<LeaveOut, { kind: 'outline' }>): LeaveOut | null {
  const { frame } = useShot.getState()
  const outline = leaveOutOn(track, entry, frame)
  if (!outline) {
    say('doubtful', `${track.name} is not known on this frame`)
    return null
  }
  return { ...entry, rides: false, keys: [{ frame, outline }] }
}

function ridden(track: Track, entry: Extract<LeaveOut, { kind: 'outline' }>): LeaveOut | null {
  const { frame } = useShot.getState()
  const motion = followedOn(track, frame)
  const outline = leaveOutOn(track, entry, frame)
  if (!motion || !outline) {
    say('doubtful', `${track.name} is not known on this frame`)
    return null
  }
  return {
    ...entry,
    rides: true,
    keys: [{ frame: track.referenceFrame, outline: movedPolygon(outline, invert(motion)) }],
  }
}
