import { MessageChannel } from 'node:worker_threads'
import { expose, type Endpoint } from 'comlink'
import { describe, expect, it } from 'vitest'
import { watchedWorker } from './watchedWorker'

const api = {
  double: (value: number) => 2 * value,
  fail: () => {
    throw new Error('no such pattern')
  },
  never: () => new Promise<number>(() => undefined),
}

/** A worker by a channel within this process; it can be made to die. */
class FakeWorker extends EventTarget {
  isTerminated = false
  private readonly channel = new MessageChannel()

  constructor() {
    super()
    expose(api, endpointOf(this.channel.port1))
    this.channel.port2.on('message', (data) => this.dispatchEvent(Object.assign(new Event('message'), { data })))
    this.channel.port2.unref()
  }

  postMessage(message: unknown, transfer: never[] = []) {
    this.channel.port2.postMessage(message, transfer)
  }

  terminate() {
    this.isTerminated = true
    this.channel.port1.close()
  }

  die(message: string) {
    this.dispatchEvent(Object.assign(new Event('error', { cancelable: true }), { message }))
  }
}

function endpointOf(port: MessageChannel['port1']): Endpoint {
  port.unref()
  return {
    addEventListener: (_type, listener) => void port.on('message', (data) => (listener as (event: unknown) => void)({ data })),
    removeEventListener: () => undefined,
    postMessage: (message: unknown) => port.postMessage(message),
    start: () => undefined,
  } // prettier-ignore
}

const watched = () => {
  const worker = new FakeWorker()
  return { worker, ...watchedWorker<typeof api>(worker as unknown as Worker, 'The helper') }
}

describe('a worker that is watched over', () => {
  it('answers, and tells errors of what it was asked as they are', async () => {
    const { remote, isDead } = watched()
    expect(await remote.double(4)).toBe(8)
    await expect(remote.fail()).rejects.toThrow('no such pattern')
    expect(isDead()).toBe(false)
  })

  it('that dies fails what waits for it, and whatever is asked after that, in words', async () => {
    const { worker, remote, isDead } = watched()
    const waiting = remote.never()
    worker.die('out of memory')
    await expect(waiting).rejects.toThrow('The helper ended (out of memory); it is started again')
    await expect(remote.double(4)).rejects.toThrow('The helper ended')
    expect([isDead(), worker.isTerminated]).toEqual([true, true])
  })

  it('that cannot be loaded says so', async () => {
    const { worker, remote } = watched()
    const waiting = remote.double(1)
    worker.die('')
    await expect(waiting).rejects.toThrow('it could not be loaded')
  })
})
