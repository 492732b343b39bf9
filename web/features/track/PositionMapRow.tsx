'use client'

import { useEffect, useRef, useState } from 'react'
import { Button, Segmented } from 'antd'
import type { Track } from '@tender-lasso/core/document'
import type { PositionMapSettings } from '@tender-lasso/core/handoff'
import { savePositionMaps } from '../../commands'
import { Row } from '../properties/Row'
import styles from '../properties/properties.module.css'

const WAYS: { value: PositionMapSettings['way']; label: string; title: string }[] = [
  { value: 'forward', label: 'forward', title: 'Lays a picture of the reference frame onto each frame' },
  { value: 'back', label: 'back', title: 'Brings each frame back to the reference frame, so that it stands still' },
]

interface PositionMapRowProps {
  track: Track | undefined
  relativeTo: number
  settings: Omit<PositionMapSettings, 'way'>
}

/** The motion of a track as pictures of positions, an EXR a frame, by which other programs warp. */
export function PositionMapRow({ track, relativeTo, settings }: PositionMapRowProps) {
  const [way, setWay] = useState<PositionMapSettings['way']>('forward')
  const [done, setDone] = useState<{ frames: number; of: number } | null>(null)
  const stop = useRef<AbortController | null>(null)
  useEffect(() => () => stop.current?.abort(), [])
  const save = async () => {
    if (!track) return
    const controller = new AbortController()
    stop.current = controller
    setDone({ frames: 0, of: 1 })
    await savePositionMaps(track, relativeTo, { ...settings, way }, (frames, of) => setDone({ frames, of }), controller.signal) // prettier-ignore
    if (stop.current === controller) stop.current = null
    setDone(null)
  }
  return (
    <>
      <Row
        label="Position map"
        help="Of each pixel the place that a warp takes it from, as EXR; of the marked stretch, or of all frames"
      >
        <Segmented
          size="small"
          value={way}
          options={WAYS}
          onChange={(value) => setWay(value as PositionMapSettings['way'])}
        />
      </Row>
      <div className={styles.buttons}>
        {done ? (
          <Button size="small" onClick={() => stop.current?.abort()}>
            Cancel, {done.frames} of {done.of} done
          </Button>
        ) : (
          <Button size="small" disabled={!track} onClick={() => void save()}>
            Save position maps
          </Button>
        )}
      </div>
    </>
  )
}
