'use client'

import { useShallow } from 'zustand/react/shallow'
import { Button } from 'antd'
import { allOf, type Bookmark } from '@tender-lasso/core/document'
import { fieldSet, objectsDeleted } from '@tender-lasso/core/edits'
import { rateName } from '@tender-lasso/core/timing'
import { addBookmark } from '../../commands'
import { goTo, useShot } from '../../store'
import { edit } from '../../session'
import { NameField } from './NameField'
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
  return (
    <>
      {rows.map(([label, value]) => (
        <Row key={label} label={label}>
          <span className={styles.value}>{value}</span>
        </Row>
      ))}
      {info.warnings.map((words) => (
        <p key={words} className={styles.doubtful}>
          {words}
        </p>
      ))}
      <BookmarkRows />
    </>
  )
}

/** Bookmarks by name: a click goes there. */
function BookmarkRows() {
  const document = useShot((state) => state.document)
  const marks = allOf(document, 'bookmark').sort((a, b) => a.range[0] - b.range[0])
  return (
    <>
      {marks.map((mark) => (
        <div key={mark.id} className={styles.row}>
          <NameField
            label={`Name of the bookmark ${mark.name}`}
            value={mark.name}
            onCommit={(name) => edit(`name the bookmark ${name}`, [fieldSet(mark, 'name', name)])}
          />
          <span className={styles.buttons}>
            <Button size="small" onClick={() => goToMark(mark)}>
              {mark.range[0] === mark.range[1] ? mark.range[0] : mark.range.join(' to ')}
            </Button>
            <Button
              size="small"
              aria-label={`Delete the bookmark ${mark.name}`}
              onClick={() => edit(`delete the bookmark ${mark.name}`, objectsDeleted(document, [mark.id]))}
            >
              ×
            </Button>
          </span>
        </div>
      ))}
      <div className={styles.row}>
        <span>Bookmarks</span>
        <Button
          size="small"
          title="Of this frame, or of the stretch marked in the timeline (Shift M)"
          onClick={addBookmark}
        >
          Bookmark here
        </Button>
      </div>
    </>
  )
}

/** To the frame of a bookmark; a stretch is marked as well, so that Span and tracking take it. */
function goToMark({ range }: Bookmark) {
  goTo(range[0])
  if (range[0] < range[1]) useShot.setState({ range })
}
