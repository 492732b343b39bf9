/**
 * What a layer of a Part does to those below it, with a their alpha and b its own: add max(a, b), subtract a (1 - b), intersect
 * min(a, b), difference |a - b|.
 */
export type LayerOperation = 'add' | 'subtract' | 'intersect' | 'difference'

/** Lays `own` over what is in `below`, the first `size` pixels of both. */
export function laidOver(below: Float32Array, own: Float32Array, size: number, operation: LayerOperation) {
  switch (operation) {
    case 'add':
      for (let i = 0; i < size; i++) if (own[i]! > below[i]!) below[i] = own[i]!
      return
    case 'subtract':
      for (let i = 0; i < size; i++) below[i]! *= 1 - own[i]!
      return
    case 'intersect':
      for (let i = 0; i < size; i++) if (own[i]! < below[i]!) below[i] = own[i]!
      return
    case 'difference':
      for (let i = 0; i < size; i++) below[i] = Math.abs(below[i]! - own[i]!)
  }
}
