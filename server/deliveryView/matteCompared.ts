import sharp from 'sharp'
import { matteDifference, matteGrey } from '@tender-lasso/core/handoff'
import { Problem } from '../errors'
import type { Manifest } from '../handoff'
import type { LiveHandoff } from '../liveHandoff'
import type { Store } from '../store'
import { deliveredMatte } from './deliveredMatte'

/** Where a delivery is, and what of it is looked at. */
export interface DeliveryPlace {
  store: Store
  shotId: string
  key: string
  manifest: Manifest
  partId: string
  frame: number
}

/** A picture of a delivered matte. */
export interface MattePicture {
  png: Uint8Array<ArrayBuffer>
  /** Against the matte as it is now: pixels that differ by more than a step of eight bits, and the largest difference; null where it was not compared. */
  difference: { differing: number; largest: number } | null
}

/** A matte of a delivery in grey, as its files hold it. @throws as {@link deliveredMatte} */
export async function delivered({ store, key, manifest, partId, frame }: DeliveryPlace): Promise<MattePicture> {
  const matte = await deliveredMatte(store, key, manifest, partId, frame)
  return { png: await pngOf(matteGrey(matte.values), matte), difference: null }
}

/** A matte of a delivery against the same one as the shot is now, rendered by the delivery's own settings. @throws as {@link deliveredMatte} */
export async function compared(place: DeliveryPlace, live: Pick<LiveHandoff, 'matte'>): Promise<MattePicture> {
  const { store, shotId, key, manifest, partId, frame } = place
  const [matte, present] = await Promise.all([
    deliveredMatte(store, key, manifest, partId, frame),
    live.matte({ shotId, output: manifest.output, partId, frame }),
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
