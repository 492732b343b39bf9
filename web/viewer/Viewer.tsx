'use client'

import { useEffect, useRef, useState } from 'react'
import { Alert } from 'antd'
import { applyToPoint, invert, type Matrix3 } from '@tender-lasso/core/geometry'
import { edit, frameCache, preview, say, select, setView, useShot, type ShotState } from '../state/shotStore'
import type { ToolName } from '../state/steps'
import { MattePreviewer } from './mattePreview'
import { drawOverlay } from './overlay'
import { PlateRenderer } from './plateRenderer'
import { stopPlayback } from './playback'
import { lassoTool, penTool } from './tools/drawTools'
import { regionTool } from './tools/regionTool'
import { selectTool } from './tools/selectTool'
import type { PointerInput, Tool, ToolContext, ToolStep } from './tools/tool'
import { turnTool } from './tools/turnTool'
import { fitted, plateToScreen, zoomedAt } from './viewTransform'
import styles from './viewer.module.css'

const TOOL_MACHINES: Record<ToolName, Tool<unknown>> = {
  select: selectTool as Tool<unknown>,
  lasso: lassoTool as Tool<unknown>,
  pen: penTool as Tool<unknown>,
  turn: turnTool as Tool<unknown>,
  region: regionTool as Tool<unknown>,
}

export function Viewer() {
  const holder = useRef<HTMLDivElement>(null)
  const plateCanvas = useRef<HTMLCanvasElement>(null)
  const overlayCanvas = useRef<HTMLCanvasElement>(null)
  const [failure, setFailure] = useState<string | null>(null)
  const tool = useShot((state) => state.tool)

  useEffect(() => {
    try {
      const stage = new ViewerStage(holder.current!, plateCanvas.current!, overlayCanvas.current!)
      return () => stage.close()
    } catch (error) {
      setFailure(error instanceof Error ? error.message : String(error))
    }
  }, [])

  return (
    <div ref={holder} className={styles.viewer} data-testid="viewer" style={{ cursor: TOOL_MACHINES[tool].cursor }}>
      <canvas ref={plateCanvas} className={styles.layer} />
      <canvas ref={overlayCanvas} className={styles.layer} />
      {failure && <Alert className={styles.failure} type="error" showIcon title={failure} />}
    </div>
  )
}

/** Listens to the store and to the pointer and draws when something changed, once per display frame. */
class ViewerStage {
  private readonly renderer: PlateRenderer
  private readonly overlay: CanvasRenderingContext2D
  private readonly mattes: MattePreviewer
  private readonly stops: (() => void)[] = []
  private readonly ratio = Math.min(2, window.devicePixelRatio || 1)
  private toScreen: Matrix3
  private scheduled = 0
  private plateDirty = true
  private machine: { tool: ToolName; state: unknown }
  private panning: { x: number; y: number; panX: number; panY: number } | null = null

  constructor(
    private readonly holder: HTMLDivElement,
    private readonly plate: HTMLCanvasElement,
    overlay: HTMLCanvasElement,
  ) {
    this.renderer = new PlateRenderer(plate)
    this.overlay = overlay.getContext('2d')!
    this.mattes = new MattePreviewer((matte) => {
      this.renderer.setMatte(matte)
      this.paint(true)
    })
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
    const toolKey = (event: Event) => this.key((event as CustomEvent<'Enter' | 'Escape'>).detail)
    const fit = () => this.fit()
    window.addEventListener('tool-key', toolKey)
    window.addEventListener('fit-view', fit)
    this.stops.push(() => window.removeEventListener('tool-key', toolKey))
    this.stops.push(() => window.removeEventListener('fit-view', fit))
    this.resized()
    this.loadFrame(state.frame)
  }

  close() {
    cancelAnimationFrame(this.scheduled)
    this.stops.forEach((stop) => stop())
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
    if (now.info !== before.info) {
      this.renderer.setPlate(null)
      if (now.info) {
        this.fit()
        this.loadFrame(now.frame)
      }
    }
    if (now.tool !== before.tool) {
      this.machine = { tool: now.tool, state: TOOL_MACHINES[now.tool].idle }
      if (now.shown !== now.document) preview([])
    }
    if (now.frame !== before.frame) this.loadFrame(now.frame)
    const zoomChanged = now.view.zoom !== before.view.zoom
    const matteChanged =
      now.shown !== before.shown ||
      now.frame !== before.frame ||
      now.view.mode !== before.view.mode ||
      now.selection.partId !== before.selection.partId ||
      (zoomChanged && (now.view.zoom < 1 || before.view.zoom < 1))
    if (matteChanged) this.mattes.request()
    const plateChanged = now.view !== before.view || now.frame !== before.frame
    if (
      plateChanged ||
      now.shown !== before.shown ||
      now.selection !== before.selection ||
      now.step !== before.step ||
      now.tool !== before.tool ||
      now.pivot !== before.pivot
    ) {
      this.paint(plateChanged || (now.view.steadyTrackId !== null && now.shown !== before.shown))
    }
  }

