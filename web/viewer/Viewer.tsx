'use client'

import { useEffect, useRef, useState } from 'react'
import { Alert } from 'antd'
import type { Keying } from '@tender-lasso/core/edits'
import { applyToPoint, invert, type Matrix3 } from '@tender-lasso/core/geometry'
import {
  preview,
  say,
  select,
  setView,
  useShot,
  type ShotState,
  withSolo,
  type ToolName,
  notePointerPlace,
} from '../store'
import { edit, frameCache, wordsOf } from '../session'
import {
  editReaching,
  keyingNow,
  keyingOnTheWay,
  importSvg,
  layProof,
  subjectAtHand,
  takeWidthsFromPlate,
  spreadPoints,
} from '../commands'
import { isRead } from '../media'
import { MatteCanvas } from './matteCanvas'
import { MattePreviewer, type MattePreview } from './mattePreview'
import { areRestingLinesOld, drawActiveLines, drawRestingLines, pointerWords, type OverlayPicture } from './overlay'
import { drawLoupe } from './loupe'
import { drawPlainPlate, isPlainView } from './plainPlate'
import { PlateRenderer } from './plateRenderer'
import { stopPlayback } from './playback'
import { ellipseTool, rectangleTool } from './tools/frameTools'
import { jointsTool } from './tools/jointsTool'
import { lassoTool } from './tools/lassoTool'
import { bsplineTool, penTool, strokeTool } from './tools/penTools'
import { pullTool } from './tools/pullTool'
import { adjustTool } from './tools/adjustTool'
import { pointTool } from './tools/pointTool'
import { gridTool, holeTool, leaveOutTool, regionTool, spreadTool } from './tools/regionTool'
import { selectTool } from './tools/selectTool'
import type { PointerInput, Tool, ToolContext, ToolHover, ToolStep } from './tools/tool'
import { keptPlace } from './keptPlace'
import { turnTool } from './tools/turnTool'
import { widthsTool } from './tools/widthsTool'
import { visibleBox } from './visibleBox'
import { fitted, isSamePlace, plateToScreen, zoomedAt, type ViewPlace } from './viewTransform'
import styles from './viewer.module.css'

const TOOL_MACHINES: Record<ToolName, Tool<unknown>> = {
  select: selectTool as Tool<unknown>,
  lasso: lassoTool as Tool<unknown>,
  pen: penTool as Tool<unknown>,
  bspline: bsplineTool as Tool<unknown>,
  ellipse: ellipseTool as Tool<unknown>,
  rectangle: rectangleTool as Tool<unknown>,
  stroke: strokeTool as Tool<unknown>,
  turn: turnTool as Tool<unknown>,
  joints: jointsTool as Tool<unknown>,
  widths: widthsTool as Tool<unknown>,
  pull: pullTool as Tool<unknown>,
  region: regionTool as Tool<unknown>,
  leaveOut: leaveOutTool as Tool<unknown>,
  hole: holeTool as Tool<unknown>,
  adjust: adjustTool as Tool<unknown>,
  point: pointTool as Tool<unknown>,
  spread: spreadTool as Tool<unknown>,
  grid: gridTool as Tool<unknown>,
}

const DRAWING_TOOLS: ReadonlySet<ToolName> = new Set(['lasso', 'pen', 'bspline', 'ellipse', 'rectangle', 'stroke'])

export function Viewer() {
  const holder = useRef<HTMLDivElement>(null)
  const plainCanvas = useRef<HTMLCanvasElement>(null)
  const plateCanvas = useRef<HTMLCanvasElement>(null)
  const restingCanvas = useRef<HTMLCanvasElement>(null)
  const activeCanvas = useRef<HTMLCanvasElement>(null)
  const [failure, setFailure] = useState<string | null>(null)
  const tool = useShot((state) => state.tool)

  useEffect(() => {
    const stage = new ViewerStage(
      holder.current!,
      plainCanvas.current!,
      plateCanvas.current!,
      restingCanvas.current!,
      activeCanvas.current!,
      (error) => setFailure(wordsOf(error)),
    )
    return () => stage.close()
  }, [])

  return (
    <div
      ref={holder}
      className={styles.viewer}
      data-testid="viewer"
      style={{ cursor: TOOL_MACHINES[tool].cursor }}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault()
        void event.dataTransfer.files[0]?.text().then(importSvg)
      }}
    >
      <canvas ref={plainCanvas} className={styles.layer} />
      <canvas ref={plateCanvas} className={styles.layer} hidden />
      <canvas ref={restingCanvas} className={styles.layer} />
      <canvas ref={activeCanvas} className={styles.layer} />
      <UnreadFrame />
      {failure && <Alert className={styles.failure} type="error" showIcon title={failure} />}
    </div>
  )
}

