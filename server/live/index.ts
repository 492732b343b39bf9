import { EventEmitter } from 'node:events'
import { Client } from 'pg'
import { readSettings } from '../settings'

/** NOTIFY channel on which each commit names its shot. */
export const EDIT_CHANNEL = 'tender_lasso_edit'

interface Listener {
  emitter: EventEmitter
  connecting: Promise<void> | null
}

const holder = globalThis as unknown as { tenderLassoListener?: Listener }

function listener(): Listener {
  if (!holder.tenderLassoListener) {
    const emitter = new EventEmitter()
    emitter.setMaxListeners(0)
    holder.tenderLassoListener = { emitter, connecting: null }
  }
  const own = holder.tenderLassoListener
  own.connecting ??= connect(own)
  return own
}

/** One listening connection for the whole process; when it breaks, everybody is told to look and it is opened again. */
async function connect(own: Listener): Promise<void> {
  const client = new Client({ connectionString: readSettings().databaseUrl })
  const again = () => {
    if (own.connecting === null) return
    own.connecting = null
    setTimeout(() => {
      own.connecting ??= connect(own)
      own.emitter.emit('any')
    }, 1000).unref()
  }
  client.on('error', again)
  client.on('end', again)
  client.on('notification', (message) => own.emitter.emit(`shot:${message.payload}`))
  try {
    await client.connect()
    await client.query(`listen ${EDIT_CHANNEL}`)
  } catch {
    again()
  }
}

/** Calls back whenever the shot's log may have grown. Returns the function that ends it. */
export function onShotEdited(shotId: string, callback: () => void): () => void {
  const { emitter } = listener()
  emitter.on(`shot:${shotId}`, callback)
  emitter.on('any', callback)
  return () => {
    emitter.off(`shot:${shotId}`, callback)
    emitter.off('any', callback)
  }
}
