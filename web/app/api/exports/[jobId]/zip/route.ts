import { zipStream } from '@tender-lasso/server/handoff'
import { finishedExport } from '../../../../../api/exports'
import { idsOf, respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

export const GET = respond(async (_request, context: Params<'jobId'>) => {
  const { store, key, manifest } = await finishedExport((await idsOf(context)).jobId)
  return new Response(zipStream(store, key, manifest), {
    headers: {
      'Content-Type': 'application/zip',
      'Content-Disposition': `attachment; filename="${manifest.shot}_mattes.zip"`,
    },
  })
})
