import { expose, transfer } from 'comlink'
import { sceneAt, type DocumentObject } from '@tender-lasso/core/document'
import { renderMattes } from '@tender-lasso/core/raster'

export interface MattePreviewRequest {
  frame: number
  /** Target pixels per plate pixel, at most 1. */
  scale: number
  width: number
  height: number
  motionBlur: boolean
  /** Parts to show, nearest first, with the colour of each (0..255). */
  parts: { id: string; colour: [number, number, number] }[]
  withHoldouts: boolean
}

export interface MattePreview {
  width: number
  height: number
  /** Premultiplied RGBA: the Parts' colours, and their coverage added up. */
  data: Uint8ClampedArray<ArrayBuffer>
  milliseconds: number
}

const objects = new Map<string, DocumentObject>()

const matteWorker = {
  /** Brings this worker's copy of the document up to date. */
  sync(changed: DocumentObject[], removed: string[]) {
    for (const object of changed) objects.set(object.id, object)
    for (const id of removed) objects.delete(id)
  },

  /** The mattes of a frame as one coloured picture. */
  render(request: MattePreviewRequest): MattePreview {
    const start = performance.now()
    const { width, height } = request
    const scene = sceneAt({ objects }, request.frame, request.scale)
    const alphas = renderMattes(
      scene,
      request.parts.map(({ id }) => ({ partId: id, withHoldouts: request.withHoldouts })),
      { box: { left: 0, top: 0, right: width, bottom: height }, motionBlur: request.motionBlur },
    )!
    const data = new Uint8ClampedArray(width * height * 4)
    alphas.forEach((alpha, i) => {
      const [r, g, b] = request.parts[i]!.colour
      for (let p = 0, at = 0; p < alpha.length; p++, at += 4) {
        const a = alpha[p]!
        if (a === 0) continue
        data[at] = data[at]! + r * a
        data[at + 1] = data[at + 1]! + g * a
        data[at + 2] = data[at + 2]! + b * a
        data[at + 3] = data[at + 3]! + 255 * a
      }
    })
    return transfer({ width, height, data, milliseconds: performance.now() - start }, [data.buffer])
  },
}

export type MatteWorker = typeof matteWorker
expose(matteWorker)
