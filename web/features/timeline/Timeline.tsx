'use client'

import { useShallow } from 'zustand/react/shallow'
import { useEffect, useRef, type PointerEvent } from 'react'
import { Button, Tooltip } from 'antd'
import { Pause, Play, Repeat, ArrowLeftRight } from 'lucide-react'
import { keyMoved } from '@tender-lasso/core/document'
import { rateName } from '@tender-lasso/core/timing'
import { edit, frameCache, goTo, select, TIMELINE_FACES, useShot, type TimelineFace } from '../../state/shotStore'
import { stopPlayback, togglePlayback } from '../../viewer/playback'
import { drawTimeline, isSamePicture, rowsOf, type TimelinePicture, type TimelineRow } from './timelineDraw'
import { frameOfX, ROW_HEIGHT, ROWS_TOP, THUMBNAIL_HEIGHT, xOfFrame, type TimelineLayout } from './timelineLayout'
import { ChartsFace } from '../track/ChartsFace'
import { CurvesFace } from '../track/CurvesFace'
import { ProofStrip } from '../track/ProofStrip'
import styles from './timeline.module.css'

const NAME_WIDTH = 118
const KNOT_REACH = 6

type Drag =
  | { kind: 'scrub' }
  | { kind: 'range'; start: number }
  | { kind: 'key'; row: Extract<TimelineRow, { kind: 'keys' }>; from: number; to: number }

/** Time, below the picture: transport, and one of the faces of what is selected. */
export function Timeline() {
  const face = useShot((state) => state.timelineFace)
  return (
    <section className={styles.timeline} aria-label="Timeline">
      <Transport />
      {face === 'threads' && <Threads />}
      {face === 'curves' && <CurvesFace />}
      {face === 'charts' && <ChartsFace />}
      {face === 'proof' && <ProofStrip />}
    </section>
  )
}

function Threads() {
  const canvas = useRef<HTMLCanvasElement>(null)
  const playhead = useRef<HTMLDivElement>(null)
  const drag = useRef<Drag | null>(null)
  const repaint = useRef<() => void>(() => {})
  const info = useShot((state) => state.info)

  useEffect(() => {
    if (!info) return
    const element = canvas.current!
    const context = element.getContext('2d')!
    const ratio = Math.min(2, window.devicePixelRatio || 1)
    const thumbnails = new Map<number, ImageBitmap>()
    let scheduled = 0
    let drawn: TimelinePicture | null = null
    const paint = () => {
      if (scheduled) return
      scheduled = requestAnimationFrame(() => {
        scheduled = 0
        const state = useShot.getState()
        const layout = layoutOf(element, info)
        const x = Math.round(xOfFrame(layout, state.frame))
        playhead.current!.style.transform = `translateX(${x}px)`
        const picture: TimelinePicture = {
          document: state.shown,
          rows: rowsOf(state.shown, state.selection),
          selectedTimes: state.selection.keyTimes,
          held: frameCache()?.heldFrames() ?? NONE_HELD,
          thumbnails,
          range: state.range,
          drag: drag.current?.kind === 'key' ? { from: drag.current.from, to: drag.current.to } : null,
        }
        if (drawn && isSamePicture(drawn, picture)) return
        drawn = picture
        drawTimeline(context, layout, picture, ratio)
      })
    }
    const repaintAll = () => {
      drawn = null
      paint()
    }
    repaint.current = paint
    const resize = () => {
      element.width = Math.max(1, Math.round(element.clientWidth * ratio))
      element.height = Math.max(1, Math.round(element.clientHeight * ratio))
      repaintAll()
      void loadThumbnails(info, layoutOf(element, info), thumbnails, repaintAll)
    }
    const observer = new ResizeObserver(resize)
    observer.observe(element)
    const stops = [useShot.subscribe(paint), frameCache()?.onChange(paint) ?? (() => {})]
    void document.fonts.ready.then(repaintAll)
    return () => {
      observer.disconnect()
      stops.forEach((stop) => stop())
      cancelAnimationFrame(scheduled)
    }
  }, [info])

  const pointer = (event: PointerEvent<HTMLCanvasElement>) => {
    const box = event.currentTarget.getBoundingClientRect()
    return { x: event.clientX - box.left, y: event.clientY - box.top }
  }
  const down = (event: PointerEvent<HTMLCanvasElement>) => {
    if (!info || event.button !== 0) return
    event.currentTarget.setPointerCapture(event.pointerId)
    stopPlayback()
    const { x, y } = pointer(event)
    const layout = layoutOf(event.currentTarget, info)
    const state = useShot.getState()
    const row = rowsOf(state.document, state.selection)[Math.floor((y - ROWS_TOP) / ROW_HEIGHT)]
    if (row?.kind === 'keys' && y > ROWS_TOP) {
      const key = row.keyed.keys.find((k) => Math.abs(xOfFrame(layout, k.time) - x) <= KNOT_REACH)
      if (key) {
        drag.current = { kind: 'key', row, from: key.time, to: key.time }
        const keyTimes = event.shiftKey ? [...new Set([...state.selection.keyTimes, key.time])] : [key.time]
        select({ shapeIds: row.keyed.kind === 'shape' ? [row.keyed.id] : [], keyTimes })
        return
      }
    }
    if (state.selection.keyTimes.length) select({ keyTimes: [] })
    if (event.shiftKey) {
      drag.current = { kind: 'range', start: frameOfX(layout, x) }
      useShot.setState({ range: null })
      return
    }
    drag.current = { kind: 'scrub' }
    goTo(frameOfX(layout, x))
  }
  const move = (event: PointerEvent<HTMLCanvasElement>) => {
    if (!info || !drag.current) return
    const frame = frameOfX(layoutOf(event.currentTarget, info), pointer(event).x)
    if (drag.current.kind === 'scrub') goTo(frame)
    else if (drag.current.kind === 'range') {
      const { start } = drag.current
      useShot.setState({ range: [Math.min(start, frame), Math.max(start, frame)] })
    } else if (drag.current.to !== frame) {
      drag.current = { ...drag.current, to: frame }
      repaint.current()
    }
  }
  const up = () => {
    const ended = drag.current
    drag.current = null
    if (ended?.kind === 'key' && ended.to !== ended.from) {
      edit(`move a key from ${ended.from} to ${ended.to}`, keyMoved(ended.row.keyed, ended.from, ended.to))
      select({ keyTimes: [ended.to] })
    }
    repaint.current()
  }
  const doubleClick = () => {
    const [time] = useShot.getState().selection.keyTimes
    if (time !== undefined) goTo(time)
  }
  return (
    <div className={styles.rows}>
      <canvas
        ref={canvas}
        className={styles.canvas}
        data-testid="timeline"
        aria-label="Frames and threads: drag to scrub, Shift-drag to mark a stretch, drag a knot to move its key"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onDoubleClick={doubleClick}
      />
      <div ref={playhead} className={styles.playhead}>
        <PlayheadFrame />
      </div>
    </div>
  )
}

