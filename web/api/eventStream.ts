import type { Follower } from '@tender-lasso/server/live'

const HEARTBEAT_MS = 15_000
/** A reader that lets so much wait is dropped; it comes back from where it was. */
const MOST_WAITING_BYTES = 32 * 2 ** 20

/**
 * Server-sent events for one reader.
 *
 * @param join         makes the reader follow something; the function that comes back ends that
 * @param isStillLetIn  asked at each heartbeat; false, or an error, ends the stream
 */
export function eventStream(
  request: Request,
  join: (follower: Follower) => Promise<() => void>,
  isStillLetIn: () => Promise<boolean> = () => Promise.resolve(true),
): Response {
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
          if (isOver) return clearInterval(heartbeat)
          isStillLetIn().then((isLetIn) => {
            if (!isLetIn || !take(encoder.encode(': still here\n\n'))) drop()
          }, drop)
        }, HEARTBEAT_MS)
        take(encoder.encode('retry: 1500\n: open\n\n'))
        join({ take, drop }).then((end) => {
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
}
