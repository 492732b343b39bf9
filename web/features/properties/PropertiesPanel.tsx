'use client'

import { useShallow } from 'zustand/react/shallow'
import { useEffect, useRef, useState, type ReactNode } from 'react'
import { find } from '@tender-lasso/core/document'
import { mainTrackId, useShot } from '../../state/shotStore'
import type { Step } from '../../state/steps'
import { HandoffSection } from '../handoff/HandoffSection'
import { EdgeSection } from './EdgeSection'
import { EditingSection } from './EditingSection'
import { HoldoutSection } from './HoldoutSection'
import { MotionBlurSection } from './MotionBlurSection'
import { MoverSection } from './MoverSection'
import { PoseSection } from './PoseSection'
import { ShapeSection } from './ShapeSection'
import { StudySection } from './StudySection'
import { CombineSection } from '../track/CombineSection'
import { LeaveOutSection } from '../track/LeaveOutSection'
import { LookSection } from '../track/LookSection'
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
  Handoff: ['Handoff', 'Track data'],
}

export function PropertiesPanel() {
  const step = useShot((state) => state.step)
  const isProving = useShot((state) => state.tool === 'grid' || state.view.proofLaid !== null)
  const { document, selection } = useShot(useShallow(({ document, selection }) => ({ document, selection })))
  const part = selection.partId ? find(document, 'part', selection.partId) : undefined
  const trackId = mainTrackId(selection)
  const track = trackId ? find(document, 'track', trackId) : undefined
  const shape = selection.shapeIds[0] ? find(document, 'shape', selection.shapeIds[0]) : undefined
  const title = track?.name ?? [part?.name, shape?.name].filter(Boolean).join(', ')
  return (
    <section className={styles.panel} aria-label="Properties">
      <header className={styles.header}>
        <span>Properties</span>
        <span className={styles.what}>{title || 'nothing selected'}</span>
      </header>
      <div className={styles.scroll}>
        {track && (
          <>
            {selection.trackIds.length > 1 && (
              <Section name="Together" step={step}>
                <CombineSection />
              </Section>
            )}
            <Section name="Track" step={step}>
              <TrackSection track={track} />
            </Section>
            <Section name="What it looks at" step={step}>
              <LookSection track={track} />
            </Section>
            <Section name="Left out" step={step}>
              <LeaveOutSection track={track} />
            </Section>
            <Section name="Repair" step={step}>
              <RepairSection track={track} />
            </Section>
            <Section name="Smooth" step={step}>
              <SmoothSection track={track} />
            </Section>
            <Section name="Proof" step={step} openAnyway={isProving}>
              <ProofSection track={track} />
            </Section>
            <Section name="Track data" step={step}>
              <TrackDataSection />
            </Section>
          </>
        )}
        {part && shape && (
          <Section name="Shape" step={step}>
            <ShapeSection part={part} shape={shape} />
          </Section>
        )}
        {step === 'Shape' && part && (
          <Section name="Editing" step={step}>
            <EditingSection />
          </Section>
        )}
        {part && (
          <>
            <Section name="Pose" step={step} openAnyway={step === 'Shape' && !shape}>
              <PoseSection part={part} />
            </Section>
            <Section name="Mover" step={step}>
              <MoverSection part={part} />
            </Section>
            <Section name="Edge" step={step}>
              <EdgeSection />
            </Section>
            <Section name="Motion blur" step={step}>
              <MotionBlurSection part={part} />
            </Section>
          </>
        )}
        {part && (
          <Section name="Depth and holdout" step={step}>
            <HoldoutSection />
          </Section>
        )}
        {step === 'Handoff' && (
          <Section name="Handoff" step={step}>
            <HandoffSection />
          </Section>
        )}
        {(step === 'Study' || step === 'Check' || (!part && !track && step !== 'Handoff')) && (
          <Section name="Shot" step={step} openAnyway={!part && !track}>
            <StudySection />
          </Section>
        )}
      </div>
    </section>
  )
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
  const place = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (openAnyway) place.current?.scrollIntoView({ block: 'nearest' })
  }, [openAnyway])
  return (
    <div ref={place} className={styles.section}>
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
