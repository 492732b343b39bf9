import { expose, transfer } from 'comlink'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { type DocumentObject } from '@tender-lasso/core/document'
import type { Box } from '@tender-lasso/core/geometry'
import { colourMattes, renderFittedMattes, renderMattes, type MatteColour } from '@tender-lasso/core/raster'

export interface MatteBandRequest {
  frame: number
  /** Target pixels per plate pixel, at most 1. */
  scale: number
  /** Whole target pixels that this worker makes. */
  box: Box
  motionBlur: boolean
  /** Parts to show, nearest first, with the colour of each (0..255). */
  parts: { id: string; colour: MatteColour }[]
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
/** Used again for every picture: fresh memory costs more than clearing. */
let buffers: readonly Float32Array[] = []
let image: ImageData | null = null

function roomFor(known: ImageData | null, { left, top, right, bottom }: Box): ImageData {
  const [width, height] = [right - left, bottom - top]
  return known?.width === width && known.height === height ? known : new ImageData(width, height)
}

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
    image = roomFor(image, box)
    colourMattes(new Uint32Array(image.data.buffer), box, mattes, parts.map(({ colour }) => colour)) // prettier-ignore
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

export type MatteWorker = typeof matteWorker
expose(matteWorker)
