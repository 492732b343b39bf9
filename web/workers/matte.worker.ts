import { expose, transfer } from 'comlink'
import { sceneAt, type DocumentObject } from '@tender-lasso/core/document'
import type { Box } from '@tender-lasso/core/geometry'
import { isSceneStill, renderMattes } from '@tender-lasso/core/raster'

export interface MatteBandRequest {
  frame: number
  /** Target pixels per plate pixel, at most 1. */
  scale: number
  /** Whole target pixels that this worker makes. */
  box: Box
  motionBlur: boolean
  /** Parts to show, nearest first, with the colour of each (0..255). */
  parts: { id: string; colour: [number, number, number] }[]
  withHoldouts: boolean
  /** A picture that is no longer wanted is given up as soon as the shared number differs. Null: never. */
  generation: number | null
}

export interface MatteBand {
  box: Box
  /** Premultiplied RGBA: the Parts' colours, and their coverage added up. */
  data: Uint8ClampedArray<ArrayBuffer>
  /** Made with motion blur, or of things that need none. */
  isExact: boolean
}

const objects = new Map<string, DocumentObject>()
let wanted: Int32Array | null = null
let buffers: readonly Float32Array[] = []

const matteWorker = {
  /** @param shared  one number, the generation that is wanted; only where the page may share memory */
  share(shared: Int32Array) {
    wanted = shared
  },

  /** Brings this worker's copy of the document up to date. */
  sync(changed: DocumentObject[], removed: string[]) {
    for (const object of changed) objects.set(object.id, object)
    for (const id of removed) objects.delete(id)
  },

  /** The mattes of a stretch of a frame as one coloured picture; null when it was given up. */
  render({ frame, scale, box, motionBlur, parts, withHoldouts, generation }: MatteBandRequest): MatteBand | null {
    const scene = sceneAt({ objects }, frame, scale)
    const alphas = renderMattes(
      scene,
      parts.map(({ id }) => ({ partId: id, withHoldouts })),
      {
        box,
        motionBlur,
        reuse: buffers,
        isCancelled: () => generation !== null && wanted !== null && Atomics.load(wanted, 0) !== generation,
      },
    )
    if (!alphas) return null
    buffers = alphas
    const data = new Uint8ClampedArray((box.right - box.left) * (box.bottom - box.top) * 4)
    alphas.forEach((alpha, i) => addColoured(data, alpha, parts[i]!.colour))
    return transfer({ box, data, isExact: motionBlur || isSceneStill(scene) }, [data.buffer])
  },
}

/** Porter & Duff's plus: mattes that are cut out of one another add up to at most one. */
function addColoured(
  data: Uint8ClampedArray<ArrayBuffer>,
  alpha: Float32Array,
  colour: readonly [number, number, number],
) {
  const [r, g, b] = colour
  const whole = new Uint32Array(Uint8Array.of(r, g, b, 255).buffer)[0]!
  const pixels = new Uint32Array(data.buffer)
  for (let p = 0; p < alpha.length; p++) {
    const a = alpha[p]!
    if (a === 0) continue
    if (a === 1) {
      // Most of a matte: what is covered wholly leaves no room for another colour.
      pixels[p] = whole
      continue
    }
    const at = 4 * p
    data[at] = data[at]! + r * a
    data[at + 1] = data[at + 1]! + g * a
    data[at + 2] = data[at + 2]! + b * a
    data[at + 3] = data[at + 3]! + 255 * a
  }
}

export type MatteWorker = typeof matteWorker
expose(matteWorker)
