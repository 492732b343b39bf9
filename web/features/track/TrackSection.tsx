'use client'

import { useMemo } from 'react'
import { Button, Input, Select } from 'antd'
import {
  allOf,
  movedByTrack,
  type Combination,
  type Track,
  type TrackModel,
  channelOf,
} from '@tender-lasso/core/document'
import { fieldSet, isCombinationStale, trackCleared } from '@tender-lasso/core/edits'
import { frameState, motionSamplesOf, sampleAt, type FrameState } from '@tender-lasso/core/evaluation'
import { isSampleStale } from '@tender-lasso/core/tracks'
import { goTo, useShot } from '../../store'
import { edit } from '../../session'
import { setOnTracks, combineAgain, duplicateTrack, renewPattern } from '../../commands'
import { NameField } from '../properties/NameField'
import { NumberField } from '../properties/NumberField'
import { Row } from '../properties/Row'
import styles from '../properties/properties.module.css'

const MODELS: { value: TrackModel; label: string }[] = [
  { value: 'position', label: 'Position' },
  { value: 'similarity', label: 'Position, rotation, scale' },
  { value: 'affine', label: 'Affine' },
  { value: 'perspective', label: 'Perspective' },
]

const UPDATES: { value: Track['patternUpdate']['when']; label: string }[] = [
  { value: 'first', label: 'Keep the first' },
  { value: 'weak', label: 'When the match weakens' },
  { value: 'every', label: 'On every frame' },
]

const COMBINED_WORDS: Record<Combination, string> = { average: 'average', join: 'joined', points: 'from points' }

const STATE_WORDS: Record<FrameState, string> = {
  tracked: 'tracked',
  doubtful: 'doubtful',
  placed: 'placed by hand',
  bridged: 'on a Bridge',
  combined: 'from other tracks',
  missing: 'not known',
}

