'use client'

import { useShallow } from 'zustand/react/shallow'
import { useState, type ReactNode } from 'react'
import { findObject } from '@tender-lasso/core/document'
import { mainTrackId, useShot, type Step } from '../../store'
import { OutputSection } from '../handoff/OutputSection'
import { ShotDataSection } from '../handoff/ShotDataSection'
import { useBroughtIntoSight } from './broughtIntoSight'
import { EdgeSection } from './EdgeSection'
import { EditingSection } from './EditingSection'
import { HoldoutSection } from './HoldoutSection'
import { InstanceSection } from './InstanceSection'
import { MotionBlurSection } from './MotionBlurSection'
import { MoverSection } from './MoverSection'
import { PoseSection } from './PoseSection'
import { ShapeSection } from './ShapeSection'
import { StudySection } from './StudySection'
import { CombineSection } from '../track/CombineSection'
import { LeaveOutSection } from '../track/LeaveOutSection'
import { PreprocessingSection } from '../track/PreprocessingSection'
import { ProofSection } from '../track/ProofSection'
import { RepairSection } from '../track/RepairSection'
import { SmoothSection } from '../track/SmoothSection'
import { TrackDataSection } from '../track/TrackDataSection'
import { TrackSection } from '../track/TrackSection'
import styles from './properties.module.css'

/** Which sections a step opens; the others stay a click away. */
const OPENED_BY: Record<Step, readonly string[]> = {
  Study: ['Shot'],
  Track: ['Together', 'Track', 'What it looks at', 'Repair', 'Mover'],
  Shape: ['Shape', 'Mover'],
  Edge: ['Edge', 'Motion blur'],
  Order: ['Depth and holdout'],
  Check: ['Shot'],
  Handoff: ['Output', 'Track data'],
}

export function PropertiesPanel() {
  const step = useShot((state) => state.step)
  const isProving = useShot((state) => state.tool === 'grid' || state.view.proofLaid !== null)
  const { document, selection } = useShot(useShallow(({ document, selection }) => ({ document, selection })))
  const part = selection.partId ? findObject(document, 'part', selection.partId) : undefined
  const trackId = mainTrackId(selection)
  const track = trackId ? findObject(document, 'track', trackId) : undefined
  const shape = selection.shapeIds[0] ? findObject(document, 'shape', selection.shapeIds[0]) : undefined
  const title = track?.name ?? [part?.name, shape?.name].filter(Boolean).join(', ')
  const isAll = !part && !track
  const sections: SectionPlan[] = [
    ...(track
      ? [
          ...(selection.trackIds.length > 1 ? [{ name: 'Together', content: <CombineSection /> }] : []),
          { name: 'Track', content: <TrackSection track={track} /> },
          { name: 'What it looks at', content: <PreprocessingSection track={track} /> },
          { name: 'Left out', content: <LeaveOutSection track={track} /> },
          { name: 'Repair', content: <RepairSection track={track} /> },
          { name: 'Smooth', content: <SmoothSection track={track} /> },
          { name: 'Proof', content: <ProofSection track={track} />, openAnyway: isProving },
          { name: 'Track data', content: <TrackDataSection /> },
        ]
      : []),
    ...(part && shape ? [{ name: 'Shape', content: <ShapeSection part={part} shape={shape} /> }] : []),
    ...(step === 'Shape' && part ? [{ name: 'Editing', content: <EditingSection /> }] : []),
    ...(part?.instance ? [{ name: 'Follows', content: <InstanceSection part={part} />, openAnyway: true }] : []),
    ...(part
      ? [
          { name: 'Pose', content: <PoseSection part={part} />, openAnyway: step === 'Shape' && !shape },
          { name: 'Mover', content: <MoverSection part={part} /> },
          { name: 'Edge', content: <EdgeSection /> },
          { name: 'Motion blur', content: <MotionBlurSection part={part} /> },
          { name: 'Depth and holdout', content: <HoldoutSection /> },
        ]
      : []),
    ...(step === 'Handoff'
      ? [
          { name: 'Output', content: <OutputSection /> },
          { name: 'Shot data', content: <ShotDataSection /> },
        ]
      : []),
    ...(step === 'Study' || step === 'Check' || (isAll && step !== 'Handoff')
      ? [{ name: 'Shot', content: <StudySection />, openAnyway: isAll }]
      : []),
  ]
  // What the step is about stands at the top, in its own order; the others follow.
  const rank = ({ name, openAnyway }: SectionPlan) => (openAnyway || OPENED_BY[step].includes(name) ? 0 : 1)
  return (
    <section className={styles.panel} aria-label="Properties">
      <header className={styles.header}>
        <span>Properties</span>
        <span className={styles.what}>{title || 'nothing selected'}</span>
      </header>
      <div className={styles.scroll}>
        {sections
          .toSorted((a, b) => rank(a) - rank(b))
          .map(({ name, content, openAnyway }) => (
            <Section key={name} name={name} step={step} openAnyway={openAnyway}>
              {content}
            </Section>
          ))}
      </div>
    </section>
  )
}

interface SectionPlan {
  name: string
  content: ReactNode
  openAnyway?: boolean
}

function Section({
  name,
  step,
  openAnyway = false,
  children,
}: {
  name: string
  step: Step
  openAnyway?: boolean
  children: ReactNode
}) {
  // The artist's own choice holds within a step; another step opens what belongs to it.
  const [chosen, setChosen] = useState<{ step: Step; isOpen: boolean } | null>(null)
  const isOpen = chosen?.step === step ? chosen.isOpen : openAnyway || OPENED_BY[step].includes(name)
  return (
    <div ref={useBroughtIntoSight(openAnyway)} className={styles.section}>
      <button
        type="button"
        className={styles.sectionName}
        aria-expanded={isOpen}
        onClick={() => setChosen({ step, isOpen: !isOpen })}
      >
        <span className={styles.fold} aria-hidden>
          {isOpen ? '▾' : '▸'}
        </span>
        {name}
      </button>
      {isOpen && <div className={styles.rows}>{children}</div>}
    </div>
  )
}
