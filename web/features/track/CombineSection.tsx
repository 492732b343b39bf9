'use client'

import { useDeferredValue, useMemo } from 'react'
import { Button } from 'antd'
import { findObject, type RotoDocument } from '@tender-lasso/core/document'
import { modelForPoints } from '@tender-lasso/core/edits'
import { motionSamplesOf } from '@tender-lasso/core/evaluation'
import { centreAt, disagreementOn } from '@tender-lasso/core/motion'
import { goTo, shotRange, useShot } from '../../store'
import { combineSelected, cullStrays } from '../../commands'
import { Row } from '../properties/Row'
import styles from '../properties/properties.module.css'

const MODEL_WORDS = {
  position: 'position',
  similarity: 'position, rotation, scale',
  affine: 'affine',
  perspective: 'perspective',
}

/** What several selected tracks say together: how far they disagree, and a new track out of them. */
export function CombineSection() {
  // What many tracks say on all frames takes a while to find: the page does not wait for it.
  const document = useDeferredValue(useShot((state) => state.document))
  const trackIds = useShot((state) => state.selection.trackIds)
  const frame = useShot((state) => state.frame)
  // All frames are looked at when the tracks change, not for every frame that is scrubbed to.
  const { first, worst, disagreements } = useMemo(() => disagreementsOf(document, trackIds), [document, trackIds])
  const here = disagreements[frame - first] ?? null
  return (
    <>
      <Row label="Selected">
        <span className={styles.value}>{trackIds.length} tracks</span>
      </Row>
      <Row
        label="Disagree by"
        help="Each track carries the centres of all from the first one's reference frame; the largest distance from their mean"
      >
        <span className={styles.value}>
          {here === null ? 'not both known here' : `${here.toFixed(2)} px here`}
          {worst.pixels > 0 && (
            <>
              , worst{' '}
              <Button size="small" type="link" style={{ padding: 0 }} onClick={() => goTo(worst.frame)}>
                {worst.pixels.toFixed(2)} px on {worst.frame}
              </Button>
            </>
          )}
        </span>
      </Row>
      <div className={styles.buttons}>
        <Button
          size="small"
          title="The motion that the centres of these tracks make together"
          onClick={() => combineSelected('points')}
        >
          From points: {MODEL_WORDS[modelForPoints(trackIds.length)]}
        </Button>
        <Button size="small" title="The mean of their motions" onClick={() => combineSelected('average')}>
          Average
        </Button>
        <Button
          size="small"
          title="One continues the other, with the difference of their places taken out"
          onClick={() => combineSelected('join')}
        >
          Join
        </Button>
        {trackIds.length >= 6 && (
          <Button
            size="small"
            title="Points that go another way than their neighbours end where they begin to"
            onClick={cullStrays}
          >
            Cull strays
          </Button>
        )}
      </div>
    </>
  )
}

/** By how far the tracks disagree on each frame of the shot, and where most. */
function disagreementsOf(document: RotoDocument, trackIds: readonly string[]) {
  const tracks = trackIds.flatMap((id) => findObject(document, 'track', id) ?? [])
  const motions = tracks.map(motionSamplesOf)
  const [first, last] = shotRange()
  const reference = Math.min(last, Math.max(first, tracks[0]?.referenceFrame ?? first))
  const centres = motions.flatMap((motion) => centreAt(motion, reference) ?? [])
  const disagreements = Array.from({ length: last - first + 1 }, (_, i) =>
    disagreementOn(motions, reference, first + i, centres),
  )
  const pixels = Math.max(0, ...disagreements.map((distance) => distance ?? 0))
  return { first, disagreements, worst: { frame: first + disagreements.indexOf(pixels), pixels } }
}
