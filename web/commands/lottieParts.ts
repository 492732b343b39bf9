import {
  constantChannel,
  findObject,
  POINT,
  POINT_STRIDE,
  withPatchesApplied,
  type Key,
  type Patch,
  type RotoDocument,
  type Shape,
} from '@tender-lasso/core/document'
import { freeName, objectAdded, shapeDrawn } from '@tender-lasso/core/edits'
import { isSmoothPoint } from '@tender-lasso/core/spline'
import { LOTTIE_POINT_STRIDE, type ReadLottie, type ReadOutline } from '@tender-lasso/formats/lottie'
import { newPart, newSubject } from './newObjects'

/** What adds the layers of a Lottie file as Parts of a new Subject, their first frame on `first`. */
export function lottiePatches(
  document: RotoDocument,
  { name, layers }: ReadLottie,
  first: number,
  strokeWidth: number,
): Patch[] {
  const subject = newSubject(document, name.slice(0, 100))
  const patches: Patch[] = [objectAdded(subject)]
  // Each new Part goes in front of all.
  for (const layer of [...layers].reverse()) {
    const now = withPatchesApplied(document, patches)
    const made = newPart(now, subject.id)
    const [added] = made.patches
    if (added?.kind !== 'object' || added.after?.kind !== 'part') throw new Error('a new Part is one object')
    const taken = [...now.objects.values()].flatMap((object) => object.kind === 'part' && object.subjectId === subject.id ? [object.name] : []) // prettier-ignore
    const part = {
      ...added.after,
      name: freeName(layer.name.slice(0, 100), taken),
      channels: { ...added.after.channels, opacity: sharesOver(layer.opacity, first) },
    }
    patches.push(objectAdded(part))
    const withPart = withPatchesApplied(document, patches)
    layer.outlines.forEach((outline, order) => patches.push(objectAdded(shapeOf(withPart, part.id, outline, order, first, strokeWidth)))) // prettier-ignore
  }
  return patches
}

function shapeOf(
  document: RotoDocument,
  partId: string,
  { name, operation, isClosed, keys, life, opacity }: ReadOutline,
  order: number,
  first: number,
  strokeWidth: number,
): Shape {
  const width = isClosed ? 0 : strokeWidth
  const drawn = shapeDrawn(document, partId, first + keys[0]!.frame, pointsOf(keys[0]!.values), { name: name.slice(0, 100), order, isClosed, width, operation }) // prettier-ignore
  const shotLast = findObject(document, 'shot', 'shot')!.range[1]
  const isAlways = life[0] === 0 && first + life[1] >= shotLast
  return {
    ...drawn,
    life: isAlways ? null : [first + life[0], first + life[1]],
    channels: {
      ...drawn.channels,
      opacity: sharesOver(opacity, first),
      outline: {
        keys: keys.map(({ frame, interpolation, values }): Key => ({ time: first + frame, interpolation, values: keyValues(values, width) })), // prettier-ignore
      },
    },
  }
}

function pointsOf(values: readonly number[]) {
  return Array.from({ length: values.length / LOTTIE_POINT_STRIDE }, (_, i) => {
    const [x, y, inX, inY, outX, outY] = values.slice(i * LOTTIE_POINT_STRIDE, (i + 1) * LOTTIE_POINT_STRIDE) as [number, number, number, number, number, number] // prettier-ignore
    return { x, y, inX, inY, outX, outY, isCorner: !isSmoothPoint({ inX, inY, outX, outY }) }
  })
}

function keyValues(values: readonly number[], width: number): Float64Array {
  const count = values.length / LOTTIE_POINT_STRIDE
  const out = new Float64Array(count * POINT_STRIDE)
  for (let i = 0; i < count; i++) {
    out.set(values.slice(i * LOTTIE_POINT_STRIDE, (i + 1) * LOTTIE_POINT_STRIDE), i * POINT_STRIDE)
    out[i * POINT_STRIDE + POINT.width] = width
  }
  return out
}

const sharesOver = (shares: readonly { frame: number; value: number }[], first: number) =>
  shares.length === 1
    ? constantChannel(shares[0]!.value)
    : {
        keys: shares.map(({ frame, value }): Key => ({ time: first + frame, interpolation: 'linear', values: Float64Array.of(value) })), // prettier-ignore
      }
