import { Readable } from 'node:stream'
import { ZipFile } from 'yazl'
import { keys, type Store } from '../store'
import { MANIFEST, type Manifest } from './write'

/**
 * The files of a hand-off and its manifest as one ZIP, stored (mattes are compressed already), streamed; of any size, with
 * ZIP64 where it is needed.
 */
export function zipStream(store: Store, key: string, manifest: Pick<Manifest, 'files'>): ReadableStream<Uint8Array> {
  const zip = new ZipFile()
  const out = zip.outputStream as Readable
  // A file that is not there any more ends the download, so that nobody takes half of it for the whole.
  const fail = (error: Error) => out.destroy(error)
  zip.on('error', fail)
  // The size of a file is told beforehand, since ones beyond 4 GiB are written otherwise.
  const add = (name: string, size?: number) =>
    zip.addReadStreamLazy(name, { compress: false, size }, (take) =>
      take(null, store.stream(keys.below(key, name)).on('error', fail)),
    )
  for (const { path, bytes } of manifest.files) add(path, bytes)
  add(MANIFEST)
  zip.end()
  return Readable.toWeb(out) as ReadableStream<Uint8Array>
}
