import { finishedExport } from '../../../../api/exports'
import { idsOf, respond, type Params } from '../../../../api/respond'

export const dynamic = 'force-dynamic'

export const GET = respond(async (_request, context: Params<'jobId'>) =>
  Response.json((await finishedExport((await idsOf(context)).jobId)).manifest),
)
