import { handoffSchema, startHandoff } from '@tender-lasso/server/handoff'
import { bodyOf, idsOf, respond, type Params } from '../../../../../api/respond'

export const POST = respond(async (request, context: Params<'shotId'>) => {
  const jobId = await startHandoff((await idsOf(context)).shotId, await bodyOf(request, handoffSchema))
  return Response.json({ jobId }, { status: 202 })
})
