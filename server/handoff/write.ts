import { deflateSync } from 'node:zlib'
import sharp from 'sharp'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { type RotoDocument } from '@tender-lasso/core/document'
import { renderMattes } from '@tender-lasso/core/raster'
import { writeExr } from '@tender-lasso/formats/exr'
import { keys, openStore, sha256, type Store } from '../store'
import type { HandoffPayload } from './request'

export interface ManifestFile {
  path: string
  frame: number
  bytes: number
  sha256: string
}

export interface Manifest {
  format: HandoffPayload['format']
  shot: string
  range: [number, number]
  width: number
  height: number
  withHoldouts: boolean
  motionBlur: boolean
  /** The edit of the shot's log up to which the mattes were made. */
  sequence: number
  files: ManifestFile[]
}

export interface HandoffTarget {
  /** Address of the store that gets the files, and the key that they are put below. */
  store: string
  key: string
  shotName: string
  width: number
  height: number
}

/** What writing any frame of a hand-off needs. */
export interface FrameWork {
  document: RotoDocument
  payload: HandoffPayload
  target: HandoffTarget
}

export const MANIFEST = 'manifest.json'

/** Names of the files of one frame, below the hand-off's key. */
function frameFileNames(payload: HandoffPayload, shotName: string, frame: number): string[] {
  const number = String(frame).padStart(4, '0')
  if (payload.format === 'exr-half') return [`${shotName}_mattes.${number}.exr`]
  return payload.mattes.map(({ name }) => `${name}/${shotName}_${name}.${number}.png`)
}

/**
 * Renders one frame and writes its files, each whole or not at all.
 *
 * @param reuse  mattes of an earlier frame, to be written over; holds this frame's afterwards
 */
export async function writeFrame(work: FrameWork, frame: number, reuse: Float32Array[] = []): Promise<ManifestFile[]> {
  const { document, payload, target } = work
  const { width, height } = target
  const alphas = renderMattes(
    sceneAt(document, frame),
    payload.mattes.map(({ partId }) => ({ partId, withHoldouts: payload.withHoldouts })),
    { box: { left: 0, top: 0, right: width, bottom: height }, motionBlur: payload.motionBlur, reuse },
  )!
  alphas.forEach((alpha, i) => (reuse[i] = alpha))
  const names = frameFileNames(payload, target.shotName, frame)
  const contents =
    payload.format === 'exr-half'
      ? [exrOf(payload, alphas, width, height)]
      : await Promise.all(alphas.map((alpha) => png16Of(alpha, width, height)))
  return Promise.all(
    names.map(async (name, i) => {
      const bytes = contents[i]!
      await openStore(target.store).put(keys.below(target.key, name), bytes)
      return { path: name, frame, bytes: bytes.length, sha256: sha256(bytes) }
    }),
  )
}

function exrOf(payload: HandoffPayload, alphas: Float32Array[], width: number, height: number): Uint8Array {
  const channels = payload.mattes.map(({ name }, i) => ({ name: `${name}.A`, data: alphas[i]! }))
  return writeExr(width, height, channels, (bytes) => deflateSync(bytes, { level: 2 }))
}

/** Linear coverage as 16-bit grey: a matte is not a picture and gets no display curve. */
function png16Of(alpha: Float32Array, width: number, height: number): Promise<Uint8Array> {
  const values = new Uint16Array(alpha.length)
  for (let i = 0; i < values.length; i++) values[i] = alpha[i]! * 65535 + 0.5
  return sharp(values, { raw: { width, height, channels: 1 } })
    .toColourspace('grey16')
    .png({ compressionLevel: 3 })
    .toBuffer()
}

/** Files of a frame that an earlier try has left whole, or null when some are missing. */
export async function finishedFrame(
  payload: HandoffPayload,
  target: HandoffTarget,
  frame: number,
): Promise<ManifestFile[] | null> {
  const found: ManifestFile[] = []
  const store = openStore(target.store)
  for (const name of frameFileNames(payload, target.shotName, frame)) {
    const bytes = await store.read(keys.below(target.key, name)).catch(() => null)
    if (!bytes) return null
    found.push({ path: name, frame, bytes: bytes.length, sha256: sha256(bytes) })
  }
  return found
}

/** The list of files with checksums, written last: its presence says that the hand-off is whole. */
export async function writeManifest(
  payload: HandoffPayload,
  target: HandoffTarget,
  files: ManifestFile[],
): Promise<void> {
  const manifest: Manifest = {
    format: payload.format,
    shot: target.shotName,
    range: payload.range,
    width: target.width,
    height: target.height,
    withHoldouts: payload.withHoldouts,
    motionBlur: payload.motionBlur,
    sequence: payload.sequence,
    files,
  }
  await openStore(target.store).put(keys.below(target.key, MANIFEST), JSON.stringify(manifest, null, 1))
}

/** The manifest of a hand-off; null while it is not whole. */
export async function readManifest(store: Store, key: string): Promise<Manifest | null> {
  const bytes = await store.read(keys.below(key, MANIFEST)).catch(() => null)
  return bytes && (JSON.parse(new TextDecoder().decode(bytes)) as Manifest)
}
