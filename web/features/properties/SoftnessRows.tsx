'use client'

import dynamic from 'next/dynamic'
import { useMemo } from 'react'
import { create } from 'zustand'
import { persist } from 'zustand/middleware'
import type { ApexOptions } from 'apexcharts'
import { Button, Segmented } from 'antd'
import type { Shape } from '@tender-lasso/core/document'
import type { Softening } from '@tender-lasso/core/evaluation'
import { edgeSpread, type EdgeMeasure, type Softness } from '@tender-lasso/core/measures'
import {
  dropSoftness,
  framesToMeasure,
  measureSoftness,
  takeOverSoftness,
  takeOverSoftnessAtPoints,
} from '../../commands'
import {
  settingsStorage,
  shownSoftness,
  usePointerPlace,
  useShot,
  type MeasuredFrames,
  type SoftnessOnFrame,
  type SoftnessReport,
} from '../../store'
import { CALM_CHART } from '../../theme/calmChart'
import { MeasuredReport } from './MeasuredReport'
import { MeasuringRow } from './MeasuringRow'
import styles from './properties.module.css'

const Chart = dynamic(() => import('react-apexcharts'), { ssr: false })

const FRAMES = [
  { value: 'here', label: 'Here', title: 'On this frame' },
  { value: 'keys', label: 'Keys', title: 'On the frames of the outline keys' },
  { value: 'range', label: 'Span', title: 'On up to 24 frames of the marked stretch, or of the shot' },
] as const

const SOFTENINGS = [
  { value: 'feather', label: 'Feather', title: 'A ramp as wide as the plate is soft' },
  {
    value: 'focus',
    label: 'Focus blur',
    title: 'A Gaussian with the sigma that was measured; the line is grown to where the edge lies',
  },
] as const

interface SoftnessSettings {
  /** Frames that are looked at. */
  which: MeasuredFrames
  /** What becomes of the softness. */
  as: Softening
}

/** Remembered. */
const useSoftnessSettings = create<SoftnessSettings>()(
  persist((): SoftnessSettings => ({ which: 'here', as: 'feather' }), {
    name: 'softness-frames',
    storage: settingsStorage<SoftnessSettings>(),
    merge: (stored, usual) => {
      const { which, as } = { ...(stored as Partial<Record<keyof SoftnessSettings, unknown>> | undefined) }
      return {
        which: FRAMES.find(({ value }) => value === which)?.value ?? usual.which,
        as: SOFTENINGS.find(({ value }) => value === as)?.value ?? usual.as,
      }
    },
  }),
)

/** How soft the plate is along the selected shapes, to be taken over as their feather or their focus blur. */
export function SoftnessRows({ shapes }: { shapes: readonly Shape[] }) {
  const report = useShot(shownSoftness)
  const { which, as } = useSoftnessSettings()
  // What is marked says how many frames that are.
  useShot((state) => state.range)
  const count = framesToMeasure(which, shapes).length
  const hasPoints = useShot((state) => state.selection.pointIds.size > 0)
  const words = which === 'here' ? 'Measure on this frame' : `Measure on ${count} ${count === 1 ? 'frame' : 'frames'}`
  return (
    <>
      <div className={styles.row}>
        <span>Softness</span>
        <Segmented
          size="small"
          block
          aria-label="Frames to measure softness on"
          options={[...FRAMES]}
          value={which}
          onChange={(value) => useSoftnessSettings.setState({ which: value })}
        />
      </div>
      <MeasuringRow
        what="softness"
        help="Fits the plate's edge along the selected outlines, with the motion within the shutter taken out: clear edges only"
        action={words}
        disabled={count === 0}
        onStart={() => void measureSoftness(which)}
      />
      {report && report.frames.some(({ softness }) => softness) && (
        <MeasuredReport of={report}>
          <p className={styles.hint} data-testid="softness">
            {wordsFor(report)}
          </p>
          {report.frames.length === 1 ? (
            <ProfileChart ofShapes={report.frames[0]!.ofShapes} softness={report.frames[0]!.softness!} />
          ) : (
            <OverTime report={report} />
          )}
          <div className={styles.row}>
            <span>Take over as</span>
            <Segmented
              size="small"
              block
              aria-label="What the softness becomes"
              options={[...SOFTENINGS]}
              value={as}
              onChange={(value) => useSoftnessSettings.setState({ as: value })}
            />
          </div>
          <div className={styles.buttons}>
            <Button size="small" type="primary" title="The same all round" onClick={() => takeOverSoftness(as)}>
              Take over
            </Button>
            <Button
              size="small"
              title={
                hasPoints
                  ? 'Each of the selected points as soft as the plate is beside it'
                  : 'Each point as soft as the plate is beside it; those without a clear edge as their neighbours'
              }
              onClick={() => takeOverSoftnessAtPoints(as)}
            >
              Point by point
            </Button>
            <Button size="small" onClick={dropSoftness}>
              Leave it
            </Button>
          </div>
        </MeasuredReport>
      )}
    </>
  )
}

