import type { EntityManager } from '@mikro-orm/postgresql'
import { BOUNDS } from '@tender-lasso/core/document'

/** A row of the log: a committed batch as JSON text. */
export interface LogRow {
  sequence: number
  label: string
  payload: string
}

/** Letters of payload that are read at once: an edit of all keys of a large shot has 16 million by itself. */
const MOST_LETTERS = 32e6
const MOST_ROWS = 500

interface Wanted {
  shotId: string
  /** Places after this one. */
  after?: number
  /** Up to this one. */
  notAfter?: number
  author?: string
  most?: number
}

/**
 * Rows of a shot's log, oldest first, as many as fit into memory well, one at least: those behind a place, or with `latest`
 * the last ones. Fewer than there are is no end: only an empty list is.
 */
export async function logRows(em: EntityManager, wanted: Wanted, latest = false): Promise<LogRow[]> {
  const { shotId, after = 0, notAfter = BOUNDS.sequence, author, most = MOST_ROWS } = wanted
  const order = latest ? 'desc' : 'asc'
  const rows = await em.execute<LogRow[]>(
    `select sequence, label, payload from (
       select sequence, label, payload, sum(octet_length(payload)) over (order by sequence ${order}) as letters,
         octet_length(payload) as own
       from edit_batch where shot_id = ? and sequence > ? and sequence <= ? ${author === undefined ? '' : 'and author = ?'}
       order by sequence ${order} limit ?) candidates
     where letters - own < ? order by sequence`,
    [shotId, after, notAfter, ...(author === undefined ? [] : [author]), Math.min(most, MOST_ROWS), MOST_LETTERS],
  )
  return rows
}
