import { Problem } from '../errors'

const LARGEST_SIDE = 16384
/** A plate of 8192 x 8192; its frames take some 2 GB of memory while they are made. */
const LARGEST_AREA = 2 ** 26

/** @throws Problem 422 `too-large` naming the file, before anything of it is decoded */
export function refuseHugeSize(name: string, width: number, height: number) {
  if (width <= LARGEST_SIDE && height <= LARGEST_SIDE && width * height <= LARGEST_AREA) return
  const most = `${LARGEST_SIDE} on a side and ${Math.floor(LARGEST_AREA / 1e6)} megapixels`
  throw new Problem(422, 'too-large', `${name} is ${width} x ${height} pixels; the largest is ${most}`)
}
