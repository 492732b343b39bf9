/**
 * Eigenvector of the smallest eigenvalue of a symmetric matrix, by cyclic Jacobi rotations
 * (Golub & Van Loan, Matrix Computations, 4th ed., section 8.5).
 *
 * @param matrix  size x size, row-major; not changed
 * @returns the unit vector, and `gap`: the second smallest eigenvalue over the largest (0 when the vector is not unique)
 */
export function smallestEigenvector(matrix: Float64Array, size: number): { vector: Float64Array; gap: number } {
  const a = Float64Array.from(matrix)
  const vectors = new Float64Array(size * size)
  for (let i = 0; i < size; i++) vectors[i * size + i] = 1
  for (let sweep = 0; sweep < 60; sweep++) {
    let off = 0
    let diagonal = 0
    for (let i = 0; i < size; i++) {
      diagonal += a[i * size + i]! ** 2
      for (let j = i + 1; j < size; j++) off += a[i * size + j]! ** 2
    }
    if (off <= 1e-30 * diagonal || off === 0) break
    for (let p = 0; p < size; p++) for (let q = p + 1; q < size; q++) rotate(a, vectors, size, p, q)
  }
  const order = Array.from({ length: size }, (_, i) => i).sort((i, j) => a[i * size + i]! - a[j * size + j]!)
  const vector = new Float64Array(size)
  for (let i = 0; i < size; i++) vector[i] = vectors[i * size + order[0]!]!
  const at = (rank: number) => a[order[rank]! * size + order[rank]!]!
  const largest = at(size - 1)
  return { vector, gap: largest > 0 ? Math.max(0, at(1)) / largest : 0 }
}

function rotate(a: Float64Array, vectors: Float64Array, size: number, p: number, q: number) {
  const apq = a[p * size + q]!
  if (apq === 0) return
  const theta = (a[q * size + q]! - a[p * size + p]!) / (2 * apq)
  const t = Math.sign(theta || 1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1))
  const c = 1 / Math.sqrt(t * t + 1)
  const s = t * c
  for (let k = 0; k < size; k++) {
    const akp = a[k * size + p]!
    const akq = a[k * size + q]!
    a[k * size + p] = c * akp - s * akq
    a[k * size + q] = s * akp + c * akq
  }
  for (let k = 0; k < size; k++) {
    const apk = a[p * size + k]!
    const aqk = a[q * size + k]!
    a[p * size + k] = c * apk - s * aqk
    a[q * size + k] = s * apk + c * aqk
    const vkp = vectors[k * size + p]!
    const vkq = vectors[k * size + q]!
    vectors[k * size + p] = c * vkp - s * vkq
    vectors[k * size + q] = s * vkp + c * vkq
  }
}