  private loadFrame(frame: number) {
    const cache = frameCache()
    if (!cache) return
    const held = cache.get(frame)
    if (held) {
      this.renderer.setPlate(held)
      this.paint(true)
      return
    }
    void cache.load(frame).then((bitmap) => {
      if (!bitmap || useShot.getState().frame !== frame) return
      this.renderer.setPlate(bitmap)
      this.paint(true)
    })
  }

  private resized() {
    const { clientWidth, clientHeight } = this.holder
    for (const canvas of [this.plate, this.overlay.canvas]) {
      canvas.width = Math.max(1, Math.round(clientWidth * this.ratio))
      canvas.height = Math.max(1, Math.round(clientHeight * this.ratio))
    }
    if (useShot.getState().view.zoom === 0) this.fit()
    this.paint(true)
  }

  private fit() {
    const { info } = useShot.getState()
    const { clientWidth, clientHeight } = this.holder
    if (info && clientWidth > 30 && clientHeight > 30) {
      setView(fitted(clientWidth, clientHeight, info.width, info.height, info.pixelAspect))
    }
  }

  private currentMap(state: ShotState): Matrix3 {
    return plateToScreen(state.view, state.shown, state.frame, state.info?.pixelAspect ?? 1)
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
        this.renderer.draw(invert(this.toScreen), state.view, state.info.width, state.info.height, this.ratio)
      }
      const sketch = TOOL_MACHINES[this.machine.tool].sketch?.(this.machine.state) ?? null
      drawOverlay(this.overlay, state, this.toScreen, sketch, this.ratio)
    })
  }

  private screenPoint(event: MouseEvent): [number, number] {
    const box = this.holder.getBoundingClientRect()
    return [event.clientX - box.left, event.clientY - box.top]
  }

  private input(event: MouseEvent): PointerInput {
    const state = useShot.getState()
    const [sx, sy] = this.screenPoint(event)
    const plate = applyToPoint(invert(this.currentMap(state)), sx, sy)
    return { x: plate[0]!, y: plate[1]!, shift: event.shiftKey, alt: event.altKey, scale: state.view.zoom }
  }

  private context(): ToolContext {
    const { document, frame, selection, pivot } = useShot.getState()
    return { document, frame, selection, pivot }
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
    this.step((tool, state, context) => tool.down(state, this.input(event), context))
  }

  private pointerMove(event: PointerEvent) {
    if (this.panning) {
      const { x, y, panX, panY } = this.panning
      setView({ panX: panX + event.clientX - x, panY: panY + event.clientY - y })
      return
    }
    const input = this.input(event)
    window.dispatchEvent(new CustomEvent('pointer-place', { detail: [input.x, input.y] }))
    this.step((tool, state, context) => tool.move(state, input, context))
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

  private key(key: 'Enter' | 'Escape') {
    this.step((tool, state, context) => tool.key?.(state, key, context) ?? { state })
  }

  /** One transition of the tool under the hand, and what it asks for. */
  private step(transition: (tool: Tool<unknown>, state: unknown, context: ToolContext) => ToolStep<unknown>) {
    const result = transition(TOOL_MACHINES[this.machine.tool], this.machine.state, this.context())
    const changed = result.state !== this.machine.state
    this.machine.state = result.state
    if (result.preview) preview(result.preview)
    if (result.commit) edit(result.commit.label, result.commit.patches)
    if (result.selection) select(result.selection)
    if (result.pivot) useShot.setState({ pivot: result.pivot })
    if (result.say) say('doubtful', result.say)
    if (changed) this.paint(false)
  }

  private wheel(event: WheelEvent) {
    event.preventDefault()
    const { view } = useShot.getState()
    const [x, y] = this.screenPoint(event)
    setView(zoomedAt(view, x, y, Math.exp(-event.deltaY * 0.0015)))
  }
}
