import { MikroORM } from '@mikro-orm/postgresql'
import { Migrator, TSMigrationGenerator } from '@mikro-orm/migrations'
import { Client } from 'pg'
import { log } from '../log'
import { readSettings } from '../settings'
import { ENTITIES } from './entities'
import { Migration20261124000000 } from './migrations/Migration20261124000000'
import { Migration20261128000000 } from './migrations/Migration20261128000000'
import { Migration20261129000000 } from './migrations/Migration20261129000000'

// Next.js loads route modules more than once; the one instance lives on the global object.
const holder = globalThis as unknown as { tenderLassoOrm?: Promise<MikroORM> }

/** The one ORM of this process. Callers fork its entity manager: `(await orm()).em.fork()`. */
export function orm(): Promise<MikroORM> {
  holder.tenderLassoOrm ??= MikroORM.init({
    clientUrl: readSettings().databaseUrl,
    entities: ENTITIES,
    discovery: { disableDynamicFileAccess: true },
    extensions: [Migrator],
    migrations: {
      migrationsList: [
        { name: 'Migration20261124000000', class: Migration20261124000000 },
        { name: 'Migration20261128000000', class: Migration20261128000000 },
        { name: 'Migration20261129000000', class: Migration20261129000000 },
      ],
      generator: TSMigrationGenerator,
      disableForeignKeys: false,
    },
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

/** Brings the database to the present schema; of several who begin at once one does, and the others wait for it. */
export async function migrate(): Promise<void> {
  const client = new Client({ connectionString: readSettings().databaseUrl })
  await client.connect()
  try {
    await client.query('select pg_advisory_lock(7030)')
    await (await orm()).getMigrator().up()
  } finally {
    // The lock goes with its connection.
    await client.end()
  }
}
