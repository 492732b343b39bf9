import type { Scene, ScenePart } from '../raster'
import { shutterTime } from '../timing'
import { edgeOn, type EdgeOf } from './edge'
import { isShown, partShutter, partsByDepth, shapesOf, shotShutter } from './evaluate'
import { areasWithUnderlap, type SeamView } from './underlap'
import { areasAt } from './outlines'
import { otherShape, seamsOf, findObject, type Part, type RotoDocument, type Shape } from '../document'

/**
 * What the rasteriser needs for one frame: visible, living Parts nearest first, their outlines over their shutters.
 *
 * @param scale  target pixels per plate pixel; feathers scale with it
 */
export function sceneAt(document: RotoDocument, frame: number, scale = 1): Scene {
  const parts: ScenePart[] = []
  const order = partsByDepth(document, frame)
  for (const part of order) {
    const shapes = shapesOf(document, part.id).filter((shape) => isShown(shape, part, frame))
    if (shapes.length) parts.push(scenePart(document, order, part, shapes, frame, scale))
  }
  return { parts, scale }
}

function scenePart(
  document: RotoDocument,
  order: readonly Part[],
  part: Part,
  shapes: Shape[],
  frame: number,
  scale: number,
): ScenePart {
  const shutter = partShutter(document, part, frame)
  const seamed = shapes.filter((shape) => seamsOf(document, shape.id).length > 0)
  const viewAt = (u: number): SeamView => ({
    frame,
    // Every shape is looked at where its own Part's shutter stands at that moment.
    timeOf: (shape) => shutterTime(frame, shutterOf(document, shape, frame), u),
    isSeen: (shape) => isShown(shape, findObject(document, 'part', shape.partId), frame),
    depthOf: (shape) => order.findIndex(({ id }) => id === shape.partId),
    toTarget,
    scale,
  })
  const toTarget = Float64Array.of(scale, 0, 0, 0, scale, 0, 0, 0, 1)
  const groups = new Map<string, EdgeOf & { members: Shape[] }>()
  for (const shape of shapes) {
    const { edge, opacity } = edgeOn(shape, frame)
    const key = `${edge.innerFeather}/${edge.outerFeather}/${edge.grow}/${opacity}`
    const group = groups.get(key)
    if (group) group.members.push(shape)
    else groups.set(key, { edge, opacity, members: [shape] })
  }
  return {
    id: part.id,
    holdsOut: part.holdsOut,
    partitions: neighbours(document, seamed),
    groups: [...groups.values()].map(({ edge, opacity, members }) => ({
      edge: {
        innerFeather: edge.innerFeather * scale,
        outerFeather: edge.outerFeather * scale,
        grow: edge.grow * scale,
      },
      opacity,
      outlinesAt(u) {
        const time = shutterTime(frame, shutter, u)
        if (seamed.length === 0) return members.flatMap((shape) => areasAt(document, shape, time, toTarget))
        const view = viewAt(u)
        return members.flatMap((shape) => [
          ...areasAt(document, shape, time, toTarget, view.timeOf),
          ...areasWithUnderlap(document, shape, view),
        ])
      },
    })),
  }
}

function shutterOf(document: RotoDocument, shape: Shape, frame: number) {
  const part = findObject(document, 'part', shape.partId)
  return part ? partShutter(document, part, frame) : shotShutter(document, frame)
}

/** Parts that shapes of this one are tied to. */
function neighbours(document: RotoDocument, shapes: readonly Shape[]): string[] {
  const others = shapes.flatMap((shape) =>
    seamsOf(document, shape.id).flatMap((seam) => {
      const other = otherShape(document, seam, shape)
      return other && other.partId !== shape.partId ? [other.partId] : []
    }),
  )
  return [...new Set(others)]
}
