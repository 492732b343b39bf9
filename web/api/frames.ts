import { z } from 'zod'

/** Where a frame is, from an address. */
export const framePlace = z.object({
  shotId: z.string().regex(/^[A-Za-z0-9]{1,40}$/),
  frame: z.coerce.number().int(),
})

/** Frames never change once written. */
export const frameHeaders = (type: string, bytes: Uint8Array) => ({
  'Content-Type': type,
  'Content-Length': String(bytes.length),
  'Cache-Control': 'private, max-age=86400',
})

/** Bytes as they are: a response made of them alone would copy them first. */
export const streamOf = (bytes: Uint8Array) =>
  new ReadableStream<Uint8Array>({
    start(controller) {
      controller.enqueue(bytes)
      controller.close()
    },
  })
