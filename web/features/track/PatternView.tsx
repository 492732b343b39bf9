'use client'

import { useEffect, useRef } from 'react'
import { patternFor } from '@tender-lasso/core/tracks'
import { type Track } from '@tender-lasso/core/document'
import { useShot } from '../../store'
import { paintPatch, patchBox, patchOf } from './patches'
import styles from './track.module.css'

const SIDE = 112
const REST_MS = 60
/** The worker that would make the patches is tracking. */
const RUNNING_REST_MS = 600

/** The pattern and what the present frame shows in its place, magnified side by side, as the tracker sees them. */
export function PatternView({ track }: { track: Track }) {
  const frame = useShot((state) => state.frame)
  const isRunning = useShot((state) => state.track !== null)
  const pattern = useRef<HTMLCanvasElement>(null)
  const match = useRef<HTMLCanvasElement>(null)
  const patternFrame = patternFor(track, frame).frame
  useEffect(() => {
    let isCurrent = true
    const box = patchBox(track, frame)
    const scale = SIDE / Math.max(box.right - box.left, box.bottom - box.top)
    const [width, height] = [box.right - box.left, box.bottom - box.top].map((side) =>
      Math.max(8, Math.round(side * scale)),
    )
    const show = async (at: number, canvas: HTMLCanvasElement | null) => {
      const patch = await patchOf(track, at, box, width!, height!).catch(() => null)
      if (!isCurrent || !canvas) return
      paintPatch(canvas, patch ?? new Float32Array(width! * height!).fill(NaN), width!, height!)
    }
    // A moment's rest first: while frames fly by, none of them is worth fetching.
    const rest = setTimeout(
      () => {
        void show(patternFrame, pattern.current)
        void show(frame, match.current)
      },
      isRunning ? RUNNING_REST_MS : REST_MS,
    )
    return () => {
      isCurrent = false
      clearTimeout(rest)
    }
  }, [track, frame, patternFrame, isRunning])
  return (
    <div className={styles.patterns}>
      <figure>
        <canvas ref={pattern} aria-label="The pattern, magnified" />
        <figcaption>pattern, {patternFrame}</figcaption>
      </figure>
      <figure>
        <canvas ref={match} aria-label="The present match, magnified" />
        <figcaption>here, {frame}</figcaption>
      </figure>
    </div>
  )
}
