'use client'

import { useState } from 'react'
import { Button, Segmented, Select } from 'antd'
import { allOf, findObject, type Part, type Patch, type Shape } from '@tender-lasso/core/document'
import {
  motionSourceOf,
  moverAttached,
  moverDroppedAtKeys,
  moverDroppedExactly,
  moverReferenceSet,
  moverReplacedExactly,
  type MoverTarget,
} from '@tender-lasso/core/edits'
import { say, shotRange, useShot } from '../../store'
import { edit } from '../../session'
import { MoverStrength } from './MoverStrength'
import { PinRow } from './PinRow'
import { Row } from './Row'
import styles from './properties.module.css'
import { counted } from '../../words/counted'

type Which = 'part' | 'shapes' | 'points'

/** What moves the Part, the selected shapes or the selected points: attach a track on this frame, replace it, let it go. */
export function MoverSection({ part }: { part: Part }) {
  const document = useShot((state) => state.document)
  const selection = useShot((state) => state.selection)
  const [wanted, setWanted] = useState<Which>('part')
  const shapes = selection.shapeIds.flatMap((id) => findObject(document, 'shape', id) ?? [])
  const which = wanted === 'points' && selection.pointIds.size === 0 ? 'part' : shapes.length ? wanted : 'part'
  const targets = targetsOf(part, shapes, selection.pointIds, which)
  const [target] = targets
  if (!target) return null
  const name =
    which === 'part' ? part.name : which === 'points' ? `${selection.pointIds.size} points` : shapeWords(shapes)
  const { mover, frozenMovers } = motionSourceOf(target)
  const tracks = allOf(document, 'track').sort((a, b) => a.order - b.order)

  /** The same for all targets, one edit. */
  const change = (label: string, patchesFor: (target: MoverTarget) => Patch[]) =>
    edit(label, targets.flatMap(patchesFor))
  const choose = (trackId: string) => {
    const { frame } = useShot.getState()
    const trackName = tracks.find((track) => track.id === trackId)?.name ?? ''
    change(`${name} moved by ${trackName} from ${frame}`, (one) => {
      const now = motionSourceOf(one).mover
      if (now?.trackId === trackId) return []
      return now ? moverReplacedExactly(document, one, trackId, frame) : moverAttached(document, one, trackId, frame)
    })
  }
  const dropAtKeys = () => {
    const [first, last] = shotRange()
    const frames = Array.from({ length: last - first + 1 }, (_, i) => first + i)
    const dropped = targets.map((one) => moverDroppedAtKeys(document, one, frames))
    const worst = dropped.map(({ largest }) => largest).reduce((a, b) => (a.pixels > b.pixels ? a : b))
    const patches = dropped.flatMap((one) => one.patches)
    if (edit(`drop the Mover of ${name} at keys`, patches)) {
      say(
        'said',
        `Kept on the keys; in between outlines move by up to ${worst.pixels.toFixed(2)} px (frame ${worst.frame})`,
      )
    }
  }
  return (
    <>
      {shapes.length > 0 && (
        <Row label="Of" help="What a track moves: the whole Part, the selected shapes, or the selected points alone">
          <Segmented<Which>
            size="small"
            value={which}
            options={[
              { label: 'Part', value: 'part' },
              { label: shapes.length > 1 ? `${shapes.length} shapes` : 'Shape', value: 'shapes' },
              { label: 'Points', value: 'points', disabled: selection.pointIds.size === 0 },
            ]}
            onChange={setWanted}
          />
        </Row>
      )}
      <Row label="Mover" help="The track that carries it; on the present frame nothing moves when it is attached">
        <Select
          size="small"
          aria-label="Mover"
          showSearch={{ optionFilterProp: 'label' }}
          placeholder={tracks.length ? placeholderFor(which, part) : 'no tracks yet'}
          disabled={tracks.length === 0}
          value={mover?.trackId ?? null}
          options={tracks.map((track) => ({ value: track.id, label: track.name }))}
          onChange={choose}
        />
      </Row>
      {mover && (
        <>
          <Row label="From" help="On this frame the track moves nothing; its motion since then is what is taken over">
            <span className={styles.buttons}>
              <span className={styles.value}>frame {mover.referenceFrame}</span>
              <Button
                size="small"
                title="The present frame becomes the one on which nothing moves"
                onClick={() => {
                  const { frame } = useShot.getState()
                  change(`${name} moved from ${frame}`, (one) => moverReferenceSet(document, one, frame))
                }}
              >
                From here
              </Button>
            </span>
          </Row>
          <MoverStrength
            targets={targets}
            strength={mover.strength}
            onChange={(patches) => edit(`strength of the Mover of ${name}`, patches)}
          />
        </>
      )}
      {frozenMovers.length > 0 && (
        <Row label="Carried by" help="Motion of Movers that were let go exactly; no track changes it any more">
          <span className={styles.value}>{counted(frozenMovers.length, 'kept motion')}</span>
        </Row>
      )}
      {which === 'part' && <PinRow part={part} />}
      {(mover || frozenMovers.length > 0) && (
        <div className={styles.buttons}>
          {mover && (
            <Button
              size="small"
              title="The old motion stays as it is, on all frames"
              onClick={() => change(`drop the Mover of ${name} exactly`, (one) => moverDroppedExactly(document, one))}
            >
              Drop exactly
            </Button>
          )}
          <Button size="small" title="The outline stays on its keys; in between it may differ" onClick={dropAtKeys}>
            Drop at keys
          </Button>
        </div>
      )}
    </>
  )
}

function targetsOf(
  part: Part,
  shapes: readonly Shape[],
  pointIds: ReadonlySet<string>,
  which: Which,
): readonly MoverTarget[] {
  if (which === 'part') return [part]
  if (which === 'shapes') return shapes
  return shapes.flatMap((shape) => {
    const chosen = shape.pointIds.filter((id) => pointIds.has(id))
    return chosen.length ? [{ kind: 'points' as const, shape, pointIds: chosen }] : []
  })
}

const shapeWords = (shapes: readonly Shape[]) => (shapes.length === 1 ? shapes[0]!.name : `${shapes.length} shapes`)

/** What moves it while no track does. */
function placeholderFor(which: Which, part: Part): string {
  if (which === 'points') return 'goes with its shape'
  if (which === 'shapes') return `goes with ${part.name}`
  return part.parentId === null ? 'no track' : 'goes with what carries it'
}
