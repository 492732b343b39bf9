import type { EdgeProfile, LayerOperation, Scene, ScenePart } from '../raster'
import { multiply, type Matrix3 } from '../geometry'
import { edgeOn, finishOn, type EdgeOf } from './edge'
import { isInMatte, partShutter, partsByDepth, shotShutter, shownShapesOf } from './evaluate'
import { areasWithUnderlap, type SeamView } from './underlap'
import { areasAt } from './outlines'
import { outlinesInShutter, timeInShutter } from './blurWeights'
import { hasPointFocus, hasPointWidths, pointFocusAt, pointWidthsAt } from './pointWidths'
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
    const { shapes, mapAt } = shownShapesOf(document, part)
    const layers = layersOf(
      shapes.filter((shape) => isInMatte(shape, part, frame)),
      frame,
    )
    if (layers.length) parts.push(scenePart(document, order, part, layers, mapAt, frame, scale))
  }
  return { parts, scale }
}

function scenePart(
  document: RotoDocument,
  order: readonly Part[],
  part: Part,
  layers: readonly Layer[],
  mapAt: ((time: number) => Matrix3) | null,
  frame: number,
  scale: number,
): ScenePart {
  const shutter = partShutter(document, part, frame)
  // Only where the shapes themselves are is one to run on beneath the other.
  const seamed = mapAt
    ? []
    : layers.flatMap(({ members }) => members).filter((shape) => seamsOf(document, shape.id).length > 0)
  const viewAt = (u: number): SeamView => ({
    frame,
    // Every shape is looked at where its own Part's shutter stands at that moment.
    timeOf: (shape) => timeInShutter(shape, frame, shutterOf(document, shape, frame), u),
    isSeen: (shape) => isInMatte(shape, findObject(document, 'part', shape.partId), frame),
    depthOf: (shape) => order.findIndex(({ id }) => id === shape.partId),
    toTarget,
    scale,
  })
  const toTarget = Float64Array.of(scale, 0, 0, 0, scale, 0, 0, 0, 1)
  const timeOf = seamed.length > 0 ? (u: number) => viewAt(u).timeOf : () => undefined
  const areasOf = (shape: Shape, u: number) =>
    outlinesInShutter(document, shape, u, (place) => {
      const time = timeInShutter(shape, frame, shutter, place)
      return areasAt(document, shape, time, mapAt ? multiply(toTarget, mapAt(time)) : toTarget, timeOf(place))
    })
  const underlapsOf = (shape: Shape, u: number) =>
    seamed.length > 0 ? areasWithUnderlap(document, shape, viewAt(u)) : []
  return {
    id: part.id,
    holdsOut: part.holdsOut,
    spares: part.spares,
    partitions: neighbours(document, seamed),
    finish: finishOn(part, frame, scale),
    groups: layers.map(({ operation, edge, focus, opacity, members }) => ({
      operation,
      focus: focus * scale,
      edge: {
        innerFeather: edge.innerFeather * scale,
        outerFeather: edge.outerFeather * scale,
        grow: edge.grow * scale,
        falloff: edge.falloff,
      },
      opacity,
      outlinesAt: (u) => members.flatMap((shape) => [...areasOf(shape, u), ...underlapsOf(shape, u)]),
      ...(members.some(hasPointFocus) && {
        focusedOutlines: () =>
          members.flatMap((shape) => {
            const sigmas = pointFocusAt(shape, timeInShutter(shape, frame, shutter, 0.5), focus).map(
              (sigma) => sigma * scale,
            )
            return areasOf(shape, 0.5).map((outline) => ({ outline, sigmas }))
          }),
      }),
      ...(members.some(hasPointWidths) && {
        wideOutlinesAt: (u) =>
          members.flatMap((shape) => {
            const pointWidths = pointWidthsAt(shape, timeInShutter(shape, frame, shutter, u), scale)
            return [
              ...areasOf(shape, u).map((outline) => ({ outline, pointWidths })),
              ...underlapsOf(shape, u).map((outline) => ({ outline, pointWidths: null })),
            ]
          }),
      }),
    })),
  }
}

/** Shapes that are united as geometry, and what that does to what lies below. */
interface Layer extends EdgeOf {
  operation: LayerOperation
  members: Shape[]
}

/**
 * Shapes of a Part, lowest first, as layers. Neighbours in the order that add, or that take away, are one layer where their edges
 * are alike, so that no line shows between them; each that intersects or differs is a layer by itself. Where there is
 * nothing below yet only adding does anything.
 */
function layersOf(shapes: readonly Shape[], frame: number): Layer[] {
  const layers: Layer[] = []
  let run: Layer[] = []
  for (const shape of shapes) {
    const { operation } = shape
    if (layers.length === 0 && operation !== 'add') continue
    if (run[0]?.operation !== operation) run = []
    const { edge, focus, opacity } = edgeOn(shape, frame)
    const isUnited = operation === 'add' || operation === 'subtract'
    const alike =
      isUnited &&
      run.find((layer) => layer.opacity === opacity && layer.focus === focus && isSameEdge(layer.edge, edge))
    if (alike) alike.members.push(shape)
    else {
      const layer = { operation, edge, focus, opacity, members: [shape] }
      run.push(layer)
      layers.push(layer)
    }
  }
  return layers
}

const isSameEdge = (a: EdgeProfile, b: EdgeProfile) =>
  a.innerFeather === b.innerFeather &&
  a.outerFeather === b.outerFeather &&
  a.grow === b.grow &&
  isSameFalloff(a.falloff, b.falloff)

/** Slopes of one's own are the same when both numbers are. */
const isSameFalloff = (a: EdgeProfile['falloff'], b: EdgeProfile['falloff']) => String(a) === String(b)

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
