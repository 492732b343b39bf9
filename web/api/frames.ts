import { z } from 'zod'

/** Where a frame is, from an address. */
export const framePlace = z.object({
  shotId: z.string().regex(/^[A-Za-z0-9]{1,40}$/),
  frame: z.coerce.number().int(),
})

/** Frames never change once written. */
export const frameHeaders = (type: string) => ({ 'Content-Type': type, 'Cache-Control': 'private, max-age=86400' })
