import sharp from 'sharp'
import { boxAroundAll, grown, type Box } from '@tender-lasso/core/geometry'

/** How much of each pixel something covers, row by row: 0 to `full`. */
export interface Coverage {
  width: number
  height: number
  values: Uint16Array | Float32Array
  full: number
}

/** A 16-bit grey PNG as it is. */
export async function coverageOf(png: Buffer | Uint8Array): Promise<Coverage> {
  const { data, info } = await sharp(png)
    .toColourspace('grey16')
    .raw({ depth: 'ushort' })
    .toBuffer({ resolveWithObject: true })
  const { width, height, channels } = info
  if (channels !== 1) throw new Error(`A grey picture has one channel, not ${channels}`)
  return { width, height, values: new Uint16Array(data.buffer, data.byteOffset, width * height), full: 65535 }
}

/** The pixels, and some more round them, of which any of these pictures covers something: most of a plate is empty. */
export function filledBox(pictures: readonly Coverage[], margin: number): Box {
  const [{ width, height }] = pictures as [Coverage]
  const filled = pictures.flatMap((picture) => filledBoxOf(picture) ?? [])
  if (filled.length === 0) return { left: 0, top: 0, right: 0, bottom: 0 }
  const { left, top, right, bottom } = grown(boxAroundAll(filled), margin)
  return { left: Math.max(0, left), top: Math.max(0, top), right: Math.min(width, right), bottom: Math.min(height, bottom) } // prettier-ignore
}

function filledBoxOf({ width, height, values }: Coverage): Box | null {
  let [left, top, right, bottom] = [width, height, 0, 0]
  const bytes = Buffer.from(values.buffer, values.byteOffset, values.byteLength)
  const bytesOfRow = width * values.BYTES_PER_ELEMENT
  const empty = Buffer.alloc(bytesOfRow)
  for (let y = 0; y < height; y++) {
    if (bytes.compare(empty, 0, bytesOfRow, y * bytesOfRow, (y + 1) * bytesOfRow) === 0) continue
    const [begin, end] = [y * width, (y + 1) * width]
    let first = begin
    while (first < end && values[first] === 0) first++
    if (first === end) continue
    let last = end - 1
    while (values[last] === 0) last--
    top = Math.min(top, y)
    bottom = y + 1
    left = Math.min(left, first - begin)
    right = Math.max(right, last + 1 - begin)
  }
  return bottom === 0 ? null : { left, top, right, bottom }
}

/** What a picture covers within a box, 0..1. */
export function within({ width, values, full }: Coverage, { left, top, right, bottom }: Box): Float32Array {
  const out = new Float32Array((right - left) * (bottom - top))
  let at = 0
  for (let y = top; y < bottom; y++) {
    for (let from = y * width + left; from < y * width + right; from++) out[at++] = values[from]! / full
  }
  return out
}
