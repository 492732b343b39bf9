import { multiply, scaledAt, translation, applyToPoint, type Matrix3 } from './matrix3'

/**
 * The eight channels of a homography about a pivot c: H = T(H(c)) . A . P(v) . T(-c), with
 * A = rotation . skew . scale and the third row of P = (v, 1). Interpolating these instead of matrix entries keeps a
 * turning object rigid (entry by entry is off by 0.7 px at 15 degrees a frame).
 */
export const CHANNEL = {
  x: 0,
  y: 1,
  rotation: 2,
  logScaleX: 3,
  logScaleY: 4,
  skew: 5,
  perspectiveX: 6,
  perspectiveY: 7,
}
export const CHANNEL_COUNT = 8

/**
 * Channels of `h` about the pivot.
 *
 * @param h            homography, plate pixels to plate pixels
 * @param pivotX       plate pixels of the reference frame
 * @param pixelAspect  width of a pixel over its height; rotation is measured in square pixels
 * @returns x, y (image of the pivot, plate pixels), rotation (radians), log scales, skew (tangent), perspective (1/px)
 */
export function channelsOf(h: Matrix3, pivotX: number, pivotY: number, pixelAspect = 1): Float64Array {
  const scaled = scaledAt(h, pivotX, pivotY)
  const image = applyToPoint(scaled, pivotX, pivotY)
  const x = image[0]!
  const y = image[1]!
  const centred = multiply(translation(-x, -y), multiply(scaled, translation(pivotX, pivotY)))
  const a = centred[0]!
  const b = centred[1]! * pixelAspect
  const c = centred[3]! / pixelAspect
  const d = centred[4]!
  const scaleX = Math.hypot(a, c)
  const determinant = a * d - b * c
  const scaleY = determinant / scaleX
  const shear = (a * b + c * d) / scaleX
  // A mirrored map has no logarithm of its scale; the sign rides on the skew-free axis as a phase of pi is not needed
  // here because a plane seen by a camera never turns inside out between two frames.
  return Float64Array.of(
    x,
    y,
    Math.atan2(c, a),
    Math.log(scaleX),
    Math.log(Math.abs(scaleY)),
    shear / scaleY,
    centred[6]!,
    centred[7]!,
  )
}

/** The homography of the channels: the inverse of {@link channelsOf} for maps that keep orientation. */
export function homographyOf(channels: ArrayLike<number>, pivotX: number, pivotY: number, pixelAspect = 1): Matrix3 {
  const cos = Math.cos(channels[2]!)
  const sin = Math.sin(channels[2]!)
  const scaleX = Math.exp(channels[3]!)
  const scaleY = Math.exp(channels[4]!)
  const shear = channels[5]! * scaleY
  const linear = Float64Array.of(
    cos * scaleX,
    (cos * shear - sin * scaleY) / pixelAspect,
    0,
    sin * scaleX * pixelAspect,
    sin * shear + cos * scaleY,
    0,
    channels[6]!,
    channels[7]!,
    1,
  )
  return multiply(translation(channels[0]!, channels[1]!), multiply(linear, translation(-pivotX, -pivotY)))
}
