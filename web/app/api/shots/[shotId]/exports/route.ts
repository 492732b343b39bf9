import { handoffSchema, startHandoff } from '@tender-lasso/server/handoff'
import { respond, type Params } from '../../../../../api/respond'

export const POST = respond(async (request, { params }: Params<'shotId'>) => {
  const jobId = await startHandoff((await params).shotId, handoffSchema.parse(await request.json()))
  return Response.json({ jobId }, { status: 202 })
})
