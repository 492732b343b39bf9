import path from 'node:path'
import { Readable } from 'node:stream'
import { ZipFile } from 'yazl'
import type { Manifest } from './write'

/**
 * The files of a hand-off and its manifest as one ZIP, stored (mattes are compressed already), streamed; of any size, with
 * ZIP64 where it is needed.
 */
export function zipStream(folder: string, manifest: Pick<Manifest, 'files'>): ReadableStream<Uint8Array> {
  const zip = new ZipFile()
  const out = zip.outputStream as Readable
  // A file that is not there any more ends the download, so that nobody takes half of it for the whole.
  zip.on('error', (error: Error) => out.destroy(error))
  for (const name of [...manifest.files.map((file) => file.path), 'manifest.json']) {
    zip.addFile(path.join(folder, name), name, { compress: false })
  }
  zip.end()
  return Readable.toWeb(out) as ReadableStream<Uint8Array>
}
