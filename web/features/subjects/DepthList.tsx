'use client'

import { findObject } from '@tender-lasso/core/document'
import { partReordered } from '@tender-lasso/core/edits'
import { partsByDepth } from '@tender-lasso/core/evaluation'
import { useShot } from '../../store'
import { edit } from '../../session'
import { choosePart, PartRow } from './PartRow'
import { SortableRows } from './SortableRows'
import { walkRows } from './walkRows'
import styles from './subjects.module.css'

/** All Parts in one flat list, nearest first; dragging a row changes what stands in front of what. */
export function DepthList() {
  const document = useShot((state) => state.document)
  const frame = useShot((state) => state.frame)
  const parts = partsByDepth(document, frame)
  if (parts.length === 0) return <p className={styles.empty}>No Parts yet. The nearest will stand at the top.</p>
  return (
    <>
      <div className={styles.edgeWord}>nearest</div>
      <div
        role="grid"
        className={styles.dragged}
        aria-label="Parts by depth"
        onKeyDown={(event) => walkRows(event, choosePart)}
      >
        <SortableRows
          items={parts}
          gripLabel={({ name }) => `Drag ${name} nearer or farther`}
          onMoved={(id, index) => {
            const name = findObject(document, 'part', id)?.name ?? ''
            edit(`move ${name} in depth`, partReordered(document, id, index, frame))
          }}
        >
          {(part, handle) => (
            <PartRow part={part} note={findObject(document, 'subject', part.subjectId)?.name ?? ''} handle={handle} />
          )}
        </SortableRows>
      </div>
      <div className={styles.edgeWord}>farthest</div>
    </>
  )
}
