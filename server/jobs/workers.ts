import { orm } from '../database'

/** A worker that was not heard of for so long is gone. */
const SILENCE_SECONDS = 8

/** A worker process tells that it lives; those long gone are forgotten. */
export async function workerSeen(id: string): Promise<void> {
  const em = (await orm()).em.fork()
  await em.execute(
    `insert into worker (id, seen_at) values (?, now()) on conflict (id) do update set seen_at = excluded.seen_at`,
    [id],
  )
  await em.execute(`delete from worker where seen_at < now() - interval '1 hour'`)
}

export async function workerGone(id: string): Promise<void> {
  await (await orm()).em.fork().execute(`delete from worker where id = ?`, [id])
}

/** Worker processes that were heard of lately. */
export async function workersAlive(): Promise<number> {
  const [row] = await (
    await orm()
  ).em
    .fork()
    .execute<{ count: string }[]>(`select count(*) from worker where seen_at > now() - ? * interval '1 second'`, [
      SILENCE_SECONDS,
    ])
  return Number(row?.count ?? 0)
}
