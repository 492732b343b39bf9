import { releaseProxy, wrap, type Remote } from 'comlink'
import { isAlive, partsByDepth, type DocumentObject, type RotoDocument } from '@tender-lasso/core/document'
import { partColour } from '../state/colours'
import { useShot, type ShotState } from '../state/shotStore'
import type { MattePreview, MattePreviewRequest, MatteWorker } from '../workers/matte.worker'

/** After the last change the picture is computed exactly: full size of the view, with motion blur. */
const REST_MS = 60
/** Share of the view's resolution while something moves. */
const LIVE_SCALE = 0.5

/**
 * Keeps the matte picture of the viewer up to date: at once and coarser while the artist drags or scrubs, exactly when
 * things rest. One request is under way at a time; the newest waiting one wins.
 */
export class MattePreviewer {
  private readonly worker = new Worker(new URL('../workers/matte.worker.ts', import.meta.url), { type: 'module' })
  private readonly remote: Remote<MatteWorker> = wrap<MatteWorker>(this.worker)
  private synced = new Map<string, DocumentObject>()
  private isBusy = false
  private waiting: 'live' | 'exact' | null = null
  private restTimer: ReturnType<typeof setTimeout> | undefined

  constructor(private readonly deliver: (matte: MattePreview | null) => void) {}

  /** Something that the matte depends on has changed. */
  request() {
    clearTimeout(this.restTimer)
    if (useShot.getState().view.mode === 'plate') {
      this.deliver(null)
      return
    }
    this.start('live')
    this.restTimer = setTimeout(() => this.start('exact'), REST_MS)
  }

  close() {
    clearTimeout(this.restTimer)
    this.remote[releaseProxy]()
    this.worker.terminate()
  }

  private start(quality: 'live' | 'exact') {
    if (this.isBusy) {
      this.waiting = quality
      return
    }
    this.isBusy = true
    void this.render(quality).finally(() => {
      this.isBusy = false
      const next = this.waiting
      this.waiting = null
      if (next) this.start(next)
    })
  }

  private async render(quality: 'live' | 'exact') {
    const state = useShot.getState()
    if (!state.info || state.view.mode === 'plate') return
    this.sync(state.shown)
    const matte = await this.remote.render(requestOf(state, quality))
    if (quality === 'exact') useShot.setState({ matteMilliseconds: matte.milliseconds })
    this.deliver(matte)
  }

  /** Sends what changed since the last time: objects are compared by identity. */
  private sync(document: RotoDocument) {
    const changed: DocumentObject[] = []
    for (const [id, object] of document.objects) if (this.synced.get(id) !== object) changed.push(object)
    const removed = [...this.synced.keys()].filter((id) => !document.objects.has(id))
    if (changed.length || removed.length) void this.remote.sync(changed, removed)
    this.synced = new Map(document.objects)
  }
}

function requestOf(state: ShotState, quality: 'live' | 'exact'): MattePreviewRequest {
  const info = state.info!
  const scale = Math.min(1, Math.max(0.05, state.view.zoom)) * (quality === 'live' ? LIVE_SCALE : 1)
  const alive = partsByDepth(state.shown).filter((part) => part.visible && isAlive(part, state.frame))
  const chosen = alive.filter((part) => part.id === state.selection.partId)
  return {
    frame: state.frame,
    scale,
    width: Math.max(1, Math.round(info.width * scale)),
    height: Math.max(1, Math.round(info.height * scale)),
    motionBlur: quality === 'exact',
    // The fill tells all Parts apart; matte and cut-out are of the selected Part, or of all when none is selected.
    parts: (chosen.length && state.view.mode !== 'fill' ? chosen : alive).map((part) => ({
      id: part.id,
      colour: partColour(state.shown, part),
    })),
    withHoldouts: true,
  }
}
