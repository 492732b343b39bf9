'use client'

import dynamic from 'next/dynamic'
import { useMemo, useState } from 'react'
import type { ApexOptions } from 'apexcharts'
import { Segmented } from 'antd'
import { findObject, type Track } from '@tender-lasso/core/document'
import { rawSamplesOf, sampleAt, motionSamplesOf } from '@tender-lasso/core/evaluation'
import { goTo, mainTrackId, shotRange, useShot } from '../../store'
import { CALM_CHART } from '../../theme/calmChart'
import { TRACK_LANES } from '../timeline/timelineTracks'
import { channelCurve, TRACK_CHANNELS, type TrackChannel } from '../curves/channels'
import styles from './track.module.css'

const Chart = dynamic(() => import('react-apexcharts'), { ssr: false })

const GROUPS = ['Measures', 'Position', 'Rotation, scale', 'Perspective'] as const
type Group = (typeof GROUPS)[number]

const CHANNELS_OF: Record<Exclude<Group, 'Measures'>, readonly number[]> = {
  Position: [0, 1],
  'Rotation, scale': [2, 3, 4],
  Perspective: [5, 6, 7],
}

type Line = { name: string; data: { x: number; y: number | null }[] }

/** Measures and channels of the selected track over all frames; a click goes to the frame. */
export function ChartsFace() {
  const trackId = useShot((state) => mainTrackId(state.selection))
  const track = useShot((state) => (trackId ? findObject(state.document, 'track', trackId) : undefined))
  const [group, setGroup] = useState<Group>('Measures')
  if (!track) return <p className={styles.empty}>Select a track: its measures and channels are charted here.</p>
  return (
    <div className={styles.face}>
      <div className={styles.channels}>
        <Segmented<Group> vertical size="small" value={group} options={[...GROUPS]} onChange={setGroup} />
      </div>
      <div className={styles.charts}>
        {group === 'Measures'
          ? TRACK_LANES.map((lane) => (
              <FrameChart
                key={lane.name}
                title={lane.words}
                lines={[measureLine(lane.name, (frame) => {
                  const sample = sampleAt(track, frame)
                  return sample?.state === 'tracked' ? lane.valueOf(sample) : null
                })]} // prettier-ignore
                floor={lane.name === 'match' ? track.minimumMatch : null}
              />
            ))
          : CHANNELS_OF[group].map((index) => (
              <FrameChart
                key={index}
                title={`${TRACK_CHANNELS[index]!.name} ${TRACK_CHANNELS[index]!.unit}`}
                lines={channelLines(track, TRACK_CHANNELS[index]!)}
                floor={null}
              />
            ))}
      </div>
    </div>
  )
}

function measureLine(name: string, valueOn: (frame: number) => number | null): Line {
  const [first, last] = shotRange()
  return {
    name,
    data: Array.from({ length: last - first + 1 }, (_, i) => ({ x: first + i, y: valueOn(first + i) })),
  }
}

/** What is reported and, where that differs, what was tracked. */
function channelLines(track: Track, channel: TrackChannel): Line[] {
  const [reported, raw] = [motionSamplesOf(track), rawSamplesOf(track)]
  const lines = [lineOf('reported', channelCurve(reported, channel))]
  return reported === raw ? lines : [...lines, lineOf('tracked', channelCurve(raw, channel))]
}

function lineOf(name: string, runs: readonly { frame: number; value: number }[][]): Line {
  const values = new Map(runs.flat().map(({ frame, value }) => [frame, value]))
  const [first, last] = shotRange()
  return {
    name,
    data: Array.from({ length: last - first + 1 }, (_, i) => ({ x: first + i, y: values.get(first + i) ?? null })),
  }
}

function FrameChart({ title, lines, floor }: { title: string; lines: Line[]; floor: number | null }) {
  const frame = useShot((state) => state.frame)
  const range = useShot((state) => state.range)
  const decimals = decimalsFor(lines)
  const options = useMemo(
    (): ApexOptions => ({
      chart: {
        ...CALM_CHART,
        events: {
          click: (_event, _chart, at?: { dataPointIndex?: number }) => {
            const index = at?.dataPointIndex ?? -1
            if (index >= 0) goTo(shotRange()[0] + index)
          },
          markerClick: (_event, _chart, at?: { dataPointIndex?: number }) => {
            if (at?.dataPointIndex !== undefined) goTo(shotRange()[0] + at.dataPointIndex)
          },
        },
      },
      theme: { mode: 'dark' },
      title: { text: title, style: { fontSize: '11.5px', fontWeight: 500, color: '#a9a6a0' }, offsetX: 4 },
      colors: ['#8fb8ac', '#77746f'],
      stroke: { width: [1.6, 1], curve: 'straight', dashArray: [0, 3] },
      markers: { size: 0, hover: { size: 3 } },
      grid: { borderColor: '#303030', padding: { left: 6, right: 8, top: -14, bottom: -4 } },
      legend: { show: false },
      xaxis: {
        type: 'numeric',
        decimalsInFloat: 0,
        tickAmount: 5,
        labels: { style: { colors: '#8f8c86', fontSize: '10px' } },
        axisBorder: { show: false },
        axisTicks: { show: false },
        tooltip: { enabled: false },
      },
      yaxis: {
        tickAmount: 3,
        labels: {
          style: { colors: '#8f8c86', fontSize: '10px' },
          formatter: (v: number | null) => v?.toFixed(decimals) ?? '',
        },
      },
      tooltip: {
        theme: 'dark',
        x: { formatter: (v: number) => `frame ${v}` },
        y: { formatter: (v: number | null) => v?.toFixed(decimals) ?? '' },
      },
      annotations: {
        xaxis: [
          { x: frame, borderColor: '#6fb3a0', strokeDashArray: 0 },
          ...(range ? [{ x: range[0] - 0.5, x2: range[1] + 0.5, fillColor: '#ece9e2', opacity: 0.12 }] : []),
        ],
        yaxis: floor === null ? [] : [{ y: floor, borderColor: '#c79a3b', strokeDashArray: 3 }],
      },
    }),
    [title, frame, range, floor, decimals],
  )
  return <Chart type="line" height="100%" width="100%" series={lines} options={options} />
}

/** Decimals that tell a quarter of the values' range apart. */
function decimalsFor(lines: readonly Line[]): number {
  const values = lines.flatMap(({ data }) => data.flatMap(({ y }) => (y === null ? [] : [y])))
  const range = values.length ? Math.max(...values) - Math.min(...values) : 1
  return Math.min(5, Math.max(0, Math.ceil(-Math.log10(Math.max(1e-6, range / 4)))))
}
