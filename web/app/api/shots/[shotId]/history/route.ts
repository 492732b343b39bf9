import { z } from 'zod'
import { historyOf } from '@tender-lasso/server/editLog'
import { idsOf, respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

const query = z.object({
  before: z.coerce.number().int().min(0).max(2147483647).default(2147483647),
  limit: z.coerce.number().int().min(1).max(500).default(100),
})

/** Edits of the shot, newest first: place in the log, artist, time and words. */
export const GET = respond(async (request, context: Params<'shotId'>) => {
  const { before, limit } = query.parse(Object.fromEntries(new URL(request.url).searchParams))
  return Response.json(await historyOf((await idsOf(context)).shotId, before, limit))
})
