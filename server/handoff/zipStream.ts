import { createReadStream } from 'node:fs'
import path from 'node:path'
import { Zip, ZipPassThrough } from 'fflate'
import type { Manifest } from './write'

/** The files of a hand-off and its manifest as one ZIP, stored (mattes are compressed already), streamed. */
export function zipStream(folder: string, manifest: Manifest): ReadableStream<Uint8Array> {
  const names = [...manifest.files.map((file) => file.path), 'manifest.json']
  let wanted: (() => void) | null = null
  let cancelled = false
  return new ReadableStream({
    start(controller) {
      const zip = new Zip((error, chunk, final) => {
        if (error) controller.error(error)
        else controller.enqueue(chunk)
        if (final) controller.close()
      })
      const pump = async () => {
        for (const name of names) {
          const entry = new ZipPassThrough(name)
          zip.add(entry)
          for await (const chunk of createReadStream(path.join(folder, name)) as AsyncIterable<Buffer>) {
            if (cancelled) return
            entry.push(chunk)
            // Wait for the reader, so that memory holds a few chunks and not the whole archive.
            if ((controller.desiredSize ?? 1) <= 0) await new Promise<void>((resolve) => (wanted = resolve))
          }
          entry.push(new Uint8Array(0), true)
        }
        zip.end()
      }
      pump().catch((error: unknown) => controller.error(error))
    },
    pull() {
      wanted?.()
      wanted = null
    },
    cancel() {
      cancelled = true
      wanted?.()
    },
  })
}
