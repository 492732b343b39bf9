'use client'

import { useShallow } from 'zustand/react/shallow'
import { useEffect, useRef, type PointerEvent } from 'react'
import { Button, Input, Tooltip } from 'antd'
import { Pause, Play, Repeat, ArrowLeftRight } from 'lucide-react'
import { rateName } from '@tender-lasso/core/timing'
import {
  goTo,
  preview,
  say,
  select,
  TIMELINE_FACES,
  useShot,
  type ShotState,
  type TimelineFace,
  type ShotInfo,
} from '../../store'
import { edit, frameCache } from '../../session'
import { isRead } from '../../media'
import { markByShiftDrag } from './markStretch'
import { stopPlayback, togglePlayback } from '../../viewer/playback'
import { drawTimeline, isSamePicture, type TimelinePicture } from './timelineDraw'
import {
  dragged,
  heldTime,
  isLocked,
  keysInBand,
  patchesOf,
  pressed,
  type Held,
  type TimelineScene,
} from './timelineGestures'
import { FOLD_WIDTH, frameOfX, PIN_WIDTH, ROW_HEIGHT, rowAt, ROWS_TOP, thumbnailSlots, xOfFrame, type TimelineLayout } from './timelineLayout' // prettier-ignore
import { rowsOf } from './timelineRows'
import { ChartsFace } from '../track/ChartsFace'
import { CurvesFace } from '../curves/CurvesFace'
import { placeOn } from '../curves/plotCanvas'
import { Readout } from '../strips/Readout'
import { ProofStrip } from '../track/ProofStrip'
import { EdgeStrip } from '../edges/EdgeStrip'
import { OutputsFace } from '../handoff/OutputsFace'
import styles from './timeline.module.css'

const NAME_WIDTH = 132

/** Time, below the picture: transport, and one of the faces of what is selected. */
export function Timeline() {
  const face = useShot((state) => state.timelineFace)
  return (
    <section className={styles.timeline} aria-label="Timeline" onPointerDownCapture={markByShiftDrag}>
      <Transport />
      {face === 'threads' && <Threads />}
      {face === 'curves' && <CurvesFace />}
      {face === 'charts' && <ChartsFace />}
      {face === 'proof' && <ProofStrip />}
      {face === 'edges' && <EdgeStrip />}
      {face === 'outputs' && <OutputsFace />}
    </section>
  )
}