/** In place of a picture that is still to be read. */
function UnreadFrame() {
  const isMissing = useShot(({ frame, readStretches }) => !isRead(frame, readStretches))
  const frame = useShot((state) => state.frame)
  if (!isMissing) return null
  return (
    <span className={styles.unread} data-testid="unread">
      Frame {frame} is not read yet
    </span>
  )
}

/** Listens to the store and to the pointer and draws when something changed, once per display frame. */
class ViewerStage {
  /** Made when a view first needs it: that takes a tenth of a second where no graphics card helps. */
  private renderer: PlateRenderer | null = null
  private readonly plain: CanvasRenderingContext2D
  private readonly resting: CanvasRenderingContext2D
  private readonly active: CanvasRenderingContext2D
  /** What the resting lines were drawn from. */
  private restingDrawn: OverlayPicture | null = null
  private readonly mattes: MattePreviewer
  private readonly fillCanvas = new MatteCanvas()
  private readonly stops: (() => void)[] = []
  private readonly ratio = Math.min(2, window.devicePixelRatio || 1)
  private toScreen: Matrix3
  /** Zoom and pan of the last fit: a view that is still there stays fitted when the panels round it change. */
  private fittedPlace: ViewPlace | null = null
  private scheduled = 0
  private plateDirty = true
  private bitmap: ImageBitmap | null = null
  private matte: MattePreview | null = null
  private stopWatching: () => void = () => {}
  private machine: { tool: ToolName; state: unknown }
  /** What a press would take hold of, looked at once a display frame. */
  private hover: ToolHover | null = null
  private hoverScheduled = 0
  /** Where the pointer is, plate pixels, while the loupe is of use. */
  private pointer: readonly [number, number] | null = null
  private panning: { x: number; y: number; panX: number; panY: number } | null = null

  constructor(
    private readonly holder: HTMLDivElement,
    plain: HTMLCanvasElement,
    private readonly plate: HTMLCanvasElement,
    resting: HTMLCanvasElement,
    active: HTMLCanvasElement,
    private readonly failed: (error: unknown) => void,
  ) {
    this.plain = plain.getContext('2d', { alpha: false })!
    this.resting = resting.getContext('2d')!
    this.active = active.getContext('2d')!
    this.mattes = new MattePreviewer(
      () => this.visibleBox(),
      (matte) => {
        this.matte?.bands.forEach(({ picture }) => picture.close())
        this.matte = matte
        this.paint(true)
      },
    )
    const state = useShot.getState()
    this.machine = { tool: state.tool, state: TOOL_MACHINES[state.tool].idle }
    this.toScreen = this.currentMap(state)
    this.stops.push(useShot.subscribe((now, before) => this.storeChanged(now, before)))
    const observer = new ResizeObserver(() => this.resized())
    observer.observe(holder)
    this.stops.push(() => observer.disconnect())
    this.listen('pointerdown', (event) => this.pointerDown(event))
    this.listen('pointermove', (event) => this.pointerMove(event))
    this.listen('pointerup', (event) => this.pointerUp(event))
    this.listen('pointercancel', () => this.giveUp())
    this.listen('dblclick', () => this.key('Enter'))
    this.listen('contextmenu', (event) => event.preventDefault())
    const wheel = (event: WheelEvent) => this.wheel(event)
    holder.addEventListener('wheel', wheel, { passive: false })
    this.stops.push(() => holder.removeEventListener('wheel', wheel))
    const toolKey = (event: Event) => {
      const key = (event as CustomEvent<'Enter' | 'Escape'>).detail
      // With nothing under way a mark in the timeline goes before the selection does.
      const isForMark = key === 'Escape' && !this.isUnderWay() && useShot.getState().range !== null
      if (isForMark) return
      event.preventDefault()
      // With a drawing tool in the hand, Escape selects nothing as it does with Select: the next shape is of a new Part.
      if (key === 'Escape' && !this.isUnderWay() && DRAWING_TOOLS.has(this.machine.tool)) {
        const { selection } = selectTool.key!(selectTool.idle, key, this.context())
        return void (selection && select(selection))
      }
      this.key(key)
    }
    const fit = () => this.fit()
    window.addEventListener('tool-key', toolKey)
    window.addEventListener('fit-view', fit)
    this.stops.push(() => window.removeEventListener('tool-key', toolKey))
    this.stops.push(() => window.removeEventListener('fit-view', fit))
    this.resized()
    this.watchCache()
    this.loadFrame(state.frame)
  }

