import { batchesSince } from '@tender-lasso/server/editLog'
import { onShotEdited } from '@tender-lasso/server/live'
import { respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

const HEARTBEAT_MS = 15_000

/** Server-sent events: each batch as it is committed, from `?since=` on. */
export const GET = respond(async (request, { params }: Params<'shotId'>) => {
  const { shotId } = await params
  let sequence = Number(new URL(request.url).searchParams.get('since') ?? 0)
  const encoder = new TextEncoder()
  let stop = () => {}
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      let isReading = false
      let isStale = false
      const send = async () => {
        if (isReading) {
          isStale = true
          return
        }
        isReading = true
        try {
          do {
            isStale = false
            for (const row of await batchesSince(shotId, sequence)) {
              sequence = row.sequence
              controller.enqueue(encoder.encode(`data: {"sequence":${row.sequence},"batch":${row.payload}}\n\n`))
            }
          } while (isStale)
        } catch (error) {
          // The stream ends and the browser opens it again from where it was.
          controller.error(error)
          stop()
        } finally {
          isReading = false
        }
      }
      const stopListening = onShotEdited(shotId, () => void send())
      const heartbeat = setInterval(() => controller.enqueue(encoder.encode(': still here\n\n')), HEARTBEAT_MS)
      stop = () => {
        clearInterval(heartbeat)
        stopListening()
      }
      controller.enqueue(encoder.encode(': open\n\n'))
      void send()
    },
    cancel: () => stop(),
  })
  request.signal.addEventListener('abort', () => stop())
  return new Response(stream, {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' },
  })
})
