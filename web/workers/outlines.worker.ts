import { expose } from 'comlink'
import { sceneAt } from '@tender-lasso/core/evaluation'
import type { DocumentObject } from '@tender-lasso/core/document'
import { writeBakedOutlines } from '@tender-lasso/formats/bakedOutlines'
import { writeLottie } from '@tender-lasso/formats/lottie'
import type { OutlinesOfShot, WrittenOutlines } from '@tender-lasso/formats/outlines'
import { writeSvg } from '@tender-lasso/formats/svg'

export interface OutlinesRequest extends Omit<OutlinesOfShot, 'nameOf' | 'frames'> {
  form: keyof typeof WRITERS
  objects: readonly DocumentObject[]
  /** Parts to write, and what they are called and painted. */
  parts: Readonly<Record<string, { name: string; colour: string }>>
  frames: readonly number[]
}

const WRITERS = { svg: writeSvg, lottie: writeLottie, json: writeBakedOutlines }

/** Outlines as SVG, Lottie or JSON, beside the page: of many shapes on many frames it takes seconds. */
const outlinesWorker = {
  write({ form, objects, parts, frames, ...shot }: OutlinesRequest): WrittenOutlines {
    const document = { objects: new Map(objects.map((object) => [object.id, object])) }
    return WRITERS[form]({
      ...shot,
      nameOf: (id) => parts[id]!,
      frames: frames.map((frame) => {
        const scene = sceneAt(document, frame)
        return { frame, scene: { ...scene, parts: scene.parts.filter(({ id }) => parts[id]) } }
      }),
    })
  },
}

export type OutlinesWorker = typeof outlinesWorker
expose(outlinesWorker)
