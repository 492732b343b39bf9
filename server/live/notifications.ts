import { EventEmitter } from 'node:events'
import { Client } from 'pg'
import { readSettings } from '../settings'

/** NOTIFY channel on which each commit names its shot. */
export const EDIT_CHANNEL = 'tender_lasso_edit'

interface Listener {
  emitter: EventEmitter
  connecting: Promise<void> | null
}

// Next.js loads route modules more than once; the one instance lives on the global object.
const holder = globalThis as unknown as { tenderLassoListener?: Listener }

const AGAIN_MS = 1000

/** One listening connection for the whole process; when it breaks it is opened again, and everybody is told to look. */
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

/** Listens; ends when LISTEN stands, so that nothing committed after that is missed. Tries until it does. */
async function connect(own: Listener): Promise<void> {
  for (;;) {
    const client = new Client({ connectionString: readSettings().databaseUrl, keepAlive: true })
    let isOver = false
    const again = () => {
      if (isOver) return
      isOver = true
      own.connecting = null
      void client.end().catch(() => undefined)
      own.connecting = connect(own).then(() => void own.emitter.emit('any'))
    }
    try {
      await client.connect()
      client.on('error', again)
      client.on('end', again)
      client.on('notification', (message) => own.emitter.emit(`shot:${message.payload}`))
      await client.query(`listen ${EDIT_CHANNEL}`)
      return
    } catch {
      isOver = true
      void client.end().catch(() => undefined)
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS).unref())
    }
  }
}

/** Ends when commits of shots are told from now on. */
export const listening = () => listener().connecting!

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
