import type { Scene, ScenePart } from '../raster'
import { shutterTime } from '../timing'
import { isAlive, partsByDepth, shapesOf, shotShutter } from './evaluate'
import { areasAt } from './outlines'
import { type Part, type RotoDocument, type Shape } from './objects'

/**
 * What the rasteriser needs for one frame: visible, living Parts nearest first, their outlines over their shutters.
 *
 * @param scale  target pixels per plate pixel; feathers scale with it
 */
export function sceneAt(document: RotoDocument, frame: number, scale = 1): Scene {
  const parts: ScenePart[] = []
  for (const part of partsByDepth(document, frame)) {
    if (!part.visible || !isAlive(part, frame)) continue
    const shapes = shapesOf(document, part.id).filter((shape) => shape.visible && isAlive(shape, frame))
    if (shapes.length) parts.push(scenePart(document, part, shapes, frame, scale))
  }
  return { parts }
}

function scenePart(document: RotoDocument, part: Part, shapes: Shape[], frame: number, scale: number): ScenePart {
  const shutter = part.shutter ?? shotShutter(document)
  const toTarget = Float64Array.of(scale, 0, 0, 0, scale, 0, 0, 0, 1)
  const groups = new Map<string, Shape[]>()
  for (const shape of shapes) {
    const key = `${shape.edge.innerFeather}/${shape.edge.outerFeather}/${shape.edge.grow}/${shape.opacity}`
    const group = groups.get(key)
    if (group) group.push(shape)
    else groups.set(key, [shape])
  }
  return {
    id: part.id,
    holdsOut: part.holdsOut,
    groups: [...groups.values()].map((members) => ({
      edge: {
        innerFeather: members[0]!.edge.innerFeather * scale,
        outerFeather: members[0]!.edge.outerFeather * scale,
        grow: members[0]!.edge.grow * scale,
      },
      opacity: members[0]!.opacity,
      outlinesAt(u) {
        const time = shutterTime(frame, shutter, u)
        return members.flatMap((shape) => areasAt(document, shape, time, toTarget))
      },
    })),
  }
}
