import type { Plane } from './planes'

/**
 * What a layer of a Part does to those below it, with a their alpha and b its own: add max(a, b), subtract a (1 - b), intersect
 * min(a, b), difference |a - b|.
 */
export type LayerOperation = 'add' | 'subtract' | 'intersect' | 'difference'

/** Lays a layer over the plane of those below it; both boxes are of one strip. Beside its own box a layer is nothing, which only an intersection does not pass over. */
export function laidOver(below: Plane, own: Plane, operation: LayerOperation) {
  const [width, belowWidth] = [own.box.right - own.box.left, below.box.right - below.box.left]
  for (let row = 0; row < own.box.bottom - own.box.top; row++) {
    const to = row * belowWidth + own.box.left - below.box.left
    laidOverRow(below.values, to, own.values, row * width, width, operation)
  }
}

function laidOverRow(
  below: Float32Array,
  to: number,
  own: Float32Array,
  from: number,
  width: number,
  operation: LayerOperation,
) {
  const end = from + width
  switch (operation) {
    case 'add':
      for (; from < end; from++, to++) if (own[from]! > below[to]!) below[to] = own[from]!
      return
    case 'subtract':
      for (; from < end; from++, to++) below[to]! *= 1 - own[from]!
      return
    case 'intersect':
      for (; from < end; from++, to++) if (own[from]! < below[to]!) below[to] = own[from]!
      return
    case 'difference':
      for (; from < end; from++, to++) below[to] = Math.abs(below[to]! - own[from]!)
  }
}
