import { batchFromJson } from '@tender-lasso/core/document'
import { CoreError } from '@tender-lasso/core/errors'
import { setAsideBatches, batchesOf, batchesSince, submitBatch, type SubmitResult } from '@tender-lasso/server/editLog'
import { z } from 'zod'
import { bodyOf, idsOf, problem, respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

const query = z.union([
  z.object({ since: z.coerce.number().int().min(0).max(2147483647) }),
  z.object({ author: z.string().min(1).max(120), limit: z.coerce.number().int().min(1).max(500).default(200) }),
  z.object({ aside: z.literal('1') }),
])

/** Batches after a place in the log, an artist's latest ones, or those set aside. */
export const GET = respond(async (request, context: Params<'shotId'>) => {
  const { shotId } = await idsOf(context)
  const asked = query.parse(Object.fromEntries(new URL(request.url).searchParams))
  if ('aside' in asked) return Response.json(await setAsideBatches(shotId))
  const rows =
    'since' in asked ? await batchesSince(shotId, asked.since) : await batchesOf(shotId, asked.author, asked.limit)
  const list = rows.map(({ sequence, payload }) => `{"sequence":${sequence},"batch":${payload}}`)
  return new Response(`[${list.join(',')}]`, { headers: { 'Content-Type': 'application/json' } })
})

const body = z.object({ batches: z.array(z.unknown()).min(1).max(200) })

/** What a batch is answered that can fit no document, however often it is sent: its sender drops it, and says why. */
interface Refused {
  batchId: string | null
  /** Its place in the request. */
  index: number
  outcome: 'refused'
  code: string
  reason: string
}

/**
 * Commits batches in their order. Each is answered for itself: one that is refused does not stop those behind it. When all
 * are refused, the request is (422), with the same answers as a member of the problem.
 */
export const POST = respond(async (request, context: Params<'shotId'>) => {
  const { shotId } = await idsOf(context)
  const { batches } = await bodyOf(request, body)
  const results: (SubmitResult | Refused)[] = []
  for (const [index, raw] of batches.entries()) {
    try {
      results.push(await submitBatch(shotId, batchFromJson(raw)))
    } catch (error) {
      if (!(error instanceof CoreError)) throw error
      const named = (raw as { batchId?: unknown } | null)?.batchId
      const batchId = typeof named === 'string' ? named : null
      results.push({ batchId, index, outcome: 'refused', code: error.code, reason: error.message })
    }
  }
  const refused = results.filter((result) => result.outcome === 'refused')
  if (refused.length < results.length) return Response.json(results)
  return problem(422, refused[0]!.code, refused[0]!.reason, { results })
})
