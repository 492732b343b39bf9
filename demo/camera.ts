/** Pinhole camera: place in metres, small turns in radians (pan right, tilt down, roll clockwise), focal length in pixels. */
export interface Camera {
  x: number
  y: number
  z: number
  pan: number
  tilt: number
  roll: number
  focal: number
  centreX: number
  centreY: number
}

/** Hand-held: slow drift with the walker, plus the sway of a person standing. */
export function cameraAt(frame: number, width: number, height: number): Camera {
  const t = frame - 1001
  const sway = (period: number, phase: number) => Math.sin((2 * Math.PI * t) / period + phase)
  return {
    x: 0.05 * sway(61, 0.4) + 0.012 * sway(17, 1.9) + 0.004 * t - 0.14,
    y: 0.02 * sway(47, 2.2) + 0.006 * sway(13, 0.7),
    z: 0.03 * sway(83, 1.1),
    pan: 0.012 * sway(53, 1.3) + 0.003 * sway(19, 0.2) + 0.0008 * (t - 36),
    tilt: 0.006 * sway(41, 0.9) + 0.002 * sway(15, 2.6) - 0.035,
    roll: 0.006 * sway(67, 2.4) + 0.002 * sway(23, 1.2),
    focal: width * 0.86,
    centreX: width / 2,
    centreY: height / 2,
  }
}

/** Rotation from world to camera axes, row-major. */
function rotationOf(camera: Camera): Float64Array {
  const [cp, sp] = [Math.cos(camera.pan), Math.sin(camera.pan)]
  const [ct, st] = [Math.cos(camera.tilt), Math.sin(camera.tilt)]
  const [cr, sr] = [Math.cos(camera.roll), Math.sin(camera.roll)]
  // Roll . Tilt . Pan
  const pan = [cp, 0, -sp, 0, 1, 0, sp, 0, cp]
  const tilt = [1, 0, 0, 0, ct, -st, 0, st, ct]
  const roll = [cr, sr, 0, -sr, cr, 0, 0, 0, 1]
  return product(product(roll, tilt), pan)
}

export function product(a: ArrayLike<number>, b: ArrayLike<number>): Float64Array {
  const out = new Float64Array(9)
  for (let r = 0; r < 3; r++) {
    for (let c = 0; c < 3; c++) {
      out[r * 3 + c] = a[r * 3]! * b[c]! + a[r * 3 + 1]! * b[3 + c]! + a[r * 3 + 2]! * b[6 + c]!
    }
  }
  return out
}

/** Picture position of a world point, pixels. */
export function project(camera: Camera, x: number, y: number, z: number): [number, number] {
  const r = rotationOf(camera)
  const [dx, dy, dz] = [x - camera.x, y - camera.y, z - camera.z]
  const cx = r[0]! * dx + r[1]! * dy + r[2]! * dz
  const cy = r[3]! * dx + r[4]! * dy + r[5]! * dz
  const cz = r[6]! * dx + r[7]! * dy + r[8]! * dz
  return [camera.centreX + (camera.focal * cx) / cz, camera.centreY + (camera.focal * cy) / cz]
}

/**
 * Homography from plane coordinates (a, b) to pixels, for the plane origin + a . alongA + b . alongB in metres.
 */
export function planeToPicture(
  camera: Camera,
  origin: ArrayLike<number>,
  alongA: ArrayLike<number>,
  alongB: ArrayLike<number>,
): Float64Array {
  const r = rotationOf(camera)
  const place = [camera.x, camera.y, camera.z]
  const columns = [alongA, alongB, [0, 1, 2].map((i) => origin[i]! - place[i]!)]
  const inCamera = new Float64Array(9)
  columns.forEach((column, c) => {
    for (let row = 0; row < 3; row++) {
      inCamera[row * 3 + c] = r[row * 3]! * column[0]! + r[row * 3 + 1]! * column[1]! + r[row * 3 + 2]! * column[2]!
    }
  })
  return product([camera.focal, 0, camera.centreX, 0, camera.focal, camera.centreY, 0, 0, 1], inCamera)
}

export function mapPoint(h: ArrayLike<number>, x: number, y: number): [number, number] {
  const w = h[6]! * x + h[7]! * y + h[8]!
  return [(h[0]! * x + h[1]! * y + h[2]!) / w, (h[3]! * x + h[4]! * y + h[5]!) / w]
}

export function inverse3(m: ArrayLike<number>): Float64Array {
  const [a, b, c, d, e, f, g, h, i] = Array.from(m) as [number, number, number, number, number, number, number, number, number] // prettier-ignore
  const A = e * i - f * h
  const B = f * g - d * i
  const C = d * h - e * g
  const det = a * A + b * B + c * C
  return Float64Array.from([A, c * h - b * i, b * f - c * e, B, a * i - c * g, c * d - a * f, C, b * g - a * h, a * e - b * d], (v) => v / det) // prettier-ignore
}