/** The frame number rides on the playhead; a line of its own, so that scrubbing redraws nothing else. */
function PlayheadFrame() {
  const frame = useShot((state) => state.frame)
  return <span>{frame}</span>
}

const NONE_HELD: ReadonlySet<number> = new Set()

function layoutOf(element: HTMLCanvasElement, info: { firstFrame: number; lastFrame: number }): TimelineLayout {
  return {
    width: element.clientWidth,
    height: element.clientHeight,
    nameWidth: NAME_WIDTH,
    first: info.firstFrame,
    last: info.lastFrame,
  }
}

/** As many evenly spaced thumbnails as fit side by side. */
async function loadThumbnails(
  info: { id: string; width: number; height: number; firstFrame: number; lastFrame: number },
  layout: TimelineLayout,
  thumbnails: Map<number, ImageBitmap>,
  paint: () => void,
) {
  const width = (THUMBNAIL_HEIGHT * info.width) / info.height
  const count = Math.max(1, Math.floor((layout.width - layout.nameWidth) / (width + 2)))
  const length = info.lastFrame - info.firstFrame + 1
  const wanted = new Set(
    Array.from(
      { length: Math.min(count, length) },
      (_, i) => info.firstFrame + Math.floor(((i + 0.5) * length) / Math.min(count, length)),
    ),
  )
  for (const frame of [...thumbnails.keys()]) if (!wanted.has(frame)) thumbnails.delete(frame)
  for (const frame of wanted) {
    if (thumbnails.has(frame)) continue
    const response = await fetch(`/api/shots/${info.id}/frames/${frame}/thumbnail`).catch(() => null)
    if (!response?.ok) continue
    thumbnails.set(frame, await createImageBitmap(await response.blob()))
    paint()
  }
}

const FACE_WORDS: Record<TimelineFace, [string, string]> = {
  threads: ['Threads', 'Threads and knots of what is selected, with lanes for the match'],
  curves: ['Curves', "The selected track's channels; drag Bridge tangents and frames"],
  charts: ['Charts', 'Measures and channels of the selected track over all frames'],
  proof: ['Proof strip', 'The tracked patch of every frame side by side'],
}

function Transport() {
  const { info, frame, isPlaying, playMode, droppedFrames } = useShot(
    useShallow(({ info, frame, isPlaying, playMode, droppedFrames }) => ({
      info,
      frame,
      isPlaying,
      playMode,
      droppedFrames,
    })),
  )
  const face = useShot((state) => state.timelineFace)
  if (!info) return null
  return (
    <div className={styles.transport}>
      <Tooltip title="Play and stop (Space)" mouseEnterDelay={0.6}>
        <Button
          size="small"
          type="text"
          aria-label={isPlaying ? 'Stop' : 'Play'}
          icon={isPlaying ? <Pause size={14} /> : <Play size={14} />}
          onClick={togglePlayback}
        />
      </Tooltip>
      <Tooltip
        title={playMode === 'loop' ? 'Looping; click to play to and fro' : 'To and fro; click to loop'}
        mouseEnterDelay={0.6}
      >
        <Button
          size="small"
          type="text"
          aria-label={playMode === 'loop' ? 'Looping' : 'To and fro'}
          icon={playMode === 'loop' ? <Repeat size={13} /> : <ArrowLeftRight size={13} />}
          onClick={() => useShot.setState({ playMode: playMode === 'loop' ? 'to-and-fro' : 'loop' })}
        />
      </Tooltip>
      <span className={styles.frame} data-testid="frame">
        {frame}
      </span>
      <span className={styles.rate}>
        {rateName(info.rate)} fps
        {droppedFrames > 0 && <em> {droppedFrames} dropped</em>}
      </span>
      <span className={styles.faces} role="tablist" aria-label="Faces of the timeline">
        {TIMELINE_FACES.map((name) => (
          <button
            key={name}
            type="button"
            role="tab"
            aria-selected={name === face}
            className={name === face ? styles.faceActive : styles.face}
            title={FACE_WORDS[name][1]}
            onClick={() => useShot.setState({ timelineFace: name })}
          >
            {FACE_WORDS[name][0]}
          </button>
        ))}
      </span>
    </div>
  )
}
