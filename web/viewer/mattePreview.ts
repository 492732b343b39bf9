import { isAlive, partsByDepth } from '@tender-lasso/core/evaluation'
import type { Box } from '@tender-lasso/core/geometry'
import { partColour, withSolo, say, useShot, type ShotState } from '../store'
import { wordsOf } from '../session'
import type { MatteBand, MatteBandRequest } from '../workers/matte.worker'
import { startMatteHelper, sync, type MatteHelper } from './matteHelper'

/** After the last change the picture is computed exactly: with motion blur. */
const REST_MS = 30
/** Share of the visible width and height that is computed beyond it, so that a pan does not show bare edges at once. */
const BEYOND = 0.2
const MOST_WORKERS = 4

type Quality = 'live' | 'exact'

/** A picture of the mattes on a stretch of the plate, in bands one below the other. */
export interface MattePreview {
  /** Target pixels per plate pixel. */
  scale: number
  /** Whole target pixels. */
  box: Box
  bands: MatteBand[]
}

/**
 * Keeps the matte picture of the viewer up to date, at the view's resolution: without motion blur while the artist drags
 * or scrubs, exactly when things rest. One picture is under way at a time, each worker making a band of it; the newest
 * waiting one wins, and an exact one that is no longer wanted is given up.
 */
export class MattePreviewer {
  /** Started with the first matte that is looked at. */
  private helpers: MatteHelper[] = []
  private readonly wanted =
    typeof SharedArrayBuffer === 'undefined'
      ? null
      : new Int32Array(new SharedArrayBuffer(Int32Array.BYTES_PER_ELEMENT))
  private generation = 0
  private isBusy = false
  private isClosed = false
  /** Pictures in a row that could not be made. */
  private failures = 0
  private waiting: Quality | null = null
  private restTimer: ReturnType<typeof setTimeout> | undefined
  private restedAt = 0
  private shown: { scale: number; box: Box } | null = null

  /**
   * @param visible  box of the plate that the viewer shows
   * @param deliver  gets each new picture, or null when none is to be shown
   */
  constructor(
    private readonly visible: () => Box,
    private readonly deliver: (matte: MattePreview | null) => void,
  ) {}

  private startHelpers() {
    const count = Math.max(1, Math.min(MOST_WORKERS, (navigator.hardwareConcurrency || 2) - 1))
    this.helpers = Array.from({ length: count }, () => {
      const helper = startMatteHelper()
      // One that is dead says so when it is asked for a picture.
      if (this.wanted) helper.worker.remote.share(this.wanted).catch(() => undefined)
      return helper
    })
  }

  /** Something that the matte depends on has changed. */
  request() {
    clearTimeout(this.restTimer)
    this.nextGeneration()
    if (useShot.getState().view.mode === 'plate') {
      this.takeAway()
      return
    }
    this.restedAt = performance.now()
    this.start('live')
    this.restTimer = setTimeout(() => this.start('exact'), REST_MS)
  }

  /** The picture is no longer to be seen. Told once: each telling has the plate drawn anew. */
  private takeAway() {
    if (!this.shown) return
    this.shown = null
    this.deliver(null)
  }

  /** The view has moved: a new picture is made when the present one does not reach as far. */
  viewMoved() {
    const { view } = useShot.getState()
    if (view.mode === 'plate' || view.zoom === 0) return
    const { shown } = this
    const visible = this.visible()
    const isCovered =
      shown &&
      shown.scale === scaleOf(view.zoom) &&
      shown.box.left <= visible.left * shown.scale &&
      shown.box.top <= visible.top * shown.scale &&
      shown.box.right >= Math.floor(visible.right * shown.scale) &&
      shown.box.bottom >= Math.floor(visible.bottom * shown.scale)
    if (!isCovered) this.request()
  }

  close() {
    clearTimeout(this.restTimer)
    this.isClosed = true
    this.endHelpers()
  }

  private endHelpers() {
    for (const { worker } of this.helpers) worker.close()
    this.helpers = []
  }

  private nextGeneration() {
    this.generation++
    if (this.wanted) Atomics.store(this.wanted, 0, this.generation)
  }

