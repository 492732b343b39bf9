import { batchesSince, headSequenceOf } from '@tender-lasso/server/editLog'
import { Problem } from '@tender-lasso/server/errors'
import { followShot } from '@tender-lasso/server/live'
import { z } from 'zod'
import { idsOf, respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

const HEARTBEAT_MS = 15_000
/** A reader that lets so much wait is dropped; it comes back from where it was. */
const MOST_WAITING_BYTES = 32 * 2 ** 20

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
  const encoder = new TextEncoder()
  let leave = () => {}
  let isOver = false
  const stop = () => {
    isOver = true
    leave()
  }
  const stream = new ReadableStream<Uint8Array<ArrayBuffer>>(
    {
      start(controller) {
        const take = (bytes: Uint8Array<ArrayBuffer>) => {
          if (isOver) return true
          controller.enqueue(bytes)
          return (controller.desiredSize ?? 0) > -MOST_WAITING_BYTES
        }
        const drop = () => {
          if (isOver) return
          stop()
          controller.close()
        }
        const heartbeat = setInterval(() => {
          if (isOver) clearInterval(heartbeat)
          else if (!take(encoder.encode(': still here\n\n'))) drop()
        }, HEARTBEAT_MS)
        take(encoder.encode('retry: 1500\n: open\n\n'))
        followShot(shotId, since, { take, drop }, batchesSince).then((end) => {
          leave = end
          if (isOver) end()
        }, drop)
      },
      cancel: stop,
    },
    new ByteLengthQueuingStrategy({ highWaterMark: 64 * 1024 }),
  )
  request.signal.addEventListener('abort', stop)
  return new Response(stream, {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' },
  })
})
