/**
 * Solves A x = b for a symmetric positive definite A by Cholesky's factorisation, in place.
 *
 * @param a  size x size row-major, lower triangle read and overwritten
 * @param b  overwritten with x
 * @returns false when A is not positive definite; b is then of no use
 */
export function solveSymmetric(a: Float64Array, b: Float64Array, size: number): boolean {
  for (let j = 0; j < size; j++) {
    for (let i = j; i < size; i++) {
      let sum = a[i * size + j]!
      for (let k = 0; k < j; k++) sum -= a[i * size + k]! * a[j * size + k]!
      if (i === j) {
        if (!(sum > 0)) return false
        a[j * size + j] = Math.sqrt(sum)
      } else a[i * size + j] = sum / a[j * size + j]!
    }
  }
  for (let i = 0; i < size; i++) {
    let sum = b[i]!
    for (let k = 0; k < i; k++) sum -= a[i * size + k]! * b[k]!
    b[i] = sum / a[i * size + i]!
  }
  for (let i = size - 1; i >= 0; i--) {
    let sum = b[i]!
    for (let k = i + 1; k < size; k++) sum -= a[k * size + i]! * b[k]!
    b[i] = sum / a[i * size + i]!
  }
  return true
}
