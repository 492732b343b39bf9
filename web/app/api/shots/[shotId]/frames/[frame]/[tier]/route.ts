import { missingFrame } from '@tender-lasso/server/shots'
import { FRAME_TIERS, keys, mediaStore } from '@tender-lasso/server/store'
import { z } from 'zod'
import { frameHeaders, framePlace, streamOf } from '../../../../../../../api/frames'
import { respond, type Params } from '../../../../../../../api/respond'

export const dynamic = 'force-dynamic'

const place = framePlace.extend({ tier: z.enum(Object.keys(FRAME_TIERS) as [keyof typeof FRAME_TIERS]) })

/** A made frame; of an analysis frame, tiles alone are had from the route beside this one. */
export const GET = respond(async (_request, { params }: Params<'shotId' | 'frame' | 'tier'>) => {
  const { shotId, frame, tier } = place.parse(await params)
  const bytes = await mediaStore()
    .read(keys.frame(shotId, frame, tier))
    .catch(async () => {
      throw await missingFrame(shotId, [frame])
    })
  return new Response(streamOf(bytes), { headers: frameHeaders(FRAME_TIERS[tier].type, bytes) })
})
