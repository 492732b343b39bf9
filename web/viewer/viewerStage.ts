import { connectViewer, notePointerPlace, useShot, type ShotState } from '../store'
import { Camera } from './camera'
import { Compositor, type Layers } from './compositor'
import { pointerWords } from './overlay'
import { stopPlayback } from './playback'
import { ToolHost } from './toolHost'
import type { PointerInput } from './tools/tool'

/** The viewer at work: hands what happens to the camera, the tool in the hand and the compositor. */
export class ViewerStage {
  private readonly camera: Camera
  private readonly compositor: Compositor
  private readonly host: ToolHost
  private readonly stops: (() => void)[] = []

  constructor(
    private readonly holder: HTMLDivElement,
    layers: Layers,
    failed: (error: unknown) => void,
  ) {
    this.camera = new Camera(holder)
    this.compositor = new Compositor(layers, this.camera, () => this.host, failed)
    this.host = new ToolHost({
      repaint: () => this.compositor.paint(false),
      setCursor: (cursor) => void (holder.style.cursor = cursor),
    })
    this.stops.push(useShot.subscribe((now, before) => this.storeChanged(now, before)))
    const observer = new ResizeObserver(() => this.resized())
    observer.observe(holder)
    this.stops.push(() => observer.disconnect())
    this.listen('pointerdown', (event) => this.pointerDown(event))
    this.listen('pointermove', (event) => this.pointerMove(event))
    this.listen('pointerup', (event) => this.camera.panEnded() || this.host.up(this.input(event)))
    this.listen('pointercancel', () => {
      this.camera.panEnded()
      this.host.giveUp()
    })
    this.listen('dblclick', () => this.host.key('Enter'))
    this.listen('contextmenu', (event) => event.preventDefault())
    const wheel = (event: WheelEvent) => {
      event.preventDefault()
      this.camera.zoomed(event)
    }
    holder.addEventListener('wheel', wheel, { passive: false })
    this.stops.push(() => holder.removeEventListener('wheel', wheel))
    this.stops.push(
      connectViewer({
        fit: () => this.camera.fit(),
        oneToOne: () => this.camera.oneToOne(),
        offered: (key) => this.host.offered(key),
      }),
    )
    const { info, frame } = useShot.getState()
    this.resized()
    this.compositor.shotChanged(info)
    this.compositor.loadFrame(frame)
  }

  close() {
    this.stops.forEach((stop) => stop())
    this.host.close()
    this.compositor.close()
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
      this.compositor.shotChanged(now.info)
      if (now.info) {
        this.camera.fit()
        this.compositor.loadFrame(now.frame)
      }
    }
    if (now.tool !== before.tool) this.host.taken(now.tool)
    const isToldAnew =
      now.tool !== before.tool ||
      now.editing.rigPlan !== before.editing.rigPlan ||
      now.selection.partId !== before.selection.partId
    if (isToldAnew) this.host.tellPrompt()
    if (now.frame !== before.frame) {
      this.compositor.loadFrame(now.frame)
      this.camera.followed(now, before)
    }
    this.compositor.storeChanged(now, before)
  }

  private resized() {
    this.compositor.resized(this.holder.clientWidth, this.holder.clientHeight)
    if (this.camera.resized()) this.compositor.viewMoved()
    this.compositor.paint(true)
  }

  private input(event: MouseEvent): PointerInput {
    const [x, y] = this.camera.placeUnder(event)
    const { shiftKey: shift, altKey: alt } = event
    const { zoom: scale } = useShot.getState().view
    return { x, y, shift, alt, mod: event.ctrlKey || event.metaKey, scale, time: event.timeStamp }
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
    if (!this.camera.panBegun(event)) this.host.down(this.input(event))
  }

  private pointerMove(event: PointerEvent) {
    if (this.camera.panned(event)) return
    const input = this.input(event)
    notePointerPlace(input.x, input.y)
    this.compositor.pointedAt(input.x, input.y)
    if (this.host.tool === 'point' || pointerWords(useShot.getState())) this.compositor.paint(false)
    this.host.move(input)
  }
}
