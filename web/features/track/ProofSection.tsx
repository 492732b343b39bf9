'use client'

import { useState } from 'react'
import { Button } from 'antd'
import type { Track } from '@tender-lasso/core/document'
import { wordsOf } from '../../session'
import { goTo, say, setView, useShot } from '../../store'
import { roundTrip, type RoundTrip } from '../../commands'
import { togglePlayback } from '../../viewer/playback'
import { Row } from '../properties/Row'
import styles from '../properties/properties.module.css'
import { ProofLaidRows } from './ProofLaidRows'

/** Ways to see whether a track holds before it is trusted. */
export function ProofSection({ track }: { track: Track }) {
  const steadyTrackId = useShot((state) => state.view.steadyTrackId)
  const isKept = useShot(
    ({ view: { keepInView } }) => keepInView !== null && keepInView !== 'selection' && keepInView.trackId === track.id,
  )
  const [trip, setTrip] = useState<{ track: Track; result: RoundTrip } | null>(null)
  const [progress, setProgress] = useState<string | null>(null)
  const isSteady = steadyTrackId === track.id
  const goRound = async () => {
    setProgress('on the way back')
    try {
      const result = await roundTrip(track, (done, of) => setProgress(`${done}/${of}`))
      if (result) setTrip({ track, result })
      else say('doubtful', `${track.name} has no frames after its reference yet: track forward first`)
    } catch (error) {
      say('bad', wordsOf(error))
    } finally {
      setProgress(null)
    }
  }
  const shown = trip?.track === track ? trip.result : null
  const worst = shown?.frames.reduce((a, b) => (b.pixels > a.pixels ? b : a), { frame: 0, pixels: -1 })
  return (
    <>
      <div className={styles.buttons}>
        <Button
          size="small"
          title="The picture held still by this track, played: what moves now is the track's error"
          onClick={() => {
            setView({ steadyTrackId: isSteady ? null : track.id })
            if (!isSteady !== useShot.getState().isPlaying) togglePlayback()
          }}
        >
          {isSteady ? 'Leave the Steady view' : 'Play in Steady view'}
        </Button>
        <Button size="small" title="Lay a grid on four corners (G)" onClick={() => useShot.setState({ tool: 'grid' })}>
          Lay the grid
        </Button>
        <Button size="small" onClick={() => useShot.setState({ timelineFace: 'proof' })}>
          Proof strip
        </Button>
        <Button
          size="small"
          title="The view pans with the track, so that it stays put on screen"
          onClick={() => setView({ keepInView: isKept ? null : { trackId: track.id } })}
        >
          {isKept ? 'Let the view go' : 'Keep in view'}
        </Button>
      </div>
      <ProofLaidRows />
      <Row
        label="Round trip"
        help="Tracked back from the last frame to the reference: by how far it misses the way out"
      >
        <span className={styles.value}>
          {progress ??
            (shown && worst
              ? `${shown.frames.at(-1)!.pixels.toFixed(3)} px on ${shown.frames.at(-1)!.frame}, worst `
              : 'not asked yet ')}
          {!progress && worst && (
            <Button size="small" type="link" style={{ padding: 0 }} onClick={() => goTo(worst.frame)}>
              {worst.pixels.toFixed(3)} px on {worst.frame}
            </Button>
          )}{' '}
          {!progress && (
            <Button size="small" onClick={() => void goRound()}>
              {shown ? 'Again' : 'Go round'}
            </Button>
          )}
        </span>
      </Row>
    </>
  )
}
