import { applyToPoint, identity, invert, multiply, type Matrix3, MATRIX_LENGTH, matrixAt } from '../geometry'
import type { MotionSamples, MotionSplit } from './motionSamples'

/** H(frame) . H(reference)^-1: where plate positions of the reference frame are on another, or null without samples. */
export function relativeMotion(samples: MotionSamples, reference: number, frame: number): Matrix3 | null {
  const [a, b] = [sampledMatrix(samples, frame), sampledMatrix(samples, reference)]
  return a && b ? multiply(a, invert(b)) : null
}

/** The matrix of a frame that has one. */
export function sampledMatrix({ firstFrame, present, matrices }: MotionSamples, frame: number): Matrix3 | null {
  const i = frame - firstFrame
  return present[i] === 1 ? matrixAt(matrices, i).slice() : null
}

/** Where the motion's centre is on a frame, in plate pixels. */
export function centreAt(samples: MotionSamples, frame: number): [number, number] | null {
  const matrix = sampledMatrix(samples, frame)
  if (!matrix) return null
  const [x, y] = applyToPoint(matrix, samples.pivot[0], samples.pivot[1])
  return [x!, y!]
}

/** Samples for frames first .. last from a function that may know some of them. */
export function motionOver(
  [first, last]: readonly [number, number],
  { pivot, pixelAspect }: MotionSplit,
  matrixOn: (frame: number) => Matrix3 | null,
): MotionSamples {
  const count = Math.max(0, last - first + 1)
  const matrices = new Float64Array(count * MATRIX_LENGTH)
  const present = new Uint8Array(count)
  for (let i = 0; i < count; i++) {
    const matrix = matrixOn(first + i)
    matrices.set(matrix ?? identity(), i * MATRIX_LENGTH)
    present[i] = matrix ? 1 : 0
  }
  return { firstFrame: first, matrices, present, pivot, pixelAspect }
}

/** First frame and last frame over which one of the motions has samples. */
export function spanOf(motions: readonly MotionSamples[]): [number, number] {
  let [first, last] = [Infinity, -Infinity]
  for (const { firstFrame, present } of motions) {
    const start = present.indexOf(1)
    if (start < 0) continue
    first = Math.min(first, firstFrame + start)
    last = Math.max(last, firstFrame + present.lastIndexOf(1))
  }
  return [first, last]
}
