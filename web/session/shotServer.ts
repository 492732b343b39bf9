import { batchFromJson, decodeObjects, toJson, type CommittedBatch } from '@tender-lasso/core/document'
import { api, ApiProblem } from './api'
import type { BatchAnswer, ShotServer } from './shotSession'

/** An answer that takes longer is none: the edit is sent again, and applies once. */
const PATIENCE_MS = 30_000
const AGAIN_MS = 1500

interface Row {
  sequence: number
  batch: unknown
}

const committed = (rows: readonly Row[]): CommittedBatch[] =>
  rows.map(({ sequence, batch }) => ({ sequence, batch: batchFromJson(batch) }))

/** The server's side of a shot, over HTTP. */
export function shotServerOf(shotId: string): ShotServer {
  const address = `/api/shots/${shotId}`
  return {
    async document(sequence) {
      const query = sequence === undefined ? '' : `?sequence=${sequence}`
      const response = await fetch(`${address}/document${query}`).catch(() => {
        throw new ApiProblem(0, 'offline', 'The server cannot be reached')
      })
      if (!response.ok) {
        const problem = (await response.json().catch(() => null)) as { title?: string; detail?: string } | null
        throw new ApiProblem(response.status, problem?.title ?? 'unexpected', problem?.detail ?? 'The shot cannot be opened') // prettier-ignore
      }
      const objects = decodeObjects(new Uint8Array(await response.arrayBuffer()))
      const damage = response.headers.get('X-Damage')
      return {
        document: { objects: new Map(objects.map((object) => [object.id, object])) },
        sequence: Number(response.headers.get('X-Sequence')),
        damage: damage && decodeURIComponent(damage),
      }
    },

    async batchesOf(author) {
      return committed(await api<Row[]>(`${address}/edits?author=${encodeURIComponent(author)}&limit=200`))
    },

    async batchesSince(sequence) {
      return committed(await api<Row[]>(`${address}/edits?since=${sequence}`, { patience: PATIENCE_MS }))
    },

    async submit(batches) {
      try {
        return await api<BatchAnswer[]>(`${address}/edits`, { body: toJson({ batches }), patience: PATIENCE_MS })
      } catch (error) {
        // All of them are refused: each is told why all the same.
        if (error instanceof ApiProblem && Array.isArray(error.members.results)) return error.members.results as BatchAnswer[] // prettier-ignore
        throw error
      }
    },

    follow(sequence, onCommitted, onLost) {
      let events: EventSource | null = null
      let isOver = false
      let timer: ReturnType<typeof setTimeout> | undefined
      const open = () => {
        events = new EventSource(`${address}/events?since=${sequence()}`)
        events.onmessage = ({ data }: MessageEvent<string>) => {
          try {
            onCommitted(committed([JSON.parse(data) as Row]))
          } catch {
            onLost()
          }
        }
        events.onerror = () => {
          if (isOver || events?.readyState !== EventSource.CLOSED) return
          // Refused, and not only broken off: what this page has may not be in the log any more.
          clearTimeout(timer)
          timer = setTimeout(() => {
            onLost()
            open()
          }, AGAIN_MS)
        }
      }
      open()
      return () => {
        isOver = true
        clearTimeout(timer)
        events?.close()
      }
    },
  }
}
