import { applyToPoint, homographyFromPoints, type Matrix3 } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'
import type { OpenCv, OpenCvMat } from './openCv'
import { cut } from './photographedPlane'

export const matOfLuma = (cv: OpenCv, { width, height, data }: LumaImage) =>
  cv.matFromArray(height, width, cv.CV_32FC1, data)

export interface EccOptions {
  model: 'affine' | 'perspective'
  iterations: number
}

/**
 * Alignment by enhanced correlation (`findTransformECC`) of a rectangular region to its reference picture, each frame
 * from the last one's result; pixels are smoothed by 5 x 5 as its default is.
 */
export class EccTracker {
  private readonly template: OpenCvMat
  private readonly warp: OpenCvMat
  private readonly none: OpenCvMat
  private readonly left: number
  private readonly top: number

  /** @param crop  where all later pictures begin: the first guess is that nothing moves */
  constructor(
    private readonly cv: OpenCv,
    reference: LumaImage,
    private readonly region: readonly number[],
    private readonly crop: { left: number; top: number },
    private readonly options: EccOptions,
  ) {
    const [left, top, right, , , bottom] = region as [number, number, number, number, number, number]
    this.left = left
    this.top = top
    this.template = matOfLuma(cv, cut(reference, { left, top, right, bottom }))
    const start = [1, 0, left - crop.left, 0, 1, top - crop.top, 0, 0, 1]
    const rows = options.model === 'affine' ? 2 : 3
    this.warp = cv.matFromArray(rows, 3, cv.CV_32FC1, start.slice(0, 3 * rows))
    this.none = new cv.Mat()
  }

  /** The motion of the region's corners, or null when it says that it has not converged. */
  align(image: OpenCvMat, mask: OpenCvMat | null = null): Matrix3 | null {
    const { cv, region, left, top, crop } = this
    const motion = this.options.model === 'affine' ? cv.MOTION_AFFINE : cv.MOTION_HOMOGRAPHY
    const criteria = new cv.TermCriteria(3, this.options.iterations, 1e-5)
    try {
      cv.findTransformECC(this.template, image, this.warp, motion, criteria, mask ?? this.none, 5)
    } catch {
      return null
    }
    const w = Float64Array.from([...this.warp.data32F, 0, 0, 1].slice(0, 9))
    // Pixel centres lie on whole numbers there and at halves here.
    const to = [0, 2, 4, 6].flatMap((k) => {
      const p = applyToPoint(w, region[k]! - left - 0.5, region[k + 1]! - top - 0.5)
      return [p[0]! + crop.left + 0.5, p[1]! + crop.top + 0.5]
    })
    return homographyFromPoints(region, to)
  }

  delete() {
    for (const mat of [this.template, this.warp, this.none]) mat.delete()
  }
}