function Threads() {
  const canvas = useRef<HTMLCanvasElement>(null)
  const playhead = useRef<HTMLDivElement>(null)
  const held = useRef<Held | null>(null)
  const scroll = useRef(0)
  const repaint = useRef<() => void>(() => {})
  const info = useShot((state) => state.info)

  useEffect(() => {
    if (!info) return
    const element = canvas.current!
    const context = element.getContext('2d')!
    const ratio = Math.min(2, window.devicePixelRatio || 1)
    const thumbnails = new Map<number, ImageBitmap>()
    let scheduled = 0
    let isOver = false
    let drawn: TimelinePicture | null = null
    let drawnScroll = 0
    // Measured when it changes: read in every frame, it would have the page laid out once more.
    let size = sizeOf(element)
    let playheadX = NaN
    const paint = () => {
      if (scheduled || isOver) return
      scheduled = requestAnimationFrame(() => {
        scheduled = 0
        const state = useShot.getState()
        const layout = layoutOf(size, info, scroll.current)
        const x = Math.round(xOfFrame(layout, state.frame))
        if (x !== playheadX) playhead.current!.style.transform = `translateX(${x}px)`
        playheadX = x
        const picture = pictureOf(state, held.current, thumbnails)
        if (drawn && drawnScroll === scroll.current && isSamePicture(drawn, picture)) return
        drawn = picture
        drawnScroll = scroll.current
        drawTimeline(context, layout, picture, ratio)
      })
    }
    const repaintAll = () => {
      drawn = null
      paint()
    }
    repaint.current = paint
    const resize = () => {
      size = sizeOf(element)
      element.width = Math.max(1, Math.round(size.width * ratio))
      element.height = Math.max(1, Math.round(size.height * ratio))
      repaintAll()
      void loadThumbnails(info, layoutOf(size, info), thumbnails, repaintAll, () => !isOver)
    }
    const wheel = (event: WheelEvent) => {
      event.preventDefault()
      const { shown, selection, threadRows } = useShot.getState()
      const height = rowsOf(shown, selection, threadRows).length * ROW_HEIGHT
      const room = size.height - ROWS_TOP
      scroll.current = Math.min(Math.max(0, height - room), Math.max(0, scroll.current + event.deltaY))
      paint()
    }
    element.addEventListener('wheel', wheel, { passive: false })
    const observer = new ResizeObserver(resize)
    observer.observe(element)
    const loadMore = (now: ShotState, before: ShotState) => {
      if (now.readStretches !== before.readStretches) void loadThumbnails(info, layoutOf(size, info), thumbnails, repaintAll, () => !isOver) // prettier-ignore
    }
    const stops = [
      useShot.subscribe(paint),
      useShot.subscribe(loadMore),
      frameCache()?.onChangeInSteps(paint) ?? (() => {}),
    ]
    void document.fonts.ready.then(repaintAll)
    return () => {
      isOver = true
      observer.disconnect()
      element.removeEventListener('wheel', wheel)
      stops.forEach((stop) => stop())
      cancelAnimationFrame(scheduled)
    }
  }, [info])

  const sceneOf = (element: HTMLCanvasElement): TimelineScene => {
    const { document, selection, threadRows, frame } = useShot.getState()
    const layout = layoutOf(sizeOf(element), info!, scroll.current)
    return { document, layout, rows: rowsOf(document, selection, threadRows), chosen: selection.keys, frame }
  }
  const down = (event: PointerEvent<HTMLCanvasElement>) => {
    if (!info || event.button !== 0) return
    event.currentTarget.setPointerCapture(event.pointerId)
    stopPlayback()
    const scene = sceneOf(event.currentTarget)
    const { x, y } = placeOn(event)
    if (pressedName(scene, x, y)) return
    const mod = event.ctrlKey || event.metaKey
    const press = pressed(scene, { x, y, shift: event.shiftKey, alt: event.altKey, mod })
    held.current = press.held
    if (press.chosen !== scene.chosen) select({ keys: press.chosen })
    if (press.held.kind === 'scrub') goTo(frameOfX(scene.layout, x))
    if (press.held.kind === 'range') useShot.setState({ range: null })
  }
  const move = (event: PointerEvent<HTMLCanvasElement>) => {
    if (!info || !held.current) return
    const scene = sceneOf(event.currentTarget)
    const { x, y } = placeOn(event)
    const frame = frameOfX(scene.layout, x)
    if (held.current.kind === 'scrub') goTo(frame)
    else if (held.current.kind === 'range') {
      const { start } = held.current
      useShot.setState({ range: [Math.min(start, frame), Math.max(start, frame)] })
    } else {
      held.current = dragged(scene, held.current, x, y)
      // Knots under the hand move the outlines in the viewer at once.
      if (held.current.kind !== 'band') preview(patchesOf(scene, held.current))
      repaint.current()
    }
  }
  const up = (event: PointerEvent<HTMLCanvasElement>) => {
    const ended = held.current
    held.current = null
    if (ended && info) released(sceneOf(event.currentTarget), ended)
    repaint.current()
  }
  const doubleClick = () => {
    const [key] = useShot.getState().selection.keys
    if (key) goTo(key.time)
  }
  return (
    <div className={styles.rows}>
      <canvas
        ref={canvas}
        className={styles.canvas}
        data-testid="timeline"
        aria-label="Frames and threads: drag to scrub, Shift-drag to mark a stretch, drag a knot to move its key; Alt stretches about the present frame, Ctrl copies; a band over rows chooses keys"
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

function pictureOf(state: ShotState, held: Held | null, thumbnails: ReadonlyMap<number, ImageBitmap>): TimelinePicture {
  const { shown, selection, threadRows, range, frame } = state
  const isMoving = held?.kind === 'knots' && held.how !== 'copy'
  return {
    document: shown,
    rows: rowsOf(shown, selection, threadRows),
    chosen: isMoving ? movedChoice(held, frame) : selection.keys,
    held: frameCache()?.heldFrames() ?? NONE_HELD,
    thumbnails,
    pictureAspect: state.info ? pictureAspect(state.info) : 1,
    read: state.readStretches,
    range,
    band: held?.kind === 'band' ? [held.x, held.y, held.toX, held.toY] : null,
  }
}

/** The chosen keys where the hold has brought them. */
const movedChoice = (held: Extract<Held, { kind: 'knots' }>, frame: number) =>
  held.chosen.map((key) => ({ ...key, time: heldTime(held, frame, key.time) }))

/** A press on the name of a row: unfolds it, pins it, or selects what it is of. */
function pressedName(scene: TimelineScene, x: number, y: number): boolean {
  const row = scene.rows[rowAt(scene.layout, y)]
  if (!row || x >= scene.layout.nameWidth || (row.kind !== 'part' && row.kind !== 'keys')) return false
  if (row.kind === 'part' && row.members.length > 1 && x < FOLD_WIDTH) toggleRows('unfolded', row.part.id)
  else if (row.kind === 'part' && x > scene.layout.nameWidth - PIN_WIDTH) toggleRows('pinned', row.part.id)
  else {
    const { id, object } = row.kind === 'keys' ? row.channel : { id: '', object: null }
    const shapeIds = object?.kind === 'shape' ? [id] : []
    const trackIds = object?.kind === 'track' ? [id] : []
    select({ partId: row.part?.id ?? null, shapeIds, pointIds: new Set(), trackIds, keys: [] })
  }
  return true
}

function released(scene: TimelineScene, ended: Held) {
  if (ended.kind === 'band') {
    const isClick = Math.hypot(ended.toX - ended.x, ended.toY - ended.y) < 3
    if (isClick) goTo(frameOfX(scene.layout, ended.x))
    else select({ keys: keysInBand(scene, ended) })
    return
  }
  if (ended.kind !== 'knots' && ended.kind !== 'life') return
  const patches = patchesOf(scene, ended)
  preview([])
  if (patches.length === 0) {
    const isHeld = ended.kind === 'life' ? isLocked(scene.document, ended.owner.id) : ended.to !== ended.grabbed
    if (isHeld) say('doubtful', 'What is locked keeps its keys and its life: unlock the Part first')
    return
  }
  if (ended.kind === 'life') {
    edit(`life of ${ended.owner.name}`, patches)
    return
  }
  const count = ended.chosen.length === 1 ? 'a key' : `${ended.chosen.length} keys`
  const verb = { move: 'move', stretch: 'stretch', copy: 'copy' }[ended.how]
  const from = ended.chosen.length === 1 ? ` from ${ended.grabbed} to ${ended.to}` : ''
  if (edit(`${verb} ${count}${from}`, patches) && ended.how !== 'copy')
    select({ keys: movedChoice(ended, scene.frame) })
}

function toggleRows(which: 'pinned' | 'unfolded', id: string) {
  const { threadRows } = useShot.getState()
  const ids = threadRows[which]
  const next = ids.includes(id) ? ids.filter((other) => other !== id) : [...ids, id]
  useShot.setState({ threadRows: { ...threadRows, [which]: next } })
}

/** What a press where the pointer is would take hold of, or else what the tool waits for. */
function GripWords() {
  const words = useShot((state) => state.grip ?? state.prompt)
  return (
    <span className={styles.grip} title={words ?? undefined}>
      {words}
    </span>
  )
}

/** The frame number rides on the playhead; a line of its own, so that scrubbing redraws nothing else. */
function PlayheadFrame() {
  const frame = useShot((state) => state.frame)
  return <span>{frame}</span>
}

const NONE_HELD: ReadonlySet<number> = new Set()

type Size = Pick<TimelineLayout, 'width' | 'height'>

const sizeOf = ({ clientWidth: width, clientHeight: height }: Element): Size => ({ width, height })

function layoutOf(size: Size, info: { firstFrame: number; lastFrame: number }, scroll = 0): TimelineLayout {
  return {
    ...size,
    nameWidth: NAME_WIDTH,
    first: info.firstFrame,
    last: info.lastFrame,
    scroll,
  }
}

type PictureSize = Pick<ShotInfo, 'width' | 'height' | 'pixelAspect'>

const pictureAspect = ({ width, height, pixelAspect }: PictureSize) => (width * pixelAspect) / height

/** Fetches the thumbnails that are shown, one after the other. */
async function loadThumbnails(
  info: PictureSize & { id: string },
  layout: TimelineLayout,
  thumbnails: Map<number, ImageBitmap>,
  paint: () => void,
  isWanted: () => boolean,
) {
  const wanted = new Set(thumbnailSlots(layout, pictureAspect(info)).map(({ frame }) => frame))
  for (const frame of [...thumbnails.keys()]) if (!wanted.has(frame)) thumbnails.delete(frame)
  for (const frame of wanted) {
    if (thumbnails.has(frame) || !isRead(frame, useShot.getState().readStretches)) continue
    const thumbnail = await thumbnailOf(info.id, frame).catch(() => null)
    if (!isWanted()) return
    if (!thumbnail) continue
    thumbnails.set(frame, thumbnail)
    paint()
  }
}

async function thumbnailOf(shotId: string, frame: number): Promise<ImageBitmap | null> {
  const response = await fetch(`/api/shots/${shotId}/frames/${frame}/thumbnail`)
  return response.ok ? createImageBitmap(await response.blob()) : null
}

const FACE_WORDS: Record<TimelineFace, [string, string]> = {
  threads: ['Threads', 'Threads and knots of what is selected, with lanes for the match'],
  curves: ['Curves', "The selected track's channels; drag Bridge tangents and frames"],
  charts: ['Charts', 'Measures and channels of the selected track over all frames'],
  proof: ['Proof strip', 'The tracked patch of every frame side by side'],
  edges: ['Edges', 'Plate and matte edge at one place on the frames before and after, as they are edited'],
  outputs: ['Outputs', 'What is handed off, how far each output is behind, and its deliveries'],
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
      <Readout />
      <GripWords />
      {face === 'threads' && <RowSearch />}
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

/** Rows of Parts by name, whether they are selected or not. */
function RowSearch() {
  const search = useShot((state) => state.threadRows.search)
  return (
    <Input
      className={styles.search}
      size="small"
      allowClear
      placeholder="Find rows"
      aria-label="Find rows by the name of their Part"
      value={search}
      onChange={({ target }) =>
        useShot.setState({ threadRows: { ...useShot.getState().threadRows, search: target.value } })
      }
      onKeyDown={(event) => {
        if (event.key === 'Escape' || event.key === 'Enter') event.currentTarget.blur()
      }}
    />
  )
}
