import { finishedExport } from '../../../../api/exports'
import { respond, type Params } from '../../../../api/respond'

export const dynamic = 'force-dynamic'

export const GET = respond(async (_request, { params }: Params<'jobId'>) =>
  Response.json((await finishedExport((await params).jobId)).manifest),
)
