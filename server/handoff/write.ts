import sharp from 'sharp'
import { findObject, hasHoldouts, isMovie, isShow, type Output, type RotoDocument } from '@tender-lasso/core/document'
import { partColour } from '@tender-lasso/core/evaluation'
import { frameView, picturesOf, type Picture } from '@tender-lasso/core/handoff'
import { renderFittedMattes } from '@tender-lasso/core/raster'
import { Problem } from '../errors'
import { keys, openStore, sha256, type Store } from '../store'
import { encodePicture, encodeShown, ENDINGS } from './encode'
import { movieFrame } from './movieFrames'
import type { Delivery } from './payload'

export interface ManifestFile {
  path: string
  frame: number
  bytes: number
  sha256: string
}

export interface Manifest {
  shot: string
  output: Output
  version: number
  /** The edit of the shot's log up to which the mattes were made. */
  sequence: number
  range: [number, number]
  width: number
  height: number
  rate: { numerator: number; denominator: number }
  /** The Parts and what they are called in files and channels. */
  mattes: { partId: string; name: string }[]
  /** Which matte is in which channel of the files of a frame, by the names that they have on the first one. */
  pictures: { path: string; channels: Record<string, string> }[]
  files: ManifestFile[]
}

export interface HandoffTarget {
  /** Address of the store that gets the files, and the key that they are put below. */
  store: string
  key: string
  shotId: string
  shotName: string
  /** Pixels of the plate. */
  width: number
  height: number
  pixelAspect: number
  rate: { numerator: number; denominator: number }
}

/** What writing any frame of a delivery needs. */
export interface FrameWork {
  document: RotoDocument
  payload: Delivery
  target: HandoffTarget
}

export const MANIFEST = 'manifest.json'

/** The files that a frame is in, below the delivery's key. */
function picturesOn({ output, mattes, version }: Delivery, { shotName }: HandoffTarget, frame: number): Picture[] {
  const ending = ENDINGS[output.format]
  return picturesOf(output, mattes, { shot: shotName, version, frame }).map(({ path, channels }) => ({
    path: `${path}.${ending}`,
    channels,
  }))
}

/** Where a frame's picture is put: as the file itself, or beside it until the movie is put together. */
const placeOf = ({ output }: Delivery, { path }: Picture, frame: number) =>
  isMovie(output.format) ? movieFrame(path, frame) : path

/** Pixels of the files of an output of a plate. */
export const pixelsOfOutput = ({ scale }: Output, { width, height }: { width: number; height: number }) => ({
  width: Math.ceil(width * scale),
  height: Math.ceil(height * scale),
})

/**
 * Renders one frame and writes its files, each whole or not at all.
 *
 * @param reuse  mattes of an earlier frame, to be written over; holds this frame's afterwards
 */
export async function writeFrame(work: FrameWork, frame: number, reuse: Float32Array[] = []): Promise<ManifestFile[]> {
  const { document, payload, target } = work
  const { output, mattes, version, sequence } = payload
  const { width, height } = pixelsOfOutput(output, target)
  const withHoldouts = hasHoldouts(output)
  const fitted = renderFittedMattes(
    frameView(document, output, frame).scene,
    mattes.map(({ partId }) => ({ partId, withHoldouts })),
    { box: { left: 0, top: 0, right: width, bottom: height }, motionBlur: output.motionBlur, reuse },
  )!
  fitted.forEach(({ alpha }, i) => (reuse[i] = alpha))
  const frameMattes = { mattes: fitted, names: mattes.map(({ name }) => name), width, height }
  const said = {
    pixelAspect: target.pixelAspect,
    framesPerSecond: target.rate,
    frame,
    texts: {
      shot: target.shotName,
      output: output.name,
      deliveryVersion: String(version),
      editSequence: String(sequence),
    },
  }
  return Promise.all(
    picturesOn(payload, target, frame).map(async (picture) => {
      const bytes = isShow(output.layout)
        ? await encodeShown(output, frameMattes, coloursOf(work), await plateOf(work, frame))
        : await encodePicture(output, picture, frameMattes, said)
      const path = placeOf(payload, picture, frame)
      await openStore(target.store).put(keys.below(target.key, path), bytes)
      return { path, frame, bytes: bytes.length, sha256: sha256(bytes) }
    }),
  )
}

/** The colours of the mattes' Parts. */
const coloursOf = ({ document, payload }: FrameWork) =>
  payload.mattes.map(({ partId }) => partColour(document, findObject(document, 'part', partId)!))

/** The plate's picture for the eye at an output's size; null where the output does not show it. @throws Problem 409 where it is not there */
async function plateOf({ payload: { output }, target }: FrameWork, frame: number): Promise<Uint8Array | null> {
  if (output.layout === 'white') return null
  const file = await openStore(target.store).read(keys.frame(target.shotId, frame, 'display')).catch(() => null) // prettier-ignore
  if (!file) throw new Problem(409, 'no-plate', `Frame ${frame} of the plate is not there (any more), and ${output.name} shows it`) // prettier-ignore
  const { width, height } = pixelsOfOutput(output, target)
  return sharp(file).resize(width, height, { fit: 'fill' }).toColourspace('srgb').removeAlpha().raw().toBuffer()
}

/** Files of a frame that an earlier try has left whole, or null when some are missing. */
export async function finishedFrame(
  payload: Delivery,
  target: HandoffTarget,
  frame: number,
): Promise<ManifestFile[] | null> {
  const found: ManifestFile[] = []
  const store = openStore(target.store)
  for (const picture of picturesOn(payload, target, frame)) {
    const path = placeOf(payload, picture, frame)
    const bytes = await store.read(keys.below(target.key, path)).catch(() => null)
    if (!bytes) return null
    found.push({ path, frame, bytes: bytes.length, sha256: sha256(bytes) })
  }
  return found
}

/** The list of files with checksums, written last: its presence says that the hand-off is whole. */
export async function writeManifest(payload: Delivery, target: HandoffTarget, files: ManifestFile[]): Promise<void> {
  const { output, mattes, version, sequence, range } = payload
  const manifest: Manifest = {
    shot: target.shotName,
    output,
    version,
    sequence,
    range,
    ...pixelsOfOutput(output, target),
    rate: target.rate,
    mattes,
    pictures: picturesOn(payload, target, range[0]).map(({ path, channels }) => ({
      path,
      channels: Object.fromEntries(channels.map(({ name, matte }) => [name, mattes[matte]!.name])),
    })),
    files,
  }
  await openStore(target.store).put(keys.below(target.key, MANIFEST), JSON.stringify(manifest, null, 1))
}

/** The manifest of a hand-off; null while it is not whole. */
export async function readManifest(store: Store, key: string): Promise<Manifest | null> {
  const bytes = await store.read(keys.below(key, MANIFEST)).catch(() => null)
  return bytes && (JSON.parse(new TextDecoder().decode(bytes)) as Manifest)
}
