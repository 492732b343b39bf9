import { MikroORM } from '@mikro-orm/postgresql'
import { Client } from 'pg'
import { log } from '../log'
import { readSettings } from '../settings'
import { ENTITIES } from './entities'

// Next.js loads route modules more than once; the one instance lives on the global object.
const holder = globalThis as unknown as { tenderLassoOrm?: Promise<MikroORM> }

/** The one ORM of this process. Callers fork its entity manager: `(await orm()).em.fork()`. */
export function orm(): Promise<MikroORM> {
  holder.tenderLassoOrm ??= MikroORM.init({
    clientUrl: readSettings().databaseUrl,
    entities: ENTITIES,
    discovery: { disableDynamicFileAccess: true },
    logger: (message) => log.info(message),
    colors: false,
    pool: { min: 0, max: 10 },
    // A database that restarts must not take the application down with it.
    driverOptions: { connection: { keepAlive: true } },
  })
  holder.tenderLassoOrm.catch(() => (holder.tenderLassoOrm = undefined))
  return holder.tenderLassoOrm
}

export async function closeOrm(): Promise<void> {
  const open = holder.tenderLassoOrm
  holder.tenderLassoOrm = undefined
  await (await open)?.close()
}

/** The last migration there is. A database that has it is up to date, and what runs migrations need not be read: it takes a quarter of a second. */
export const LATEST_MIGRATION = 'Migration20261129000000'

/** Brings the database to the present schema; of several who begin at once one does, and the others wait for it. */
export async function migrate(): Promise<void> {
  const client = new Client({ connectionString: readSettings().databaseUrl })
  await client.connect()
  try {
    await client.query('select pg_advisory_lock(7030)')
    if (await isUpToDate(client)) return
    const { runMigrations } = await import('./migrations')
    await runMigrations(await orm())
  } finally {
    // The lock goes with its connection.
    await client.end()
  }
}

async function isUpToDate(client: Client): Promise<boolean> {
  const { rows } = await client.query<{ name: string | null }>("select to_regclass('mikro_orm_migrations') as name")
  if (rows[0]!.name === null) return false
  const { rowCount } = await client.query('select 1 from mikro_orm_migrations where name = $1', [LATEST_MIGRATION])
  return rowCount === 1
}
