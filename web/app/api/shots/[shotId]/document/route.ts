import { z } from 'zod'
import { openDocument, openDocumentAt } from '@tender-lasso/server/editLog'
import { respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

const query = z.object({ sequence: z.coerce.number().int().min(0).max(2147483647).optional() })

/** The head as a binary stream of objects, or the document after an earlier batch; its place in the log stands in a header. */
export const GET = respond(async (request, { params }: Params<'shotId'>) => {
  const { shotId } = await params
  const asked = query.parse(Object.fromEntries(new URL(request.url).searchParams)).sequence
  const { sequence, bytes } =
    asked === undefined ? await openDocument(shotId) : { sequence: asked, bytes: await openDocumentAt(shotId, asked) }
  return new Response(bytes, {
    headers: {
      'Content-Type': 'application/octet-stream',
      'X-Sequence': String(sequence),
      'Cache-Control': 'no-store',
    },
  })
})