  close() {
    cancelAnimationFrame(this.scheduled)
    cancelAnimationFrame(this.hoverScheduled)
    this.stops.forEach((stop) => stop())
    this.stopWatching()
    this.mattes.close()
  }

  private listen<Name extends keyof HTMLElementEventMap>(
    name: Name,
    handler: (event: HTMLElementEventMap[Name]) => void,
  ) {
    this.holder.addEventListener(name, handler)
    this.stops.push(() => this.holder.removeEventListener(name, handler))
  }

  private storeChanged(now: ShotState, before: ShotState) {
    if (now.info?.id !== before.info?.id) {
      this.bitmap = null
      this.stopWatching()
      if (now.info) {
        this.watchCache()
        this.fit()
        this.loadFrame(now.frame)
      }
    }
    if (now.tool !== before.tool) {
      this.machine = { tool: now.tool, state: TOOL_MACHINES[now.tool].idle }
      this.forgetHover()
      if (now.shown !== now.document) preview([])
    }
    const isToldAnew =
      now.tool !== before.tool ||
      now.editing.rigPlan !== before.editing.rigPlan ||
      now.selection.partId !== before.selection.partId
    if (isToldAnew) this.tellPrompt()
    if (now.frame !== before.frame) {
      this.loadFrame(now.frame)
      this.panAfter(now, before)
    }
    const matteChanged =
      now.shown !== before.shown ||
      now.frame !== before.frame ||
      now.view.mode !== before.view.mode ||
      now.view.solo !== before.view.solo ||
      now.selection.partId !== before.selection.partId
    if (matteChanged) this.mattes.request()
    else if (now.view !== before.view) this.mattes.viewMoved()
    const plateChanged = now.view !== before.view || now.frame !== before.frame
    if (
      plateChanged ||
      now.shown !== before.shown ||
      now.selection !== before.selection ||
      now.step !== before.step ||
      now.tool !== before.tool ||
      now.pivot !== before.pivot ||
      now.editing !== before.editing ||
      now.pixelsUsed !== before.pixelsUsed
    ) {
      this.paint(plateChanged || (now.view.steadyTrackId !== null && now.shown !== before.shown))
    }
  }

  /** A cache that was emptied has closed the frame on screen: it is fetched again, as one that was not read before. */
  private watchCache() {
    const cache = frameCache()
    if (!cache) return
    this.stopWatching = cache.onChange(() => {
      if (this.bitmap && this.bitmap.width !== 0) return
      this.bitmap = null
      this.loadFrame(useShot.getState().frame)
    })
  }

  private loadFrame(frame: number) {
    const cache = frameCache()
    if (!cache) return
    const held = cache.get(frame)
    if (held) {
      this.bitmap = held
      this.paint(true)
      return
    }
    void cache.load(frame).then((bitmap) => {
      const now = useShot.getState()
      if (now.frame !== frame || (!bitmap && isRead(frame, now.readStretches))) return
      this.bitmap = bitmap
      this.paint(true)
    })
  }

  private resized() {
    const { clientWidth, clientHeight } = this.holder
    for (const canvas of [this.plain.canvas, this.plate, this.resting.canvas, this.active.canvas]) {
      canvas.width = Math.max(1, Math.round(clientWidth * this.ratio))
      canvas.height = Math.max(1, Math.round(clientHeight * this.ratio))
    }
    this.restingDrawn = null
    const { view } = useShot.getState()
    if (view.zoom === 0 || isSamePlace(view, this.fittedPlace)) this.fit()
    else this.mattes.viewMoved()
    this.paint(true)
  }

  /** Keep in view: the picture is shifted by as much as what is kept has moved on screen. */
  private panAfter(now: ShotState, before: ShotState) {
    const there = keptPlace(now, before.frame)
    const here = keptPlace(now, now.frame)
    if (!there || !here) return
    const [ax, ay] = applyToPoint(this.currentMap(before), there[0], there[1])
    const [bx, by] = applyToPoint(this.currentMap(now), here[0], here[1])
    setView({ panX: now.view.panX + ax! - bx!, panY: now.view.panY + ay! - by! })
  }