function wordsFor({ frames }: SoftnessReport): string {
  const found = frames.flatMap(({ softness }) => softness ?? [])
  if (frames.length === 1) return wordsOfOne(found[0]!)
  const sigmas = found.map(({ sigma }) => sigma)
  const [clear, all] = found.reduce(([c, a], one) => [c + one.clear, a + one.all], [0, 0])
  return `Sigma ${Math.min(...sigmas).toFixed(2)} to ${Math.max(...sigmas).toFixed(2)} px on ${found.length} of ${frames.length} frames; ${clear} of ${all} places are clear.`
}

function wordsOfOne({ sigma, sigmaSpread, place, clear, all }: Softness): string {
  const off = Math.abs(place) < 0.05 ? 'on the line' : `${Math.abs(place).toFixed(1)} px ${place > 0 ? 'outside' : 'inside'} it` // prettier-ignore
  return `Sigma ${sigma.toFixed(2)} px ± ${sigmaSpread.toFixed(2)}, edge ${off}; ${clear} of ${all} places are clear.`
}

/** Pixels to both sides that are charted. */
const REACH = 8
/** Pixels of the screen within which a place under the pointer is meant. */
const NEAR = 12

/** The clear place under the pointer; null where it points at none. */
function usePointedPlace(measures: readonly EdgeMeasure[]) {
  const pointer = usePointerPlace(({ place }) => place)
  const zoom = useShot((state) => state.view.zoom)
  return useMemo(() => {
    if (!pointer) return null
    const away = ({ place }: EdgeMeasure) => Math.hypot(place.x - pointer[0], place.y - pointer[1])
    const clear = measures.filter((one) => one.fit)
    const nearest = clear.reduce<EdgeMeasure | null>(
      (best, one) => (!best || away(one) < away(best) ? one : best),
      null,
    )
    return nearest?.fit && away(nearest) * zoom < NEAR ? { ...nearest, fit: nearest.fit } : null
  }, [measures, pointer, zoom])
}

/**
 * The profile and its fit at the place under the pointer; where it points at none, fitted profiles of the clear places about where each has its step, from full
 * to empty, and over them that of their middle.
 */
