import { open } from 'node:fs/promises'
import { notFound, Problem } from '@tender-lasso/server/errors'
import { FRAME_TIERS, framePath } from '@tender-lasso/server/media'
import { readSettings } from '@tender-lasso/server/settings'
import { z } from 'zod'
import { respond, type Params } from '../../../../../../../api/respond'

export const dynamic = 'force-dynamic'

const place = z.object({
  shotId: z.string().regex(/^[A-Za-z0-9]{1,40}$/),
  frame: z.coerce.number().int(),
  tier: z.enum(Object.keys(FRAME_TIERS) as [keyof typeof FRAME_TIERS]),
})

/** A made frame, whole or a byte range of it. Frames never change once written. */
export const GET = respond(async (request, { params }: Params<'shotId' | 'frame' | 'tier'>) => {
  const { shotId, frame, tier } = place.parse(await params)
  const handle = await open(framePath(readSettings().frames, shotId, frame, tier)).catch(() => {
    throw notFound(`Frame ${frame}`)
  })
  try {
    const { size } = await handle.stat()
    const headers = {
      'Content-Type': FRAME_TIERS[tier].type,
      'Cache-Control': 'private, max-age=86400',
      'Accept-Ranges': 'bytes',
    }
    const range = /^bytes=(\d+)-(\d+)$/.exec(request.headers.get('range') ?? '')
    const first = range ? Number(range[1]) : 0
    const last = range ? Math.min(Number(range[2]), size - 1) : size - 1
    if (first > last) throw new Problem(416, 'bad-range', `The file has ${size} bytes`)
    const bytes = new Uint8Array(last - first + 1)
    await handle.read(bytes, 0, bytes.length, first)
    if (!range) return new Response(bytes, { headers })
    return new Response(bytes, {
      status: 206,
      headers: { ...headers, 'Content-Range': `bytes ${first}-${last}/${size}` },
    })
  } finally {
    await handle.close()
  }
})
