import { batchesSince, headSequenceOf } from '@tender-lasso/server/editLog'
import { Problem } from '@tender-lasso/server/errors'
import { followShot } from '@tender-lasso/server/live'
import { z } from 'zod'
import { eventStream } from '../../../../../api/eventStream'
import { idsOf, respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

const place = z.coerce.number().int().min(0).max(2147483647)

/** Server-sent events: each batch as it is committed, after `?since=`, or after what the browser says it had last. */
export const GET = respond(async (request, context: Params<'shotId'>) => {
  const { shotId } = await idsOf(context)
  const last = request.headers.get('Last-Event-ID')
  const since = place.parse(last || (new URL(request.url).searchParams.get('since') ?? '0'))
  // An unknown shot, and a place that is not in its log, are told as such before the stream begins.
  if (since > (await headSequenceOf(shotId))) {
    throw new Problem(409, 'beyond-the-log', `The log of the shot does not reach ${since}: open the shot again`)
  }
  return eventStream(request, (follower) => followShot(shotId, since, follower, batchesSince))
})
