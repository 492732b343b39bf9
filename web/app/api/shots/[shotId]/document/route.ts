import { z } from 'zod'
import { openDocument, openDocumentAt } from '@tender-lasso/server/editLog'
import { idsOf, respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

const query = z.object({ sequence: z.coerce.number().int().min(0).max(2147483647).optional() })

/** The head as a binary stream of objects, or the document after an earlier batch; its place in the log stands in a header. */
export const GET = respond(async (request, context: Params<'shotId'>) => {
  const { shotId } = await idsOf(context)
  const asked = query.parse(Object.fromEntries(new URL(request.url).searchParams)).sequence
  const { sequence, damage, bytes } =
    asked === undefined
      ? await openDocument(shotId)
      : { sequence: asked, damage: null, bytes: await openDocumentAt(shotId, asked) }
  return new Response(bytes, {
    headers: {
      'Content-Type': 'application/octet-stream',
      'X-Sequence': String(sequence),
      // Why the log cannot be read beyond that place: headers carry ASCII only.
      ...(damage && { 'X-Damage': encodeURIComponent(damage) }),
      'Cache-Control': 'no-store',
    },
  })
})
