'use client'

import { Button, Select } from 'antd'
import {
  allOf,
  moverAttached,
  moverDroppedAtKeys,
  moverDroppedExactly,
  moverReplacedExactly,
  type Part,
} from '@tender-lasso/core/document'
import { edit, say, shotRange, useShot } from '../../state/shotStore'
import { Row } from './Row'
import styles from './properties.module.css'

/** What moves the Part: attach a track on this frame, replace it, or let it go. */
export function MoverSection({ part }: { part: Part }) {
  const document = useShot((state) => state.document)
  const tracks = allOf(document, 'track').sort((a, b) => a.order - b.order)
  const choose = (trackId: string) => {
    const { frame } = useShot.getState()
    if (trackId === part.mover?.trackId) return
    const name = tracks.find((track) => track.id === trackId)?.name ?? ''
    const patches = part.mover
      ? moverReplacedExactly(document, part, trackId, frame)
      : moverAttached(document, part, trackId, frame)
    edit(`${part.name} moved by ${name} from ${frame}`, patches)
  }
  const dropAtKeys = () => {
    const [first, last] = shotRange()
    const frames = Array.from({ length: last - first + 1 }, (_, i) => first + i)
    const { patches, largest } = moverDroppedAtKeys(document, part, frames)
    if (edit(`drop the Mover of ${part.name} at keys`, patches)) {
      say(
        'said',
        `Kept on its keys; in between the outline moves by up to ${largest.pixels.toFixed(2)} px (frame ${largest.frame})`,
      )
    }
  }
  const hasMotion = part.mover !== null || part.carriers.length > 0
  return (
    <>
      <Row
        label="Mover"
        help="The track that carries this Part; on the present frame nothing moves when it is attached"
      >
        <Select
          size="small"
          aria-label="Mover"
          placeholder={tracks.length ? 'no track' : 'no tracks yet'}
          disabled={tracks.length === 0}
          value={part.mover?.trackId ?? null}
          options={tracks.map((track) => ({ value: track.id, label: track.name }))}
          onChange={choose}
        />
      </Row>
      {part.mover && (
        <Row label="From">
          <span className={styles.value}>frame {part.mover.referenceFrame}</span>
        </Row>
      )}
      {part.carriers.length > 0 && (
        <Row label="Carried by" help="Motion of Movers that were let go exactly; no track changes it any more">
          <span className={styles.value}>
            {part.carriers.length} kept motion{part.carriers.length === 1 ? '' : 's'}
          </span>
        </Row>
      )}
      {hasMotion && (
        <div className={styles.buttons}>
          {part.mover && (
            <Button
              size="small"
              title="The old motion stays as it is, on all frames"
              onClick={() => edit(`drop the Mover of ${part.name} exactly`, moverDroppedExactly(document, part))}
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