/** What the track is and how it is followed. */
export function TrackSection({ track }: { track: Track }) {
  const frame = useShot((state) => state.frame)
  const document = useShot((state) => state.document)
  const samples = motionSamplesOf(track)
  const known = samples.present.reduce((sum, p) => sum + p, 0)
  const here = sampleAt(track, frame)
  const moved = movedByTrack(document, track.id)
  // Stamps look at all that each frame is made from: not again for every frame that is scrubbed to.
  const stale = useMemo(() => {
    const { firstFrame, present } = motionSamplesOf(track)
    return Array.from(present, (_, i) => firstFrame + i).filter((at) => isSampleStale(document, track, at))
  }, [document, track])
  const set = <F extends keyof Track & string>(label: string, field: F, value: Track[F]) =>
    edit(label, [fieldSet(track, field, value)])
  const setAll = <F extends keyof Track & string>(label: string, field: F, valueFor: (one: Track) => Track[F]) =>
    setOnTracks(track, label, field, valueFor)
  return (
    <>
      <Row label="Name">
        <NameField
          label="Name of the track"
          value={track.name}
          onCommit={(name) => set(`name ${name}`, 'name', name)}
        />
      </Row>
      {track.madeFrom ? (
        <Row label="Made from" help="A track computed from others; it is made anew only when asked">
          <span className={styles.value}>
            {sourceNames(document, track)}, {COMBINED_WORDS[track.madeFrom.how]}{' '}
            {isCombinationStale(document, track) && (
              <Button size="small" onClick={() => combineAgain(track)}>
                Stale: combine again
              </Button>
            )}
          </span>
        </Row>
      ) : (
        <>
          <Row label="Model" help="What the surface may do. The simplest that holds is the steadiest">
            <Select<TrackModel>
              size="small"
              aria-label="Model"
              popupMatchSelectWidth={false}
              value={track.model}
              options={track.surface === 'point' ? MODELS.slice(0, 3) : MODELS}
              onChange={(model) =>
                setOnTracks(
                  track,
                  `track as ${model}`,
                  'model',
                  () => model,
                  ({ surface }) => surface === 'plane' || model !== 'perspective',
                )
              }
            />
          </Row>
          <Row label="Reference" help="The frame on which the pattern was drawn; every frame is compared with it">
            <span className={styles.value}>
              <Button size="small" type="link" style={{ padding: 0 }} onClick={() => goTo(track.referenceFrame)}>
                frame {track.referenceFrame}
              </Button>
              {track.references.map(({ frame: at }) => (
                <Button key={at} size="small" type="link" style={{ padding: 0 }} onClick={() => goTo(at)}>
                  , {at}
                </Button>
              ))}
            </span>
          </Row>
          <Row label="Pattern" help="Whether the pattern is taken anew while tracking. The first keeps from drifting">
            <Select
              size="small"
              aria-label="Pattern update"
              popupMatchSelectWidth={false}
              value={track.patternUpdate.when}
              options={UPDATES}
              onChange={(when) => setAll('pattern update', 'patternUpdate', (one) => ({ ...one.patternUpdate, when }))}
            />
          </Row>
          {track.patternUpdate.when === 'weak' && (
            <Row label="Weak below" help="Match under which the pattern is taken anew">
              <NumberField
                label="Weak below"
                value={track.patternUpdate.below}
                min={0}
                max={1}
                step={0.01}
                decimals={2}
                onCommit={(below) => setAll('weak below', 'patternUpdate', (one) => ({ ...one.patternUpdate, below }))}
              />
            </Row>
          )}
          <Row label="Stop below" help="The track stops at the last good frame when the match falls below this">
            <NumberField
              label="Minimum match"
              value={track.minimumMatch}
              min={0}
              max={1}
              step={0.01}
              decimals={2}
              onCommit={(value) => setAll(`minimum match ${value}`, 'minimumMatch', () => value)}
            />
          </Row>
          {track.surface === 'point' && (
            <Row
              label="Return within"
              help="Each frame is tracked back to the one before; it is lost when it misses by more. 0: not asked"
            >
              <NumberField
                label="Return within"
                value={track.mostReturnError ?? 0}
                min={0}
                max={20}
                step={0.1}
                decimals={1}
                unit="px"
                onCommit={(value) =>
                  setOnTracks(
                    track,
                    'return within',
                    'mostReturnError',
                    () => (value === 0 ? null : value),
                    ({ surface }) => surface === 'point',
                  )
                }
              />
            </Row>
          )}
        </>
      )}
      <Row label="On this frame" help="How the frame is known; correlation of the pixels that agreed, and their share">
        <span className={styles.value}>
          {STATE_WORDS[frameState(track, frame)]}
          {here?.state === 'tracked' && ` ${here.match.toFixed(3)} ${Math.round(here.kept * 100)}%`}
        </span>
      </Row>
      <Row label="Known">
        <span className={styles.value}>
          {known} frames
          {channelOf(track, 'offset').keys.length > 0 && ', offset'}
          {track.smoothing && ', smoothed'}
        </span>
      </Row>
      {stale.length > 0 && (
        <Row
          label="Stale"
          help="Frames that were tracked with another pattern, model, look or leave-out than there is now"
        >
          <span className={styles.doubtful}>
            {stale.length} frames{' '}
            <Button size="small" type="link" style={{ padding: 0 }} onClick={() => goTo(stale[0]!)}>
              from {stale[0]}
            </Button>
          </span>
        </Row>
      )}
      <Row label="Moves">
        <span className={styles.value}>
          {moved.length ? moved.map((object) => object.name).join(', ') : 'nothing yet'}
        </span>
      </Row>
      <Row label="Notes">
        <Input.TextArea
          key={`${track.id}/${track.notes}`}
          size="small"
          aria-label="Notes"
          autoSize={{ minRows: 1, maxRows: 5 }}
          defaultValue={track.notes}
          maxLength={4000}
          onKeyDown={(event) => event.stopPropagation()}
          onBlur={(event) => event.target.value !== track.notes && set('notes', 'notes', event.target.value)}
        />
      </Row>
      <div className={styles.buttons}>
        <Button size="small" title="Compare from here on with this frame (N)" onClick={renewPattern}>
          New pattern here
        </Button>
        <Button size="small" onClick={duplicateTrack}>
          Copy
        </Button>
        {known > 0 && (
          <Button
            size="small"
            title="Takes all samples away; undo brings them back"
            onClick={() => edit(`clear ${track.name}`, trackCleared(track))}
          >
            Clear
          </Button>
        )}
      </div>
    </>
  )
}

function sourceNames(document: Parameters<typeof isCombinationStale>[0], track: Track): string {
  const named = new Map(allOf(document, 'track').map((other) => [other.id, other.name]))
  const names = (track.madeFrom?.trackIds ?? []).map((id) => named.get(id) ?? 'one that is gone')
  return names.length > 3 ? `${names.length} tracks` : names.join(', ')
}
