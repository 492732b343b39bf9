import { createRequire } from 'node:module'

export interface OpenCvMat {
  data32F: Float32Array
  delete(): void
}

/** What the benchmarks use of OpenCV's WASM build. */
export interface OpenCv {
  Mat: new () => OpenCvMat
  matFromArray(rows: number, columns: number, type: number, values: ArrayLike<number>): OpenCvMat
  CV_32FC1: number
  CV_8UC1: number
  CV_32F: number
  MOTION_HOMOGRAPHY: number
  MOTION_AFFINE: number
  TermCriteria: new (type: number, count: number, epsilon: number) => unknown
  findTransformECC(
    a: OpenCvMat,
    b: OpenCvMat,
    warp: OpenCvMat,
    motion: number,
    criteria: unknown,
    mask: OpenCvMat,
    filter: number,
  ): number
}

/**
 * Loaded when asked for, and without its handlers of uncaught errors, which print the whole library for each.
 * The module looks like a promise of itself, so awaiting it never ends:
 * it is required, waited for by its callback, and boxed.
 */
export async function loadOpenCv(): Promise<{ cv: OpenCv }> {
  const cvModule: unknown = createRequire(import.meta.url)('@techstark/opencv-js')
  for (const event of ['uncaughtException', 'unhandledRejection']) process.removeAllListeners(event)
  const cv = cvModule as unknown as OpenCv & { then?: unknown; onRuntimeInitialized?: () => void }
  if (!cv.Mat) await new Promise<void>((resolve) => (cv.onRuntimeInitialized = resolve))
  delete cv.then
  return { cv }
}
