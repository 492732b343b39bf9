import { z } from 'zod'
import { createLiveToken, liveTokens } from '@tender-lasso/server/liveHandoff'
import { bodyOf, idsOf, respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

/** Tokens that read the shot's live hand-off. */
export const GET = respond(async (_, context: Params<'shotId'>) =>
  Response.json(await liveTokens((await idsOf(context)).shotId)),
)

const wanted = z.object({ name: z.string().trim().min(1).max(100), days: z.number().int().min(1).max(366) })

export const POST = respond(async (request, context: Params<'shotId'>) => {
  const { name, days } = await bodyOf(request, wanted)
  return Response.json(await createLiveToken((await idsOf(context)).shotId, name, days), { status: 201 })
})
