'use client'

import dynamic from 'next/dynamic'
import { useMemo } from 'react'
import type { ApexOptions } from 'apexcharts'
import { Button } from 'antd'
import { edgeSpread, type EdgeMeasure, type Softness } from '@tender-lasso/core/measures'
import { dropSoftness, measureSoftness, takeOverSoftness } from '../../commands'
import { shownSoftness, useShot } from '../../store'
import { CALM_CHART } from '../../theme/calmChart'
import styles from './properties.module.css'

const Chart = dynamic(() => import('react-apexcharts'), { ssr: false })

/** How soft the plate is along the selected shapes, measured on this frame, to be taken over as their feather. */
export function SoftnessRows() {
  const report = useShot(shownSoftness)
  return (
    <>
      <div
        className={styles.row}
        title="Fits the plate's edge along the selected outlines, with the motion within the shutter taken out: clear edges only"
      >
        <span>Softness</span>
        <Button size="small" onClick={() => void measureSoftness()}>
          Measure on this frame
        </Button>
      </div>
      {report?.softness && (
        <>
          <p className={styles.hint} data-testid="softness">
            {wordsFor(report.softness)}
          </p>
          <ProfileChart measures={report.measures} softness={report.softness} />
          <div className={styles.buttons}>
            <Button size="small" type="primary" onClick={takeOverSoftness}>
              Take over
            </Button>
            <Button size="small" onClick={dropSoftness}>
              Leave it
            </Button>
          </div>
        </>
      )}
    </>
  )
}

function wordsFor({ sigma, sigmaSpread, place, clear, all }: Softness): string {
  const off = Math.abs(place) < 0.05 ? 'on the line' : `${Math.abs(place).toFixed(1)} px ${place > 0 ? 'outside' : 'inside'} it` // prettier-ignore
  return `Sigma ${sigma.toFixed(2)} px ± ${sigmaSpread.toFixed(2)}, edge ${off}; ${clear} of ${all} places are clear.`
}

/** Pixels to both sides that are charted. */
const REACH = 8

/** Fitted profiles of the clear places about where each has its step, from full to empty, and over them that of their middle. */
function ProfileChart({ measures, softness }: { measures: readonly EdgeMeasure[]; softness: Softness }) {
  const series = useMemo(() => {
    const places = Array.from({ length: 4 * REACH + 1 }, (_, i) => i / 2 - REACH)
    const fits = measures.flatMap(({ fit, place }) => (fit ? [{ fit, sweep: place.sweep }] : []))
    const every = Math.max(1, Math.ceil(fits.length / 12))
    const line = (name: string, sigma: number, box: number, at: number) => ({
      name,
      data: places.map((x) => ({ x, y: 1 - edgeSpread(x - at, Math.max(0.1, sigma), box)[0] })),
    })
    return [
      ...fits
        .filter((_, i) => i % every === 0)
        .map(({ fit, sweep }, i) => line(`place ${i + 1}`, fit.sigma, sweep, fit.place)),
      line('taken over', softness.sigma, 0, softness.place),
    ]
  }, [measures, softness])
  const options = useMemo(
    (): ApexOptions => ({
      chart: CALM_CHART,
      theme: { mode: 'dark' },
      colors: [...series.slice(1).map(() => '#6f6c67'), '#6fb3a0'],
      stroke: { width: [...series.slice(1).map(() => 1), 2], curve: 'straight' },
      markers: { size: 0 },
      grid: { borderColor: '#303030', padding: { left: 4, right: 8, top: -18, bottom: 0 } },
      legend: { show: false },
      tooltip: { enabled: false },
      xaxis: {
        type: 'numeric',
        min: -REACH,
        max: REACH,
        tickAmount: 4,
        labels: { formatter: (value) => `${Math.round(Number(value))} px`, style: { fontSize: '10px' } },
        axisTicks: { show: false },
      },
      yaxis: { min: 0, max: 1, tickAmount: 2, labels: { formatter: (value) => value.toFixed(1) } },
    }),
    [series],
  )
  return (
    <div role="img" className={styles.chart} aria-label="Profiles across the edge, from inside to outside">
      <Chart type="line" height={132} options={options} series={series} />
    </div>
  )
}
