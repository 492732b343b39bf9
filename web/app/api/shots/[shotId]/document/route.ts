import { openDocument } from '@tender-lasso/server/editLog'
import { respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

/** The head as a binary stream of objects; its place in the log stands in a header. */
export const GET = respond(async (_request, { params }: Params<'shotId'>) => {
  const { sequence, bytes } = await openDocument((await params).shotId)
  return new Response(bytes, {
    headers: {
      'Content-Type': 'application/octet-stream',
      'X-Sequence': String(sequence),
      'Cache-Control': 'no-store',
    },
  })
})
