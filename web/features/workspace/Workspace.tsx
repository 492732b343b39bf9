'use client'

import { useDeferredValue, useEffect } from 'react'
import { preload } from 'react-dom'
import Link from 'next/link'
import { Button, Result, Spin, Splitter } from 'antd'
import { useShot, type ShotInfo } from '../../store'
import { openShot } from '../../session'
import { watchDelivery, watchPixelsUsed, watchTrackReadiness } from '../../commands'
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
import { StepsRail } from './StepsRail'
import { PANEL_BOUNDS, setPanelSizes, usePanelSizes } from './usePanelSizes'
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
  const sizes = usePanelSizes()
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
  useEffect(() => watchTrackReadiness(), [])
  useEffect(() => watchDelivery(), [])

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
  const [leastRight, mostRight] = PANEL_BOUNDS.right
  const [leastLower, mostLower] = PANEL_BOUNDS[lower]
  const [leastSubjects, mostSubjects] = PANEL_BOUNDS.subjects
  return (
    <main className={panelsHidden ? styles.bare : styles.workspace}>
      {!panelsHidden && <div>{hasPanels && <Header />}</div>}
      <Splitter
        orientation="vertical"
        className={styles.rows}
        onResize={([, height]) => setPanelSizes({ [lower]: height })}
      >
        <Splitter.Panel className={styles.row}>
          {!panelsHidden && <div className={styles.left}>{hasPanels && <StepsRail />}</div>}
          <Splitter className={styles.columns} onResize={([, width]) => setPanelSizes({ right: width })}>
            <Splitter.Panel className={styles.centre}>
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
            </Splitter.Panel>
            {!panelsHidden && (
              <Splitter.Panel size={sizes.right} min={leastRight} max={mostRight} className={styles.right}>
                {hasPanels && (
                  <>
                    <Splitter
                      orientation="vertical"
                      className={styles.rows}
                      onResize={([height]) => setPanelSizes({ subjects: height })}
                    >
                      <Splitter.Panel size={sizes.subjects} min={leastSubjects} max={mostSubjects}>
                        <SubjectsPanel />
                      </Splitter.Panel>
                      <Splitter.Panel className={styles.lowerRight}>
                        <ReportsPanel />
                        <div className={styles.properties}>
                          <PropertiesPanel />
                        </div>
                      </Splitter.Panel>
                    </Splitter>
                    <HistoryPanel />
                  </>
                )}
              </Splitter.Panel>
            )}
          </Splitter>
        </Splitter.Panel>
        {!panelsHidden && (
          <Splitter.Panel size={sizes[lower]} min={leastLower} max={mostLower} className={styles.bottom}>
            {hasPanels && <Timeline />}
          </Splitter.Panel>
        )}
      </Splitter>
      <KeyboardSheet />
    </main>
  )
}
