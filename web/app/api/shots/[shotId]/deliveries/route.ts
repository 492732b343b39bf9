import { z } from 'zod'
import { id } from '@tender-lasso/core/document'
import { handoffStatus, startDelivery } from '@tender-lasso/server/handoff'
import { bodyOf, idsOf, respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

export const GET = respond(async (_, context: Params<'shotId'>) =>
  Response.json(await handoffStatus((await idsOf(context)).shotId)),
)

const wanted = z.object({ outputId: id })

export const POST = respond(async (request, context: Params<'shotId'>) => {
  const { outputId } = await bodyOf(request, wanted)
  const jobId = await startDelivery((await idsOf(context)).shotId, outputId)
  return Response.json({ jobId }, { status: 202 })
})
