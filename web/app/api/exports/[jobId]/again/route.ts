import { repeatDelivery } from '@tender-lasso/server/handoff'
import { idsOf, respond, type Params } from '../../../../../api/respond'

export const POST = respond(async (_, context: Params<'jobId'>) => {
  const jobId = await repeatDelivery((await idsOf(context)).jobId)
  return Response.json({ jobId }, { status: 202 })
})
