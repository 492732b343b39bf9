import type { Matrix3 } from '@tender-lasso/core/geometry'
import { frameCache } from '../session'
import { useShot, withSolo, type ShotState } from '../store'
import type { Camera } from './camera'
import { drawLoupe } from './loupe'
import { MatteCanvas } from './matteCanvas'
import { MattePreviewer, type MattePreview } from './mattePreview'
import { areRestingLinesOld, drawActiveLines, drawRestingLines, type OverlayPicture } from './overlay'
import { drawPlainPlate, isPlainView } from './plainPlate'
import { PlateRenderer } from './plateRenderer'
import type { ToolHost } from './toolHost'

/** Milliseconds after which it is said that a frame is on its way, and until one that did not come is asked for again. */
const LATE_MS = 400
const RETRY_MS = 2000

/** Canvases over one another: the plate, without and with a graphics card; lines at rest; lines that move. */
export interface Layers {
  plain: HTMLCanvasElement
  plate: HTMLCanvasElement
  resting: HTMLCanvasElement
  active: HTMLCanvasElement
}

/** Puts the picture together when something changed, once per display frame: plate, mattes and lines. */
export class Compositor {
  /** Made when a view first needs it: that takes a tenth of a second where no graphics card helps. */
  private renderer: PlateRenderer | null = null
  private readonly plain: CanvasRenderingContext2D
  private readonly resting: CanvasRenderingContext2D
  private readonly active: CanvasRenderingContext2D
  /** What the resting lines were drawn from. */
  private restingDrawn: OverlayPicture | null = null
  private readonly mattes: MattePreviewer
  private readonly fillCanvas = new MatteCanvas()
  private readonly ratio = Math.min(2, window.devicePixelRatio || 1)
  private scheduled = 0
  private retry: ReturnType<typeof setTimeout> | undefined
  private isPlateOld = true
  private bitmap: ImageBitmap | null = null
  private matte: MattePreview | null = null
  private stopWatching: () => void = () => {}
  /** Where the pointer is, plate pixels, while something is drawn there. */
  private pointer: readonly [number, number] | null = null

  constructor(
    private readonly layers: Layers,
    private readonly camera: Camera,
    private readonly host: () => ToolHost,
    private readonly failed: (error: unknown) => void,
  ) {
    this.plain = layers.plain.getContext('2d', { alpha: false })!
    this.resting = layers.resting.getContext('2d')!
    this.active = layers.active.getContext('2d')!
    this.mattes = new MattePreviewer(
      () => camera.visibleBox(),
      (matte) => {
        this.matte?.bands.forEach(({ picture }) => picture.close())
        this.matte = matte
        this.paint(true)
      },
    )
  }

  close() {
    cancelAnimationFrame(this.scheduled)
    clearTimeout(this.retry)
    this.stopWatching()
    this.mattes.close()
  }

  resized(width: number, height: number) {
    for (const canvas of Object.values(this.layers)) {
      canvas.width = Math.max(1, Math.round(width * this.ratio))
      canvas.height = Math.max(1, Math.round(height * this.ratio))
    }
    this.restingDrawn = null
  }

  viewMoved() {
    this.mattes.viewMoved()
  }

  pointedAt(x: number, y: number) {
    this.pointer = [x, y]
  }

  /** Another shot is open, or none. */
  shotChanged(info: ShotState['info']) {
    this.bitmap = null
    this.stopWatching()
    if (info) this.watchCache()
  }

  /** Has what is drawn be drawn anew, as far as it depends on what has changed. */
  storeChanged(now: ShotState, before: ShotState) {
    const isOtherMatte =
      now.shown !== before.shown ||
      now.frame !== before.frame ||
      now.view.mode !== before.view.mode ||
      now.view.solo !== before.view.solo ||
      now.selection.partId !== before.selection.partId
    if (isOtherMatte) this.mattes.request()
    else if (now.view !== before.view) this.mattes.viewMoved()
    const isOtherPlate = now.view !== before.view || now.frame !== before.frame
    const isOtherLine =
      now.shown !== before.shown ||
      now.selection !== before.selection ||
      now.step !== before.step ||
      now.tool !== before.tool ||
      now.pivot !== before.pivot ||
      now.editing !== before.editing ||
      now.pixelsUsed !== before.pixelsUsed ||
      now.deliveredMatte !== before.deliveredMatte ||
      now.softness !== before.softness
    if (!isOtherPlate && !isOtherLine) return
    // Held still by a track the plate moves when that track does.
    this.paint(isOtherPlate || (now.view.steadyTrackId !== null && now.shown !== before.shown))
  }

