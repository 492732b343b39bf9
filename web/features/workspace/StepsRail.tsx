'use client'

import { Tooltip } from 'antd'
import { Binoculars, CheckCheck, Layers, PackageOpen, Route, Spline, Waves, type LucideIcon } from 'lucide-react'
import { takeStep, useShot, STEPS, type Step } from '../../store'
import styles from './workspace.module.css'

const LOOK: Record<Step, { icon: LucideIcon; words: string }> = {
  Study: { icon: Binoculars, words: 'Look at the shot and break it down' },
  Track: { icon: Route, words: 'Follow flat surfaces' },
  Shape: { icon: Spline, words: 'Draw outlines and correct them over time' },
  Edge: { icon: Waves, words: 'Softness, growth and motion blur' },
  Order: { icon: Layers, words: 'What stands in front of what' },
  Check: { icon: CheckCheck, words: 'Look at the mattes' },
  Handoff: { icon: PackageOpen, words: 'Write the mattes' },
}

export function StepsRail() {
  const current = useShot((state) => state.step)
  return (
    <nav className={styles.rail} aria-label="Steps">
      {STEPS.map((step, i) => {
        const Icon = LOOK[step].icon
        return (
          <Tooltip key={step} title={`${LOOK[step].words} (Alt ${i + 1})`} placement="right" mouseEnterDelay={0.6}>
            <button
              type="button"
              className={step === current ? styles.stepActive : styles.step}
              aria-current={step === current ? 'step' : undefined}
              onClick={() => takeStep(step)}
            >
              <Icon size={17} strokeWidth={1.5} />
              <span>{step}</span>
            </button>
          </Tooltip>
        )
      })}
    </nav>
  )
}