  private fit() {
    const { info } = useShot.getState()
    const { clientWidth, clientHeight } = this.holder
    if (info && clientWidth > 30 && clientHeight > 30) {
      this.fittedPlace = fitted(clientWidth, clientHeight, info.width, info.height, info.pixelAspect)
      setView(this.fittedPlace)
    }
  }

  private currentMap(state: ShotState): Matrix3 {
    return plateToScreen(state.view, state.shown, state.frame, state.info?.pixelAspect ?? 1)
  }

  private visibleBox() {
    const state = useShot.getState()
    const { clientWidth, clientHeight } = this.holder
    return visibleBox(
      this.currentMap(state),
      { width: clientWidth, height: clientHeight },
      state.info ?? { width: 0, height: 0 },
    )
  }

  private paint(plateToo: boolean) {
    this.plateDirty ||= plateToo
    if (this.scheduled) return
    this.scheduled = requestAnimationFrame(() => {
      this.scheduled = 0
      const state = useShot.getState()
      if (!state.info || state.view.zoom === 0) return
      this.toScreen = this.currentMap(state)
      if (this.plateDirty) {
        this.plateDirty = false
        this.drawPlate(state, state.info)
      }
      const sketch = TOOL_MACHINES[this.machine.tool].sketch?.(this.machine.state, this.context()) ?? null
      const seen = { ...state, shown: withSolo(state.shown, state.view.solo) }
      const picture = { state: seen, toScreen: this.toScreen, pixelRatio: this.ratio }
      if (areRestingLinesOld(this.restingDrawn, picture)) {
        this.restingDrawn = picture
        drawRestingLines(this.resting, picture)
      }
      drawActiveLines(this.active, picture, sketch, this.pointer, this.hover?.shapes ?? [])
      if (this.machine.tool === 'point' && this.pointer && this.bitmap) {
        drawLoupe(this.active, this.bitmap, this.pointer, state, this.toScreen)
      }
    })
  }

  private drawPlate({ view }: ShotState, info: { width: number; height: number }) {
    const isPlain = isPlainView(view, this.toScreen)
    if (isPlain) {
      const fill = this.matte && view.mode === 'fill' ? this.fillCanvas.placed(this.matte) : null
      drawPlainPlate(this.plain, this.bitmap, this.toScreen, view, info, this.ratio, fill)
    } else {
      try {
        this.renderer ??= new PlateRenderer(this.plate)
      } catch (error) {
        this.failed(error)
        return
      }
      this.renderer.setMatte(this.matte)
      this.renderer.setPlate(this.bitmap)
      this.renderer.draw(this.toScreen, view, info.width, info.height, this.ratio)
    }
    this.plain.canvas.hidden = !isPlain
    this.plate.hidden = isPlain
  }

  private screenPoint(event: MouseEvent): [number, number] {
    const box = this.holder.getBoundingClientRect()
    return [event.clientX - box.left, event.clientY - box.top]
  }

  private input(event: MouseEvent): PointerInput {
    const state = useShot.getState()
    const [sx, sy] = this.screenPoint(event)
    const plate = applyToPoint(invert(this.currentMap(state)), sx, sy)
    const { shiftKey: shift, altKey: alt } = event
    return { x: plate[0]!, y: plate[1]!, shift, alt, mod: event.ctrlKey || event.metaKey, scale: state.view.zoom, time: event.timeStamp } // prettier-ignore
  }

  private context(keying: Keying = keyingNow()): ToolContext {
    const state = useShot.getState()
    const { document, frame, selection, pivot, editing } = state
    const { softness, snaps, strokeWidth, rigPlan } = editing
    return {
      document: withSolo(document, state.view.solo),
      frame,
      selection,
      subjectId: subjectAtHand(document, state.lastSubjectId),
      pivot,
      keying,
      softness,
      snaps,
      strokeWidth,
      bendSides: state.bendSides,
      rigPlan,
    }
  }

  private pointerDown(event: PointerEvent) {
    stopPlayback()
    ;(document.activeElement as HTMLElement | null)?.blur()
    // A pen or a mouse may have let go already when a synthetic event arrives; capture is a comfort, not a need.
    try {
      this.holder.setPointerCapture(event.pointerId)
    } catch {
      // Not capturable: dragging still works inside the viewer.
    }
    if (event.button === 1 || event.button === 2) {
      const { panX, panY } = useShot.getState().view
      this.panning = { x: event.clientX, y: event.clientY, panX, panY }
      return
    }
    this.forgetHover()
    this.step((tool, state, context) => tool.down(state, this.input(event), context))
  }

