import { expose, transfer } from 'comlink'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { type DocumentObject } from '@tender-lasso/core/document'
import type { Box } from '@tender-lasso/core/geometry'
import { renderFittedMattes, renderMattes, type FittedMatte } from '@tender-lasso/core/raster'

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

/** Pixels of a frame, plate pixels. */
export interface AlphaLook {
  frame: number
  box: Box
}

export interface MatteBand {
  box: Box
  /** The Parts' colours, and their coverage added up. */
  picture: ImageBitmap
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
  async render(request: MatteBandRequest): Promise<MatteBand | null> {
    const { frame, scale, box, motionBlur, parts, withHoldouts, generation } = request
    const scene = sceneAt({ objects }, frame, scale)
    const mattes = renderFittedMattes(
      scene,
      parts.map(({ id }) => ({ partId: id, withHoldouts })),
      {
        box,
        motionBlur,
        reuse: buffers,
        isCancelled: () => generation !== null && wanted !== null && Atomics.load(wanted, 0) !== generation,
      },
    )
    if (!mattes) return null
    buffers = mattes.map(({ alpha }) => alpha)
    const image = new ImageData(box.right - box.left, box.bottom - box.top)
    mattes.forEach((matte, i) => addColoured(image.data, box, matte, parts[i]!.colour))
    divideByAlpha(image.data)
    const picture = await createImageBitmap(image)
    return transfer({ box, picture }, [picture])
  },

  /** The alpha of a Part on some pixels of frames, exactly: with motion blur and what is cut out of it. */
  alphas(partId: string, looks: readonly AlphaLook[]): Float32Array<ArrayBuffer>[] {
    const alphas = looks.map(({ frame, box }) => {
      const [matte] = renderMattes(sceneAt({ objects }, frame), [{ partId, withHoldouts: true }], { box, motionBlur: true })! // prettier-ignore
      return Float32Array.from(matte!)
    })
    return transfer(
      alphas,
      alphas.map(({ buffer }) => buffer),
    )
  },
}

/** Porter & Duff's plus: mattes that are cut out of one another add up to at most one. Colours times their coverage. */
function addColoured(
  data: Uint8ClampedArray<ArrayBuffer>,
  box: Box,
  { box: own, alpha }: FittedMatte,
  colour: readonly [number, number, number],
) {
  const [r, g, b] = colour
  const whole = new Uint32Array(Uint8Array.of(r, g, b, 255).buffer)[0]!
  const pixels = new Uint32Array(data.buffer)
  const width = own.right - own.left
  for (let y = own.top; y < own.bottom; y++) {
    const from = (y - own.top) * width
    const to = (y - box.top) * (box.right - box.left) + own.left - box.left
    for (let x = 0; x < width; x++) {
      const a = alpha[from + x]!
      if (a === 0) continue
      if (a === 1) {
        // Most of a matte: what is covered wholly leaves no room for another colour.
        pixels[to + x] = whole
        continue
      }
      const at = 4 * (to + x)
      data[at] = data[at]! + r * a
      data[at + 1] = data[at + 1]! + g * a
      data[at + 2] = data[at + 2]! + b * a
      data[at + 3] = data[at + 3]! + 255 * a
    }
  }
}

/** Pictures are made of colours by themselves. Whole pixels first: most are bare or full and stay. */
function divideByAlpha(data: Uint8ClampedArray<ArrayBuffer>) {
  const pixels = new Uint32Array(data.buffer)
  for (let p = 0; p < pixels.length; p++) {
    if (pixels[p] === 0) continue
    const at = 4 * p
    const alpha = data[at + 3]!
    if (alpha === 255) continue
    const factor = 255 / alpha
    data[at]! *= factor
    data[at + 1]! *= factor
    data[at + 2]! *= factor
  }
}

export type MatteWorker = typeof matteWorker
expose(matteWorker)
