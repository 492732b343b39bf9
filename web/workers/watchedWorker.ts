import { releaseProxy, wrap, type Remote } from 'comlink'

/** What a page asks of a worker that it watches over. */
export interface WatchedWorker<Api> {
  remote: Remote<Api>
  isDead(): boolean
  close(): void
}

/**
 * A worker whose death is noticed: what was asked of it fails then, in words, in place of being waited for for ever. It is
 * not used again; the caller starts another.
 *
 * @param what  names it for the artist: "the helper that draws mattes"
 */
export function watchedWorker<Api>(worker: Worker, what: string): WatchedWorker<Api> {
  const remote = wrap<Api>(worker)
  let dead: Error | null = null
  const waiting = new Set<(error: Error) => void>()
  const die = (why: string) => {
    if (dead) return
    dead = new Error(`${what} ended (${why}); it is started again with what is done next`)
    worker.terminate()
    for (const reject of waiting) reject(dead)
    waiting.clear()
  }
  worker.addEventListener('error', (event: ErrorEvent) => {
    event.preventDefault()
    die(event.message || 'it could not be loaded')
  })
  worker.addEventListener('messageerror', () => die('an answer could not be read'))
  const asked = (method: (...args: unknown[]) => unknown, args: unknown[]) => {
    if (dead) return Promise.reject(dead)
    return new Promise((resolve, reject) => {
      waiting.add(reject)
      Promise.resolve(method(...args)).then(
        (value) => {
          waiting.delete(reject)
          resolve(value)
        },
        (error: unknown) => {
          waiting.delete(reject)
          reject(error instanceof Error ? error : new Error(String(error)))
        },
      )
    })
  }
  const watched = new Proxy(remote, {
    get(target, name, receiver) {
      const value = Reflect.get(target, name, receiver) as unknown
      if (typeof value !== 'function' || typeof name === 'symbol') return value
      return (...args: unknown[]) => asked(value as (...args: unknown[]) => unknown, args)
    },
  })
  return {
    remote: watched,
    isDead: () => dead !== null,
    close() {
      if (!dead) remote[releaseProxy]()
      worker.terminate()
    },
  }
}