  private pointerMove(event: PointerEvent) {
    if (this.panning) {
      const { x, y, panX, panY } = this.panning
      setView({ panX: panX + event.clientX - x, panY: panY + event.clientY - y })
      return
    }
    const input = this.input(event)
    notePointerPlace(input.x, input.y)
    this.pointer = [input.x, input.y]
    if (this.machine.tool === 'point' || pointerWords(useShot.getState())) this.paint(false)
    this.step((tool, state, context) => tool.move(state, input, context), keyingOnTheWay())
    this.hoverScheduled ||= requestAnimationFrame(() => this.look(input))
  }

  /** What the pointer was over is no longer what a press would move. */
  private forgetHover() {
    this.hover = null
    if (useShot.getState().grip !== null) useShot.setState({ grip: null })
  }

  /** Shows what a press would move, before it does: by the cursor, its lines and in words. */
  private look(input: PointerInput) {
    this.hoverScheduled = 0
    const { tool, state } = this.machine
    const hover = useShot.getState().isPlaying
      ? null
      : (TOOL_MACHINES[tool].hover?.(state, input, this.context()) ?? null)
    const isSame = hover?.words === this.hover?.words && hover?.shapes.length === this.hover?.shapes.length
    this.hover = hover
    if (isSame) return
    this.holder.style.cursor = hover?.cursor ?? TOOL_MACHINES[tool].cursor
    useShot.setState({ grip: hover?.words ?? null })
    this.paint(false)
  }

  private pointerUp(event: PointerEvent) {
    if (this.panning) {
      this.panning = null
      return
    }
    this.step((tool, state, context) => tool.up(state, this.input(event), context))
  }

  private giveUp() {
    this.panning = null
    this.machine.state = TOOL_MACHINES[this.machine.tool].idle
    preview([])
  }

  /** Whether the tool under the hand has begun something. */
  private isUnderWay(): boolean {
    const kindOf = (state: unknown) => (state as { kind: string }).kind
    return kindOf(this.machine.state) !== kindOf(TOOL_MACHINES[this.machine.tool].idle)
  }

  private key(key: 'Enter' | 'Escape') {
    this.step((tool, state, context) => tool.key?.(state, key, context) ?? { state })
  }

  /** One transition of the tool under the hand, and what it asks for. */
  private step(
    transition: (tool: Tool<unknown>, state: unknown, context: ToolContext) => ToolStep<unknown>,
    keying?: Keying,
  ) {
    const result = transition(TOOL_MACHINES[this.machine.tool], this.machine.state, this.context(keying))
    const changed = result.state !== this.machine.state
    this.machine.state = result.state
    if (result.preview) preview(result.preview)
    if (result.commit) {
      const { label, patches, reaches } = result.commit
      const isDone = reaches ? editReaching(label, patches) : edit(label, patches)
      if (isDone && result.tells) say('said', result.tells(useShot.getState().document))
    }
    if (result.selection) select(result.selection)
    if (result.pivot) useShot.setState({ pivot: result.pivot })
    if (result.asks?.kind === 'spread') void spreadPoints(result.asks.outline)
    if (result.asks?.kind === 'widths') void takeWidthsFromPlate()
    if (result.asks?.kind === 'grid') layProof(result.asks.outline)
    if (result.say) say('doubtful', result.say)
    if (result.tool) useShot.setState({ tool: result.tool })
    if (changed) {
      this.tellPrompt()
      this.paint(false)
    }
  }

  /** What the tool waits for, so that it can be said below the picture and at the pointer. */
  private tellPrompt() {
    const { tool, state } = this.machine
    const machine = TOOL_MACHINES[tool]
    const prompt = machine.prompt?.(state, this.context()) ?? null
    const tag = machine.tag?.(state, this.context()) ?? null
    const now = useShot.getState()
    if (prompt !== now.prompt || tag !== now.tag) useShot.setState({ prompt, tag })
  }

  private wheel(event: WheelEvent) {
    event.preventDefault()
    const { view } = useShot.getState()
    const [x, y] = this.screenPoint(event)
    setView(zoomedAt(view, x, y, Math.exp(-event.deltaY * 0.0015)))
  }
}
