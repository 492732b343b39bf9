import { applyToPoint, invert, type Matrix3 } from '../geometry'

/** Whose pixels a position map has. */
export interface PositionMapSettings {
  /**
   * forward: each pixel of a frame holds where it is on the reference frame, so that a picture of the reference frame goes with the track. back: each pixel of
   * the reference frame holds where it is on the frame, so that the frame is held still.
   */
  way: 'forward' | 'back'
  yAxis: 'down' | 'up'
  /** normalised: width and height are 1. */
  units: 'pixels' | 'normalised'
}

/** What stands where the track's plane is behind the camera. */
export const NOWHERE = -1

/**
 * A picture of positions by which another is warped: of each pixel's middle the place that it is to be taken from.
 *
 * @param matrix  plate positions of the reference frame to those of the frame
 * @param seen    a place on the reference frame that is in front of the camera on both: the track's centre
 * @returns two numbers a pixel, row by row from the top: across and down (or up)
 */
export function positionMap(
  matrix: Matrix3,
  seen: readonly [number, number],
  width: number,
  height: number,
  { way, yAxis, units }: PositionMapSettings,
): { across: Float32Array; down: Float32Array } {
  const m = way === 'forward' ? invert(matrix) : matrix
  const [perX, perY] = units === 'normalised' ? [1 / width, 1 / height] : [1, 1]
  const [sign, shift] = yAxis === 'up' ? [-perY, height * perY] : [perY, 0]
  const [seenX, seenY] = way === 'forward' ? applyToPoint(matrix, seen[0], seen[1]) : seen
  // Beyond the horizon of the plane w has the other sign, whichever the matrix happens to have.
  const side = Math.sign(m[6]! * seenX! + m[7]! * seenY! + m[8]!) || 1
  const across = new Float32Array(width * height)
  const down = new Float32Array(width * height)
  let at = 0
  for (let row = 0; row < height; row++) {
    const y = row + 0.5
    for (let column = 0; column < width; column++, at++) {
      const x = column + 0.5
      const w = m[6]! * x + m[7]! * y + m[8]!
      if (w * side < 1e-9) {
        across[at] = down[at] = NOWHERE
        continue
      }
      across[at] = ((m[0]! * x + m[1]! * y + m[2]!) / w) * perX
      down[at] = ((m[3]! * x + m[4]! * y + m[5]!) / w) * sign + shift
    }
  }
  return { across, down }
}
