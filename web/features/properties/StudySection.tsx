'use client'

import { useShallow } from 'zustand/react/shallow'
import { allOf } from '@tender-lasso/core/document'
import { rateName } from '@tender-lasso/core/timing'
import { useShot } from '../../state/shotStore'
import { Row } from './Row'
import styles from './properties.module.css'

/** What the plate is, and what has been made of it. */
export function StudySection() {
  const { info, document } = useShot(useShallow(({ info, document }) => ({ info, document })))
  if (!info) return null
  const rows: [string, string][] = [
    ['Plate', `${info.width} x ${info.height}`],
    ['Frames', `${info.firstFrame}-${info.lastFrame} (${info.lastFrame - info.firstFrame + 1})`],
    ['Rate', `${rateName(info.rate)} fps`],
    ['Pixel aspect', String(info.pixelAspect)],
    ['Encoding', info.colourEncoding],
    ['Subjects', String(allOf(document, 'subject').length)],
    ['Parts', String(allOf(document, 'part').length)],
    ['Shapes', String(allOf(document, 'shape').length)],
    ['Tracks', String(allOf(document, 'track').length)],
  ]
  return rows.map(([label, value]) => (
    <Row key={label} label={label}>
      <span className={styles.value}>{value}</span>
    </Row>
  ))
}
