'use client'

import { useState, type PointerEvent } from 'react'
import { Select } from 'antd'
import { FALLOFFS, type Shape } from '@tender-lasso/core/document'
import { fieldSet } from '@tender-lasso/core/edits'
import { falloffAt, STEEPEST_SLOPE } from '@tender-lasso/core/raster'
import { edit } from '../../session'
import { Row } from './Row'
import styles from './properties.module.css'

const WORDS: Record<Shape['falloff'], { label: string; help: string }> = {
  smooth: { label: 'Smooth', help: 'Slow at both ends, as a lens blurs' },
  linear: { label: 'Linear', help: 'Even all the way, as motion blurs' },
  early: { label: 'Early', help: 'Most is lost near the full side' },
  late: { label: 'Late', help: 'Most is lost near the side where it has faded out' },
  own: { label: 'Own', help: 'A curve of your own: drag the ends of its tangents' },
}

/** How the feather of shapes runs from full to nothing. */
export function FalloffRow({ shapes }: { shapes: readonly Shape[] }) {
  const [first] = shapes
  const isMixed = shapes.some(({ falloff }) => falloff !== first!.falloff)
  const set = (falloff: Shape['falloff']) =>
    edit(
      `falloff ${falloff}`,
      shapes.filter((shape) => shape.falloff !== falloff).map((shape) => fieldSet(shape, 'falloff', falloff)),
    )
  return (
    <>
      <Row label="Falloff" help="How the feather runs from full to nothing">
        <Select<Shape['falloff']>
          size="small"
          aria-label="Falloff of the feather"
          placeholder="mixed"
          value={isMixed ? undefined : first!.falloff}
          options={FALLOFFS.map((value) => ({ value, label: WORDS[value].label, title: WORDS[value].help }))}
          onChange={set}
        />
      </Row>
      {!isMixed && first!.falloff === 'own' && <FalloffCurve shapes={shapes} />}
    </>
  )
}

/** Sides of the curve, and the room about it for the ends of its tangents, CSS pixels. */
const [WIDTH, HEIGHT, ROOM] = [150, 72, 8]
/** Share of the width that a tangent is drawn along. */
const TANGENT = 0.28

/** The curve from faded out, on the left, to full; the ends of its two tangents are dragged, or moved with the arrow keys. */
function FalloffCurve({ shapes }: { shapes: readonly Shape[] }) {
  const stored = shapes[0]!.falloffSlopes
  const [dragged, setDragged] = useState<[number, number] | null>(null)
  const slopes = dragged ?? stored
  const commit = (next: [number, number]) => {
    setDragged(null)
    edit(
      'curve of the falloff',
      shapes.map((shape) => fieldSet(shape, 'falloffSlopes', next)),
    )
  }
  const place = (s: number, value: number) => [ROOM + s * WIDTH, ROOM + (1 - value) * HEIGHT] as const
  const line = Array.from({ length: 33 }, (_, i) => place(i / 32, falloffAt(slopes, i / 32)).join(' ')).join(' L ')
  return (
    <svg
      className={styles.falloff}
      viewBox={`0 0 ${WIDTH + 2 * ROOM} ${HEIGHT + 2 * ROOM}`}
      role="group"
      aria-label="Curve of the falloff"
    >
      <rect x={ROOM} y={ROOM} width={WIDTH} height={HEIGHT} className={styles.falloffGround} />
      <path d={`M ${line}`} className={styles.falloffLine} />
      {(['where it has faded out', 'where it is full'] as const).map((where, end) => {
        const slope = slopes[end]!
        // Along the tangent, no farther up than the box: a steep one is drawn shorter.
        const run = Math.min(TANGENT, slope > 0 ? 0.9 / slope : TANGENT)
        const [x, y] = end === 0 ? place(run, run * slope) : place(1 - run, 1 - run * slope)
        const [fromX, fromY] = place(end, end)
        const slopesWith = (value: number): [number, number] => {
          const clamped = Math.min(STEEPEST_SLOPE, Math.max(0, value))
          return end === 0 ? [clamped, slopes[1]] : [slopes[0], clamped]
        }
        const slopeUnder = (event: PointerEvent<SVGCircleElement>) => {
          const box = event.currentTarget.ownerSVGElement!.getBoundingClientRect()
          const scale = (WIDTH + 2 * ROOM) / box.width
          const s = ((event.clientX - box.left) * scale - ROOM) / WIDTH
          const value = 1 - ((event.clientY - box.top) * scale - ROOM) / HEIGHT
          return end === 0 ? value / Math.max(0.05, s) : (1 - value) / Math.max(0.05, 1 - s)
        }
        return (
          <g key={where}>
            <line x1={fromX} y1={fromY} x2={x} y2={y} className={styles.falloffTangent} />
            <circle
              cx={x}
              cy={y}
              r={4}
              className={styles.falloffHandle}
              role="slider"
              tabIndex={0}
              aria-label={`Slope ${where}`}
              aria-valuemin={0}
              aria-valuemax={STEEPEST_SLOPE}
              aria-valuenow={Number(slope.toFixed(2))}
              onPointerDown={(event) => {
                event.currentTarget.setPointerCapture(event.pointerId)
                setDragged([...slopes])
              }}
              onPointerMove={(event) => dragged && setDragged(slopesWith(slopeUnder(event)))}
              onPointerUp={() => dragged && commit(dragged)}
              onPointerCancel={() => setDragged(null)}
              onKeyDown={(event) => {
                const step = { ArrowUp: 0.1, ArrowRight: 0.1, ArrowDown: -0.1, ArrowLeft: -0.1 }[event.key]
                if (step === undefined) return
                event.preventDefault()
                event.stopPropagation()
                commit(slopesWith(Number((slope + step).toFixed(2))))
              }}
            />
          </g>
        )
      })}
    </svg>
  )
}
