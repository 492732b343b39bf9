import { randomBytes } from 'node:crypto'
import { newId } from '@tender-lasso/core/document'
import type { LiveToken } from '@tender-lasso/core/handoff'
import { LiveTokenEntity, orm } from '../database'
import { requireShot } from '../editLog'
import { notFound, Problem } from '../errors'
import { sha256 } from '../store'

const DAY_MS = 86_400_000
/** When a token was used last is written down no more often than this. */
const USED_MS = 60_000

const hashOf = (token: string) => sha256(Buffer.from(token))

/**
 * Makes a token that reads the live hand-off of a shot.
 *
 * @returns what is known of it, and the token itself, which is told only here
 */
export async function createLiveToken(
  shotId: string,
  name: string,
  days: number,
): Promise<{ info: LiveToken; token: string }> {
  const em = (await orm()).em.fork()
  await requireShot(em, shotId)
  const token = `tl_${randomBytes(24).toString('base64url')}`
  const now = Date.now()
  const row = em.create(LiveTokenEntity, {
    id: newId(),
    shotId,
    name,
    hash: hashOf(token),
    createdAt: new Date(now),
    expiresAt: new Date(now + days * DAY_MS),
    revokedAt: null,
    usedAt: null,
  })
  await em.flush()
  return { info: infoOf(row), token }
}

/** Tokens of a shot that still read, newest first. */
export async function liveTokens(shotId: string): Promise<LiveToken[]> {
  const em = (await orm()).em.fork()
  await requireShot(em, shotId)
  const rows = await em.find(
    LiveTokenEntity,
    { shotId, revokedAt: null, expiresAt: { $gt: new Date() } },
    { orderBy: { createdAt: 'desc' } },
  )
  return rows.map(infoOf)
}

/** From now on the token reads nothing. @throws Problem 404 */
export async function revokeLiveToken(id: string): Promise<void> {
  const em = (await orm()).em.fork()
  const count = await em.nativeUpdate(LiveTokenEntity, { id, revokedAt: null }, { revokedAt: new Date() })
  if (count === 0) throw notFound('The token')
}

/** @throws Problem 401 where no token comes with the request, 403 where it does not read this shot (any more) */
export async function requireLiveToken(shotId: string, token: string | null): Promise<void> {
  if (!token) throw new Problem(401, 'no-token', 'A live address is read with a token: Authorization: Bearer …, or ?token=…') // prettier-ignore
  const em = (await orm()).em.fork()
  // Asked with each request for a frame: by hand it takes a quarter of the time.
  const [row] = await em.execute<StoredToken[]>(
    'select id, name, shot_id, revoked_at, expires_at, used_at from live_token where hash = ?',
    [hashOf(token)],
  )
  const refused = (why: string) => new Problem(403, 'token-refused', why)
  if (row?.shot_id !== shotId) throw refused('This token does not read this shot')
  if (row.revoked_at) throw refused(`The token for ${row.name} was revoked`)
  if (timeOf(row.expires_at) <= Date.now()) throw refused(`The token for ${row.name} has ended`)
  if (row.used_at && Date.now() - timeOf(row.used_at) < USED_MS) return
  await em.nativeUpdate(LiveTokenEntity, { id: row.id }, { usedAt: new Date() })
}

/** A row as the database gives it. */
interface StoredToken {
  id: string
  name: string
  shot_id: string
  revoked_at: string | null
  expires_at: string
  used_at: string | null
}

const timeOf = (stored: string): number => new Date(stored).getTime()

const infoOf = ({ id, name, createdAt, expiresAt, usedAt }: LiveTokenRow): LiveToken => ({
  id,
  name,
  createdAt: createdAt.toISOString(),
  expiresAt: expiresAt.toISOString(),
  usedAt: usedAt?.toISOString() ?? null,
})

interface LiveTokenRow {
  id: string
  name: string
  createdAt: Date
  expiresAt: Date
  usedAt?: Date | null
}
