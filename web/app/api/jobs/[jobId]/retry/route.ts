import { retryJob } from '@tender-lasso/server/jobs'
import { respond, type Params } from '../../../../../api/respond'

export const POST = respond(async (_request, { params }: Params<'jobId'>) => {
  await retryJob((await params).jobId)
  return new Response(null, { status: 204 })
})
