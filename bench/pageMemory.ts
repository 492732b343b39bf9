import type { CDPSession, Page } from '@playwright/test'

interface Heap {
  usedSize: number
  embedderHeapUsedSize?: number
  backingStorageSize?: number
}

/** Megabytes that a page and its workers hold after a collection: objects, what the browser keeps for them, and buffers. */
export async function pageMegabytes(page: Page): Promise<number> {
  const session = await page.context().newCDPSession(page)
  const workers: string[] = []
  session.on('Target.attachedToTarget', ({ sessionId }) => workers.push(sessionId))
  await session.send('Target.setAutoAttach', { autoAttach: true, waitForDebuggerOnStart: false, flatten: false })
  const asked = (method: string): Promise<Heap> => session.send(method as 'Runtime.getHeapUsage')
  const heaps = [await collected(asked)]
  for (const worker of workers) heaps.push(await collected((method) => askedOf(session, worker, method)))
  await session.detach()
  const bytes = heaps.reduce((sum, heap) => sum + heap.usedSize + (heap.embedderHeapUsedSize ?? 0) + (heap.backingStorageSize ?? 0), 0) // prettier-ignore
  return bytes / 1e6
}

async function collected(asked: (method: string) => Promise<Heap>): Promise<Heap> {
  await asked('HeapProfiler.collectGarbage')
  return asked('Runtime.getHeapUsage')
}

let messages = 0

/** An answer of a worker, which is reached through its page. */
function askedOf(session: CDPSession, sessionId: string, method: string): Promise<Heap> {
  const id = ++messages
  return new Promise((resolve, reject) => {
    const heard = ({ sessionId: from, message }: { sessionId: string; message: string }) => {
      const answer = JSON.parse(message) as { id?: number; result?: Heap; error?: { message: string } }
      if (from !== sessionId || answer.id !== id) return
      session.off('Target.receivedMessageFromTarget', heard)
      if (answer.result) resolve(answer.result)
      else reject(new Error(answer.error?.message ?? 'A worker did not tell what it holds'))
    }
    session.on('Target.receivedMessageFromTarget', heard)
    session.send('Target.sendMessageToTarget', { sessionId, message: JSON.stringify({ id, method, params: {} }) }).catch(reject) // prettier-ignore
  })
}
