import type { DocumentObject, RotoDocument } from '@tender-lasso/core/document'
import { watchedWorker, type WatchedWorker } from '../workers/watchedWorker'
import type { MatteWorker } from '../workers/matte.worker'

/** A worker that makes mattes, and the document as it has it. */
export interface MatteHelper {
  worker: WatchedWorker<MatteWorker>
  synced: ReadonlyMap<string, DocumentObject>
}

export function startMatteHelper(): MatteHelper {
  const worker = new Worker(new URL('../workers/matte.worker.ts', import.meta.url), { type: 'module' })
  return { worker: watchedWorker<MatteWorker>(worker, 'The helper that draws mattes'), synced: new Map() }
}

/** Sends what changed since the last time: objects are compared by identity. */
export function sync(helper: MatteHelper, document: RotoDocument) {
  const changed: DocumentObject[] = []
  for (const [id, object] of document.objects) if (helper.synced.get(id) !== object) changed.push(object)
  const removed = [...helper.synced.keys()].filter((id) => !document.objects.has(id))
  if (changed.length || removed.length) helper.worker.remote.sync(changed, removed).catch(() => undefined)
  helper.synced = document.objects
}
