import PgBoss from 'pg-boss'
import { readSettings } from '../settings'

export const JOB_QUEUES = ['ingest', 'export'] as const
export type JobKind = (typeof JOB_QUEUES)[number]

const holder = globalThis as unknown as { tenderLassoBoss?: Promise<PgBoss> }

/** The queue, started once a process. A job of ours carries only the id of its row; the row holds the rest. */
export function queue(): Promise<PgBoss> {
  holder.tenderLassoBoss ??= (async () => {
    const boss = new PgBoss({ connectionString: readSettings().databaseUrl, schema: 'job_queue', max: 4 })
    boss.on('error', (error) => console.error('job queue:', error.message))
    await boss.start()
    for (const name of JOB_QUEUES) await boss.createQueue(name)
    return boss
  })()
  holder.tenderLassoBoss.catch(() => (holder.tenderLassoBoss = undefined))
  return holder.tenderLassoBoss
}

export async function closeQueue(): Promise<void> {
  const open = holder.tenderLassoBoss
  holder.tenderLassoBoss = undefined
  await (await open)?.stop({ graceful: false })
}
