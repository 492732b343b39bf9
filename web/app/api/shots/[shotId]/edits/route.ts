import { batchFromJson } from '@tender-lasso/core/document'
import { batchesAside, batchesOf, batchesSince, submitBatch, type SubmitResult } from '@tender-lasso/server/editLog'
import { Problem } from '@tender-lasso/server/errors'
import { CoreError } from '@tender-lasso/core/errors'
import { z } from 'zod'
import { respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

const query = z.union([
  z.object({ since: z.coerce.number().int().min(0) }),
  z.object({ author: z.string().min(1), limit: z.coerce.number().int().min(1).max(500).default(200) }),
  z.object({ aside: z.literal('1') }),
])

/** Batches after a place in the log, an artist's latest ones, or those set aside. */
export const GET = respond(async (request, { params }: Params<'shotId'>) => {
  const { shotId } = await params
  const asked = query.parse(Object.fromEntries(new URL(request.url).searchParams))
  if ('aside' in asked) return Response.json(await batchesAside(shotId))
  const rows =
    'since' in asked ? await batchesSince(shotId, asked.since) : await batchesOf(shotId, asked.author, asked.limit)
  const list = rows.map(({ sequence, payload }) => `{"sequence":${sequence},"batch":${payload}}`)
  return new Response(`[${list.join(',')}]`, { headers: { 'Content-Type': 'application/json' } })
})

const body = z.object({ batches: z.array(z.unknown()).min(1).max(200) })

/** Commits batches in their order. Each is answered for itself; one that can fit no document is set aside by its sender. */
export const POST = respond(async (request, { params }: Params<'shotId'>) => {
  const { shotId } = await params
  const { batches } = body.parse(await request.json())
  const results: SubmitResult[] = []
  for (const raw of batches) {
    const batchId = (raw as { batchId?: unknown } | null)?.batchId
    try {
      results.push(await submitBatch(shotId, batchFromJson(raw)))
    } catch (error) {
      if (!(error instanceof CoreError)) throw error
      if (typeof batchId !== 'string') throw new Problem(422, error.code, error.message)
      results.push({ batchId, outcome: 'aside', reason: error.message })
    }
  }
  return Response.json(results)
})
