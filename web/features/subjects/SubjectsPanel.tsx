'use client'

import { useState } from 'react'
import { Button, Segmented, Tooltip } from 'antd'
import { Plus } from 'lucide-react'
import { EMPTY_DOCUMENT } from '@tender-lasso/core/document'
import { objectAdded } from '@tender-lasso/core/edits'
import { say, select, useShot } from '../../store'
import { edit } from '../../session'
import { newPart, newPartWords, newSubject, subjectAtHand } from '../../commands'
import { DepthList } from './DepthList'
import { SubjectTree } from './SubjectTree'
import { TrackList } from './TrackList'
import styles from './subjects.module.css'

type Face = 'Tree' | 'Depth' | 'Tracks'

/** The same Parts twice: who carries whom, and who stands before whom; and the tracks of the shot. */
export function SubjectsPanel() {
  // Tracks lie open while one tracks, until the artist says otherwise.
  const isTracking = useShot((state) => state.step === 'Track')
  const [chosen, setChosen] = useState<{ face: Face; isTracking: boolean } | null>(null)
  const face = chosen?.isTracking === isTracking ? chosen.face : isTracking ? 'Tracks' : 'Tree'
  // Before the shot is read, that nothing is in it would not be true.
  const isRead = useShot(({ document }) => document !== EMPTY_DOCUMENT)
  const setFace = (next: Face) => setChosen({ face: next, isTracking })
  const addSubject = () => {
    const { document } = useShot.getState()
    const subject = newSubject(document)
    edit(`add ${subject.name}`, [objectAdded(subject)])
  }
  const addPart = () => {
    const { document, selection } = useShot.getState()
    const current = selection.partId ? document.objects.get(selection.partId) : undefined
    const made = newPart(
      document,
      current?.kind === 'part' ? current.subjectId : subjectAtHand(document, useShot.getState().lastSubjectId),
    )
    if (edit(`add ${made.part.name}`, made.patches)) {
      select({ partId: made.part.id, shapeIds: [], pointIds: new Set(), trackIds: [] })
      const { document: now, frame } = useShot.getState()
      say('said', newPartWords(now, made.part, frame))
    }
  }
  return (
    <section className={styles.panel} aria-label="Subjects">
      <header className={styles.header}>
        <span>Subjects</span>
        <span className={styles.tools}>
          <Segmented<Face> size="small" value={face} options={['Tree', 'Depth', 'Tracks']} onChange={setFace} />
        </span>
      </header>
      {face === 'Tracks' ? (
        isRead && <TrackList />
      ) : (
        <div className={styles.scroll}>{isRead && (face === 'Tree' ? <SubjectTree /> : <DepthList />)}</div>
      )}
      {face !== 'Tracks' && (
        <footer className={styles.footer}>
          <Tooltip title="A person or object of the shot that gets mattes" mouseEnterDelay={0.6}>
            <Button size="small" type="text" icon={<Plus size={13} />} onClick={addSubject}>
              Subject
            </Button>
          </Tooltip>
          <Tooltip title="A piece of the Subject that moves as one" mouseEnterDelay={0.6}>
            <Button size="small" type="text" icon={<Plus size={13} />} onClick={addPart}>
              Part
            </Button>
          </Tooltip>
        </footer>
      )}
    </section>
  )
}