  /** What waited as long as this for the picture before it is late already: the timer of a busy page is as well. */
  private hasRested(): boolean {
    return performance.now() - this.restedAt >= REST_MS
  }

  private start(quality: Quality) {
    if (this.isBusy) {
      this.waiting = quality
      return
    }
    if (quality === 'exact') clearTimeout(this.restTimer)
    this.isBusy = true
    const rendering = this.render(quality).then(
      () => void (this.failures = 0),
      (error: unknown) => this.failed(quality, error),
    )
    void rendering.finally(() => {
      this.isBusy = false
      const next = this.waiting
      this.waiting = null
      if (next) this.start(this.hasRested() ? 'exact' : next)
    })
  }

  /** A helper died or could not draw: it is said, all are started anew, and the picture is tried once more. */
  private failed(quality: Quality, error: unknown) {
    if (this.isClosed) return
    this.endHelpers()
    this.takeAway()
    say('bad', `The mattes could not be drawn: ${wordsOf(error)}`)
    if (++this.failures === 1) this.waiting ??= quality
  }

  private async render(quality: Quality) {
    const now = useShot.getState()
    const state = { ...now, shown: withSolo(now.shown, now.view.solo) }
    if (!state.info || state.view.mode === 'plate' || state.view.zoom === 0) return
    const scale = scaleOf(state.view.zoom)
    const box = targetBox(this.visible(), scale, state.info)
    if (box.left >= box.right || box.top >= box.bottom) return
    if (this.helpers.length === 0) this.startHelpers()
    const { restedAt, generation } = this
    const request = requestOf(state, scale, quality, quality === 'exact' ? generation : null)
    const bands = await Promise.all(
      bandsOf(box, this.helpers.length).map((band, i) => {
        const helper = this.helpers[i]!
        sync(helper, state.shown)
        return helper.worker.remote.render({ ...request, box: band })
      }),
    )
    const made = bands.filter((band) => band !== null)
    if (made.length < bands.length) return made.forEach(({ picture }) => picture.close())
    this.shown = { scale, box }
    this.deliver({ scale, box, bands: made })
    if (quality === 'exact' && generation === this.generation) performance.measure('exact matte', { start: restedAt })
  }
}

/** At most the plate's own resolution: beyond it single pixels are judged. */
const scaleOf = (zoom: number) => Math.min(1, Math.max(0.02, zoom))

function targetBox(visible: Box, scale: number, plate: { width: number; height: number }): Box {
  const beyondX = (visible.right - visible.left) * BEYOND
  const beyondY = (visible.bottom - visible.top) * BEYOND
  return {
    left: Math.floor(Math.max(0, visible.left - beyondX) * scale),
    top: Math.floor(Math.max(0, visible.top - beyondY) * scale),
    right: Math.ceil(Math.min(plate.width, visible.right + beyondX) * scale),
    bottom: Math.ceil(Math.min(plate.height, visible.bottom + beyondY) * scale),
  }
}

function bandsOf(box: Box, count: number): Box[] {
  const height = box.bottom - box.top
  const most = Math.min(count, height)
  return Array.from({ length: most }, (_, i) => ({
    ...box,
    top: box.top + Math.floor((height * i) / most),
    bottom: box.top + Math.floor((height * (i + 1)) / most),
  }))
}

function requestOf(
  state: ShotState,
  scale: number,
  quality: Quality,
  generation: number | null,
): Omit<MatteBandRequest, 'box'> {
  const alive = partsByDepth(state.shown, state.frame).filter((part) => part.visible && isAlive(part, state.frame))
  const chosen = alive.filter((part) => part.id === state.selection.partId)
  return {
    frame: state.frame,
    scale,
    motionBlur: quality === 'exact',
    // The fill tells all Parts apart; matte and cut-out are of the selected Part, or of all when none is selected.
    parts: (chosen.length && state.view.mode !== 'fill' ? chosen : alive).map((part) => ({
      id: part.id,
      colour: partColour(state.shown, part),
    })),
    withHoldouts: true,
    generation,
  }
}
