'use client'

import { useEffect, useRef, useState } from 'react'
import { Segmented } from 'antd'
import { findObject } from '@tender-lasso/core/document'
import { frameCache, wordsOf } from '../../session'
import { goTo, say, usePointerPlace, useShot } from '../../store'
import { startMatteHelper, sync, type MatteHelper } from '../../viewer/matteHelper'
import { looksAt, NEIGHBOURS, type EdgeLook } from './edgeLook'
import { paintProfile, paintTile } from './paintEdges'
import styles from './edges.module.css'

const ZOOMS = [3, 6, 12]
const TILES = 2 * NEIGHBOURS + 1

/** One place of an edge on the frames about the present one, the plate and over it the edge of the matte with its motion blur; they change while something is dragged. */
export function EdgeStrip() {
  const [zoom, setZoom] = useState(6)
  const holder = useRef<HTMLDivElement>(null)
  const painter = useRef<EdgePainter | null>(null)
  const frame = useShot((state) => state.frame)
  const info = useShot((state) => state.info)
  const name = useShot(({ document, selection }) => (selection.partId ? findObject(document, 'part', selection.partId)?.name : undefined)) // prettier-ignore
  useEffect(() => {
    const own = new EdgePainter(holder.current!)
    painter.current = own
    return () => own.close()
  }, [])
  useEffect(() => painter.current?.zoomed(zoom), [zoom])
  return (
    <div className={styles.face}>
      <div ref={holder} className={styles.strip} aria-label="Edges on the frames about this one" hidden={!name}>
        {Array.from({ length: TILES }, (_, i) => {
          const at = frame + i - NEIGHBOURS
          const isThere = info !== null && at >= info.firstFrame && at <= info.lastFrame
          return (
            <button
              key={i}
              type="button"
              className={i === NEIGHBOURS ? styles.tileHere : styles.tile}
              aria-current={i === NEIGHBOURS}
              title={isThere ? `Go to ${at}` : 'The shot has no frame here'}
              disabled={!isThere}
              onClick={() => goTo(at)}
            >
              <canvas />
              <span>{isThere ? at : ''}</span>
            </button>
          )
        })}
        <div
          className={styles.tile}
          title="Across the edge at that place, from inside to outside, 10 px to both sides: the plate light, the alpha in colour"
        >
          <canvas />
          <span>profile</span>
        </div>
      </div>
      {name ? (
        <Segmented
          className={styles.zoom}
          size="small"
          vertical
          aria-label="Magnification"
          value={zoom}
          options={ZOOMS.map((value) => ({ value, label: `${value}x` }))}
          onChange={setZoom}
        />
      ) : (
        <p className={styles.empty}>
          Select a Part and point at its edge, or select points: the edge there is shown on the frames before and after.
        </p>
      )}
    </div>
  )
}

/** Paints the tiles whenever what they show may have changed, one picture after the other. */
class EdgePainter {
  private helper: MatteHelper | null = null
  private zoom = 6
  private isBusy = false
  private isWanted = false
  private isClosed = false
  private scheduled = 0
  /** Alphas of the last looks, by frame, shown until there are newer ones. */
  private alphas = new Map<number, { look: EdgeLook; alpha: Float32Array }>()
  private readonly stops: (() => void)[]

  constructor(private readonly holder: HTMLDivElement) {
    const observer = new ResizeObserver(() => this.request())
    observer.observe(holder)
    this.stops = [
      useShot.subscribe((now, before) => {
        if (now.shown !== before.shown || now.frame !== before.frame || now.selection !== before.selection)
          this.request()
      }),
      usePointerPlace.subscribe(() => this.request()),
      frameCache()?.onChange(() => this.request()) ?? (() => undefined),
      () => observer.disconnect(),
    ]
    this.request()
  }

  zoomed(zoom: number) {
    this.zoom = zoom
    this.request()
  }

  close() {
    this.isClosed = true
    cancelAnimationFrame(this.scheduled)
    this.stops.forEach((stop) => stop())
    this.helper?.worker.close()
  }

  private request() {
    if (this.isBusy) {
      this.isWanted = true
      return
    }
    if (this.scheduled) return
    this.scheduled = requestAnimationFrame(() => {
      this.scheduled = 0
      void this.look()
    })
  }

  private async look() {
    const state = useShot.getState()
    const canvases = [...this.holder.querySelectorAll('canvas')]
    const ratio = Math.min(2, window.devicePixelRatio || 1)
    for (const canvas of canvases) fit(canvas, ratio)
    const [first] = canvases
    if (!state.info || !first || first.width < 2) return
    const scale = this.zoom * ratio
    const looks = looksAt(state, usePointerPlace.getState().place, {
      width: first.width / scale,
      height: first.height / scale,
    })
    const { partId } = state.selection
    if (!looks || partId === null) return this.paint(canvases, [], scale, state.frame, state.info.width)
    const cache = frameCache()
    void cache?.fetchAhead(looks.map(({ frame }) => frame), () => !this.isClosed) // prettier-ignore
    this.isBusy = true
    try {
      this.helper ??= startMatteHelper()
      sync(this.helper, state.shown)
      const found = await this.helper.worker.remote.alphas(partId, looks)
      if (this.isClosed) return
      this.alphas = new Map(looks.map((look, i) => [look.frame, { look, alpha: found[i]! }]))
      this.paint(canvases, looks, scale, state.frame, state.info.width)
    } catch (error) {
      this.helper = null
      if (!this.isClosed) say('bad', `The edges could not be drawn: ${wordsOf(error)}`)
    } finally {
      this.isBusy = false
      if (this.isWanted && !this.isClosed) {
        this.isWanted = false
        this.request()
      }
    }
  }

  private paint(
    canvases: HTMLCanvasElement[],
    looks: readonly EdgeLook[],
    scale: number,
    frame: number,
    plateWidth: number,
  ) {
    const cache = frameCache()
    const byFrame = new Map(looks.map((look) => [look.frame, look]))
    canvases.forEach((canvas, i) => {
      const context = canvas.getContext('2d')!
      const at = i < TILES ? frame + i - NEIGHBOURS : frame
      const look = byFrame.get(at)
      if (!look) {
        context.setTransform(1, 0, 0, 1, 0, 0)
        return context.clearRect(0, 0, canvas.width, canvas.height)
      }
      const known = this.alphas.get(at)
      const alpha = known?.look === look ? known.alpha : null
      if (i < TILES) paintTile(context, look, scale, cache?.get(at), plateWidth, alpha)
      else paintProfile(context, look, cache?.get(at), plateWidth, alpha)
    })
  }
}

/** A canvas with as many pixels as the screen gives it. */
function fit(canvas: HTMLCanvasElement, ratio: number) {
  const { clientWidth, clientHeight } = canvas
  const [width, height] = [Math.round(clientWidth * ratio), Math.round(clientHeight * ratio)]
  if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, { width, height })
}
