'use client'

import { CopyPlus } from 'lucide-react'
import { allOf, findObject, type Part, type RotoDocument, type Subject } from '@tender-lasso/core/document'
import { depthsOf, fieldSet } from '@tender-lasso/core/edits'
import { css, SUBJECT_HUES, useShot } from '../../store'
import { edit } from '../../session'
import { showSubjectAgain } from '../../commands'
import { shapesOf } from '@tender-lasso/core/evaluation'
import { NameInPlace } from './NameInPlace'
import { RowButton } from './RowButton'
import { choosePart, PartRow } from './PartRow'
import { chooseShape, ShapeRows } from './ShapeRows'
import { walkRows } from './walkRows'
import styles from './subjects.module.css'

export function SubjectTree() {
  const document = useShot((state) => state.document)
  const subjects = allOf(document, 'subject').sort((a, b) => a.order - b.order)
  if (subjects.length === 0) {
    return (
      <p className={styles.empty}>
        Nothing is cut yet. Draw with the Lasso (L) or the Pen (P) in the Shape step and a Part is made for it.
      </p>
    )
  }
  return (
    <div
      role="treegrid"
      aria-label="Tree of Subjects and Parts"
      onKeyDown={(event) => walkRows(event, (id) => chooseRow(document, id))}
    >
      {subjects.map((subject) => (
        <div key={subject.id}>
          <SubjectRow subject={subject} />
          <PartsBelow document={document} subject={subject} parentId={null} depth={1} />
        </div>
      ))}
    </div>
  )
}

function chooseRow(document: RotoDocument, id: string) {
  const object = document.objects.get(id)
  if (object?.kind === 'part') choosePart(id)
  if (object?.kind === 'shape') chooseShape(object)
}

function SubjectRow({ subject }: { subject: Subject }) {
  return (
    <div
      className={styles.subject}
      role="row"
      aria-level={1}
      aria-label={subject.name}
      data-id={subject.id}
      tabIndex={0}
    >
      <span role="gridcell" className={styles.cells}>
        <button
          type="button"
          className={styles.hue}
          style={{ background: css([...SUBJECT_HUES[subject.hue]!]) }}
          title="Hue of the Subject; click for the next one"
          aria-label={`Hue of ${subject.name}`}
          onClick={() =>
            edit(`hue of ${subject.name}`, [fieldSet(subject, 'hue', (subject.hue + 1) % SUBJECT_HUES.length)])
          }
        />
        <NameInPlace
          value={subject.name}
          onCommit={(name) => edit(`name ${name}`, [fieldSet(subject, 'name', name)])}
        />
        <RowButton
          label={`Show ${subject.name} again, as a Subject that follows it`}
          isOn={false}
          onPress={() => showSubjectAgain(subject.id)}
        >
          <CopyPlus size={12} />
        </RowButton>
      </span>
    </div>
  )
}

/** Parts that have the same parent, and below each what it carries. */
function PartsBelow({
  document,
  subject,
  parentId,
  depth,
}: {
  document: RotoDocument
  subject: Subject
  parentId: string | null
  depth: number
}) {
  // Shapes of the selected Part lie open: what they do to one another is seen and changed here.
  const partId = useShot((state) => state.selection.partId)
  const parts: Part[] = allOf(document, 'part')
    .filter((part) => part.subjectId === subject.id && carrierInSubject(document, part) === parentId)
    .sort((a, b) => depthsOf(a)[0]! - depthsOf(b)[0]! || (a.id < b.id ? -1 : 1))
  return parts.map((part) => (
    <div key={part.id}>
      <PartRow part={part} indent={depth} isTree />
      {part.id === partId && hasLayers(document, part) && (
        <ShapeRows document={document} part={part} level={depth + 2} />
      )}
      <PartsBelow document={document} subject={subject} parentId={part.id} depth={depth + 1} />
    </div>
  ))
}

/** One shape that adds needs no row of its own. */
const hasLayers = (document: RotoDocument, part: Part) => {
  const shapes = shapesOf(document, part.id)
  return shapes.length > 1 || shapes[0]?.operation === 'subtract'
}

/** What carries a Part, unless that belongs to another Subject: then the Part stands at the root of its own. */
function carrierInSubject(document: RotoDocument, part: Part): string | null {
  const carrier = part.parentId === null ? undefined : findObject(document, 'part', part.parentId)
  return carrier?.subjectId === part.subjectId ? carrier.id : null
}
