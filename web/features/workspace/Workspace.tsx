'use client'

import { useDeferredValue, useEffect, useRef } from 'react'
import { preload } from 'react-dom'
import Link from 'next/link'
import { Button, Result, Spin } from 'antd'
import { useShot, type ShotInfo } from '../../store'
import { openShot } from '../../session'
import { watchPixelsUsed } from '../../commands'
import { Viewer } from '../../viewer/Viewer'
import { Header } from '../header/Header'
import { HistoryPanel } from '../history/HistoryPanel'
import { KeyboardSheet } from '../keyboard/KeyboardSheet'
import { useKeyboard } from '../keyboard/useKeyboard'
import { PropertiesPanel } from '../properties/PropertiesPanel'
import { ReportsPanel } from '../reports/ReportsPanel'
import { ToolStrip } from '../strips/ToolStrip'
import { ViewStrip } from '../strips/ViewStrip'
import { SubjectsPanel } from '../subjects/SubjectsPanel'
import { Timeline } from '../timeline/Timeline'
import { InBrowser } from '../../theme/InBrowser'
import { Splitter } from './Splitter'
import { StepsRail } from './StepsRail'
import { usePanelSizes } from './usePanelSizes'
import styles from './workspace.module.css'

/** What the server knows of a shot when its page is asked for. */
export type Opening = { info: ShotInfo; failure?: undefined } | { info?: undefined; failure: string }

/** One shot: steps left, picture in the middle, Parts and properties right, time below. */
export function Workspace({ opening }: { opening: Opening }) {
  return (
    <InBrowser>
      <Panels opening={opening} />
    </InBrowser>
  )
}

function Panels({ opening }: { opening: Opening }) {
  const info = useShot((state) => state.info)
  // The picture first: panels are made behind it, in slices that let it through.
  const arePanelsDue = useDeferredValue(true, false)
  const panelsHidden = useShot((state) => state.panelsHidden)
  const hasPanels = arePanelsDue && !panelsHidden
  const [sizes, setSizes] = usePanelSizes()
  const start = useRef(sizes)
  const lower = useShot((state) => (state.timelineFace === 'threads' ? 'threads' : 'faces'))
  useKeyboard()
  useEffect(() => void useShot.persist.rehydrate(), [])

  const { info: shot, failure } = opening
  // On its way while the viewer is made.
  if (shot) preload(`/api/shots/${shot.id}/document`, { as: 'fetch', crossOrigin: 'anonymous' })
  useEffect(() => {
    if (shot) return openShot(shot, localStorage.getItem('artist') ?? 'Artist')
  }, [shot])

  useEffect(() => watchPixelsUsed(), [])

  if (failure) {
    return (
      <Result
        status="warning"
        title="This shot cannot be opened"
        subTitle={failure}
        extra={
          <Link href="/">
            <Button type="primary">To the Shot board</Button>
          </Link>
        }
      />
    )
  }
  const begin = () => (start.current = sizes)
  return (
    <main
      className={panelsHidden ? styles.bare : styles.workspace}
      style={
        {
          '--right': `${sizes.right}px`,
          '--bottom': `${sizes[lower]}px`,
          '--subjects': `${sizes.subjects}px`,
        } as React.CSSProperties
      }
    >
      {hasPanels && (
        <>
          <div className={styles.top}>
            <Header />
          </div>
          <div className={styles.left}>
            <StepsRail />
          </div>
        </>
      )}
      <div className={styles.centre}>
        {!panelsHidden && <div className={styles.strip}>{hasPanels && <ToolStrip />}</div>}
        <div className={styles.picture}>
          <Viewer />
          {!info && (
            <div className={styles.loading}>
              <Spin />
            </div>
          )}
        </div>
        {!panelsHidden && <div className={styles.strip}>{hasPanels && <ViewStrip />}</div>}
      </div>
      {hasPanels && (
        <>
          <div className={styles.right}>
            <Splitter
              axis="x"
              label="Width of the panels"
              onStart={begin}
              onDrag={(way) => setSizes({ right: start.current.right - way })}
            />
            <div className={styles.subjects}>
              <SubjectsPanel />
            </div>
            <Splitter
              axis="y"
              label="Height of Subjects"
              onStart={begin}
              onDrag={(way) => setSizes({ subjects: start.current.subjects + way })}
            />
            <ReportsPanel />
            <div className={styles.properties}>
              <PropertiesPanel />
            </div>
            <HistoryPanel />
          </div>
          <div className={styles.bottom}>
            <Splitter
              axis="y"
              label="Height of the timeline"
              onStart={begin}
              onDrag={(way) => setSizes({ [lower]: start.current[lower] - way })}
            />
            <Timeline />
          </div>
        </>
      )}
      <KeyboardSheet />
    </main>
  )
}
