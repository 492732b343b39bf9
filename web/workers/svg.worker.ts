import { expose } from 'comlink'
import { sceneAt } from '@tender-lasso/core/evaluation'
import type { DocumentObject } from '@tender-lasso/core/document'
import { writeSvg, type SvgShot, type WrittenSvg } from '@tender-lasso/formats/svg'

export interface SvgRequest extends Omit<SvgShot, 'nameOf' | 'frames'> {
  objects: readonly DocumentObject[]
  /** Parts to write, and what they are called and painted. */
  parts: Readonly<Record<string, { name: string; colour: string }>>
  frames: readonly number[]
}

/** Outlines as SVG, beside the page: of many shapes on many frames it takes seconds. */
const svgWorker = {
  write({ objects, parts, frames, ...shot }: SvgRequest): WrittenSvg {
    const document = { objects: new Map(objects.map((object) => [object.id, object])) }
    return writeSvg({
      ...shot,
      nameOf: (id) => parts[id]!,
      frames: frames.map((frame) => {
        const scene = sceneAt(document, frame)
        return { frame, scene: { ...scene, parts: scene.parts.filter(({ id }) => parts[id]) } }
      }),
    })
  },
}

export type SvgWorker = typeof svgWorker
expose(svgWorker)