function ProfileChart({ ofShapes, softness }: { ofShapes: SoftnessOnFrame['ofShapes']; softness: Softness }) {
  const measures = useMemo(() => ofShapes.flatMap((one) => one.measures), [ofShapes])
  const pointed = usePointedPlace(measures)
  const series = useMemo(() => {
    const places = Array.from({ length: 4 * REACH + 1 }, (_, i) => i / 2 - REACH)
    const line = (name: string, sigma: number, box: number, at: number) => ({
      name,
      data: places.map((x) => ({ x, y: 1 - edgeSpread(x - at, Math.max(0.1, sigma), box)[0] })),
    })
    if (pointed) {
      const { fit, place, profile } = pointed
      const seen = profile.filter(({ distance }) => Math.abs(distance) <= REACH)
      const level = (value: number) => (value - fit.outside) / (fit.inside - fit.outside)
      return [
        { name: 'plate', data: seen.map(({ distance, value }) => ({ x: distance, y: level(value) })) },
        line('fit', fit.sigma, place.sweep, fit.place),
      ]
    }
    const fits = measures.flatMap(({ fit, place }) => (fit ? [{ fit, sweep: place.sweep }] : []))
    const every = Math.max(1, Math.ceil(fits.length / 12))
    return [
      ...fits
        .filter((_, i) => i % every === 0)
        .map(({ fit, sweep }, i) => line(`place ${i + 1}`, fit.sigma, sweep, fit.place)),
      line('taken over', softness.sigma, 0, softness.place),
    ]
  }, [measures, softness, pointed])
  const options = useMemo(
    (): ApexOptions => ({
      ...CHART,
      colors: [...series.slice(1).map(() => (pointed ? '#ece9e2' : '#6f6c67')), '#6fb3a0'],
      stroke: { width: [...series.slice(1).map(() => (pointed ? 1.4 : 1)), 2], curve: 'straight' },
      xaxis: {
        type: 'numeric',
        min: -REACH,
        max: REACH,
        tickAmount: 4,
        labels: { formatter: (value) => `${Math.round(Number(value))} px`, style: { fontSize: '10px' } },
        axisTicks: { show: false },
      },
      yaxis: {
        min: pointed ? -0.2 : 0,
        max: pointed ? 1.2 : 1,
        tickAmount: 2,
        labels: { formatter: (value) => value.toFixed(1) },
      },
    }),
    [series, pointed],
  )
  return (
    <>
      <div role="img" className={styles.chart} aria-label="Profiles across the edge, from inside to outside">
        <Chart type="line" height={132} options={options} series={series} />
      </div>
      <p className={styles.hint}>
        {pointed
          ? `Here sigma ${pointed.fit.sigma.toFixed(2)} px ± ${pointed.fit.sigmaError.toFixed(2)}.`
          : 'Point at a bar in the picture for its own profile.'}
      </p>
    </>
  )
}

/** Softness over the frames that were looked at, with how far half of the places lie from it. */
function OverTime({ report }: { report: SoftnessReport }) {
  const series = useMemo(() => {
    const clear = report.frames.flatMap(({ frame, softness }) => (softness ? [{ frame, softness }] : []))
    return [
      { name: 'sigma', data: clear.map(({ frame, softness }) => ({ x: frame, y: softness.sigma })) },
      {
        name: 'above',
        data: clear.map(({ frame, softness: { sigma, sigmaSpread } }) => ({ x: frame, y: sigma + sigmaSpread })),
      },
      {
        name: 'below',
        data: clear.map(({ frame, softness: { sigma, sigmaSpread } }) => ({
          x: frame,
          y: Math.max(0, sigma - sigmaSpread),
        })),
      },
    ]
  }, [report])
  const options = useMemo(
    (): ApexOptions => ({
      ...CHART,
      colors: ['#6fb3a0', '#6f6c67', '#6f6c67'],
      stroke: { width: [2, 1, 1], curve: 'straight' },
      xaxis: { type: 'numeric', tickAmount: 4, decimalsInFloat: 0, labels: { formatter: (value) => `${Math.round(Number(value))}`, style: { fontSize: '10px' } }, axisTicks: { show: false } }, // prettier-ignore
      yaxis: { min: 0, tickAmount: 2, labels: { formatter: (value) => `${value.toFixed(1)} px` } },
    }),
    [],
  )
  return (
    <div role="img" className={styles.chart} aria-label="Softness over the frames">
      <Chart type="line" height={132} options={options} series={series} />
    </div>
  )
}

const CHART: ApexOptions = {
  chart: CALM_CHART,
  theme: { mode: 'dark' },
  markers: { size: 0 },
  grid: { borderColor: '#303030', padding: { left: 4, right: 8, top: -18, bottom: 0 } },
  legend: { show: false },
  tooltip: { enabled: false },
}
