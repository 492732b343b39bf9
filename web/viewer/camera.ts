import { applyToPoint, invert, type Matrix3 } from '@tender-lasso/core/geometry'
import { setView, useShot, type ShotState } from '../store'
import { keptPlace } from './keptPlace'
import { fitted, isSamePlace, plateToScreen, zoomedAt, type ViewPlace } from './viewTransform'
import { visibleBox } from './visibleBox'

/** The picture is never fitted into less, CSS pixels: panels may be dragged over it. */
const LEAST_SIDE = 30
/** Natural logarithm of the zoom for a pixel of the wheel. */
const ZOOM_A_PIXEL = 0.0015

/** Where the plate is on screen: zoomed, panned, fitted, and shifted along with what is kept in view. */
export class Camera {
  /** Zoom and pan of the last fit: a view that is still there stays fitted when the panels round it change. */
  private fittedPlace: ViewPlace | null = null
  private panning: { x: number; y: number; panX: number; panY: number } | null = null

  constructor(private readonly holder: HTMLElement) {}

  /** From plate pixels of the present frame to CSS pixels of the viewer. */
  mapOf(state: ShotState = useShot.getState()): Matrix3 {
    return plateToScreen(state.view, state.shown, state.frame, state.info?.pixelAspect ?? 1)
  }

  /** Stretch of the plate that can be seen, whole pixels. */
  visibleBox() {
    const state = useShot.getState()
    const { clientWidth: width, clientHeight: height } = this.holder
    return visibleBox(this.mapOf(state), { width, height }, state.info ?? { width: 0, height: 0 })
  }

  /** Plate pixels under a pointer. */
  placeUnder(event: MouseEvent): [number, number] {
    const [x, y] = applyToPoint(invert(this.mapOf()), ...this.screenPoint(event))
    return [x!, y!]
  }

  /** The whole picture, as large as it fits. */
  fit() {
    const { info } = useShot.getState()
    const { clientWidth, clientHeight } = this.holder
    if (!info || clientWidth <= LEAST_SIDE || clientHeight <= LEAST_SIDE) return
    this.fittedPlace = fitted(clientWidth, clientHeight, info.width, info.height, info.pixelAspect)
    setView(this.fittedPlace)
  }

  /** A screen pixel a plate pixel, about the middle of the viewer. */
  oneToOne() {
    const { view } = useShot.getState()
    const { clientWidth, clientHeight } = this.holder
    setView(zoomedAt(view, clientWidth / 2, clientHeight / 2, 1 / view.zoom))
  }

  /** The viewer has another size. Returns whether the view has stayed as it was. */
  resized(): boolean {
    const { view } = useShot.getState()
    if (view.zoom !== 0 && !isSamePlace(view, this.fittedPlace)) return true
    this.fit()
    return false
  }

  zoomed(event: WheelEvent) {
    setView(zoomedAt(useShot.getState().view, ...this.screenPoint(event), Math.exp(-event.deltaY * ZOOM_A_PIXEL)))
  }

  /** The middle or the right button takes hold of the picture. Returns whether it does. */
  panBegun({ button, clientX, clientY }: PointerEvent): boolean {
    if (button !== 1 && button !== 2) return false
    const { panX, panY } = useShot.getState().view
    this.panning = { x: clientX, y: clientY, panX, panY }
    return true
  }

  /** Returns whether the picture is held. */
  panned({ clientX, clientY }: PointerEvent): boolean {
    if (!this.panning) return false
    const { x, y, panX, panY } = this.panning
    setView({ panX: panX + clientX - x, panY: panY + clientY - y })
    return true
  }

  /** Returns whether the picture was held. */
  panEnded(): boolean {
    const wasHeld = this.panning !== null
    this.panning = null
    return wasHeld
  }

  /** Keep in view: the picture is shifted by as much as what is kept has moved on screen from frame to frame. */
  followed(now: ShotState, before: ShotState) {
    const there = keptPlace(now, before.frame)
    const here = keptPlace(now, now.frame)
    if (!there || !here) return
    const [ax, ay] = applyToPoint(this.mapOf(before), there[0], there[1])
    const [bx, by] = applyToPoint(this.mapOf(now), here[0], here[1])
    setView({ panX: now.view.panX + ax! - bx!, panY: now.view.panY + ay! - by! })
  }

  private screenPoint(event: MouseEvent): [number, number] {
    const box = this.holder.getBoundingClientRect()
    return [event.clientX - box.left, event.clientY - box.top]
  }
}
