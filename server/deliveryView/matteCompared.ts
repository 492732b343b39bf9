import sharp from 'sharp'
import type { Output } from '@tender-lasso/core/document'
import { matteDifference, matteGrey } from '@tender-lasso/core/handoff'
import { Problem } from '../errors'
import type { DeliveredPlace, MattePixels } from './deliveredMatte'

/** What of a delivery is looked at. */
export interface DeliveryPlace extends Omit<DeliveredPlace, 'store'> {
  shotId: string
  /** Address of the store. */
  store: string
}

/** Threads that make mattes: a picture of many channels would keep everybody waiting. */
interface Threads {
  /** As the shot is now. */
  matte(of: { shotId: string; output: Output; partId: string; frame: number }): Promise<MattePixels>
  delivered(place: Omit<DeliveryPlace, 'shotId'>): Promise<MattePixels>
}

/** A picture of a delivered matte. */
export interface MattePicture {
  png: Uint8Array<ArrayBuffer>
  /** Against the matte as it is now: pixels that differ by more than a step of eight bits, and the largest difference; null where it was not compared. */
  difference: { differing: number; largest: number } | null
}

/** A matte of a delivery in grey, as its files hold it. @throws as deliveredMatte */
export async function delivered(place: DeliveryPlace, threads: Threads): Promise<MattePicture> {
  const matte = await threads.delivered(place)
  return { png: await pngOf(matteGrey(matte.values), matte), difference: null }
}

/** A matte of a delivery against the same one as the shot is now, rendered by the delivery's own settings. @throws as deliveredMatte */
export async function compared(place: DeliveryPlace, threads: Threads): Promise<MattePicture> {
  const { shotId, manifest, partId, frame } = place
  const [matte, present] = await Promise.all([
    threads.delivered(place),
    threads.matte({ shotId, output: manifest.output, partId, frame }),
  ])
  if (matte.width !== present.width || matte.height !== present.height)
    throw new Problem(409, 'other-size', `The delivery is ${matte.width} x ${matte.height}, the shot gives ${present.width} x ${present.height} now`) // prettier-ignore
  const { pixels, differing, largest } = matteDifference(matte.values, present.values)
  return { png: await pngOf(pixels, matte), difference: { differing, largest } }
}

async function pngOf(pixels: Uint8Array, { width, height }: { width: number; height: number }) {
  const png = await sharp(pixels, { raw: { width, height, channels: 3 } })
    .png({ compressionLevel: 1 })
    .toBuffer()
  return new Uint8Array(png)
}
