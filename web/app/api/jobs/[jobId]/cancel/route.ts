import { cancelJob } from '@tender-lasso/server/jobs'
import { idsOf, respond, type Params } from '../../../../../api/respond'

export const POST = respond(async (_request, context: Params<'jobId'>) => {
  await cancelJob((await idsOf(context)).jobId)
  return new Response(null, { status: 204 })
})