  /** A cache that was emptied has closed the frame on screen: it is fetched again, as one that was not read before. */
  private watchCache() {
    const cache = frameCache()
    if (!cache) return
    this.stopWatching = cache.onChange(() => {
      if (this.bitmap && this.bitmap.width !== 0) return
      this.bitmap = null
      const { frame } = useShot.getState()
      // One that did not come is asked for again in its time, not whenever another comes.
      if (!cache.isLost(frame)) this.loadFrame(frame)
    })
  }

  loadFrame(frame: number) {
    clearTimeout(this.retry)
    const cache = frameCache()
    if (!cache) return
    const held = cache.get(frame)
    if (held) {
      this.bitmap = held
      if (useShot.getState().awaited) useShot.setState({ awaited: null })
      this.paint(true)
      return
    }
    const isShown = () => frameCache() === cache && useShot.getState().frame === frame
    const late = setTimeout(() => {
      const { awaited } = useShot.getState()
      if (isShown() && awaited?.frame !== frame) useShot.setState({ awaited: { frame, isLost: false } })
    }, LATE_MS)
    void cache.load(frame).then((bitmap) => {
      clearTimeout(late)
      if (!isShown()) return
      this.bitmap = bitmap
      this.paint(true)
      const isLost = !bitmap && cache.isLost(frame)
      useShot.setState({ awaited: isLost ? { frame, isLost } : null })
      if (isLost) this.retry = setTimeout(() => isShown() && this.loadFrame(frame), RETRY_MS)
    })
  }

  /** @param plateToo  the plate is old as well as the lines */
  paint(plateToo: boolean) {
    this.isPlateOld ||= plateToo
    if (this.scheduled) return
    this.scheduled = requestAnimationFrame(() => {
      this.scheduled = 0
      const state = useShot.getState()
      if (!state.info || state.view.zoom === 0) return
      const toScreen = this.camera.mapOf(state)
      if (this.isPlateOld) {
        this.isPlateOld = false
        this.drawPlate(state, state.info, toScreen)
      }
      this.drawLines(state, toScreen)
      // What is on the screen now, for whoever looks at the page from outside.
      Object.assign(this.layers.active.dataset, { frame: state.frame, zoom: state.view.zoom.toFixed(5) })
    })
  }

  private drawLines(state: ShotState, toScreen: Matrix3) {
    const host = this.host()
    const sketch = host.sketch()
    const seen = { ...state, shown: withSolo(state.shown, state.view.solo) }
    const picture = { state: seen, toScreen, pixelRatio: this.ratio }
    if (areRestingLinesOld(this.restingDrawn, picture)) {
      this.restingDrawn = picture
      drawRestingLines(this.resting, picture)
    }
    drawActiveLines(this.active, picture, sketch, this.pointer, host.gripped)
    if (host.tool === 'point' && this.pointer && this.bitmap) {
      drawLoupe(this.active, this.bitmap, this.pointer, state, toScreen)
    }
  }

  private drawPlate({ view }: ShotState, info: { width: number; height: number }, toScreen: Matrix3) {
    const isPlain = isPlainView(view, toScreen)
    if (isPlain) {
      const fill = this.matte && view.mode === 'fill' ? this.fillCanvas.placed(this.matte) : null
      drawPlainPlate(this.plain, this.bitmap, toScreen, view, info, this.ratio, fill)
    } else {
      try {
        this.renderer ??= new PlateRenderer(this.layers.plate)
      } catch (error) {
        this.failed(error)
        return
      }
      this.renderer.setMatte(this.matte)
      this.renderer.setPlate(this.bitmap)
      this.renderer.draw(toScreen, view, info.width, info.height, this.ratio)
    }
    this.layers.plain.hidden = !isPlain
    this.layers.plate.hidden = isPlain
  }
}
