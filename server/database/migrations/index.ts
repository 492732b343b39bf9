import type { MikroORM } from '@mikro-orm/postgresql'
import { Migrator, TSMigrationGenerator } from '@mikro-orm/migrations'
import { Migration20261124000000 } from './Migration20261124000000'
import { Migration20261128000000 } from './Migration20261128000000'
import { Migration20261129000000 } from './Migration20261129000000'

/** All there are, oldest first. */
export const MIGRATIONS = [
  { name: 'Migration20261124000000', class: Migration20261124000000 },
  { name: 'Migration20261128000000', class: Migration20261128000000 },
  { name: 'Migration20261129000000', class: Migration20261129000000 },
]

/** Brings the database up by those that it does not have yet. */
export async function runMigrations({ config, em }: MikroORM): Promise<void> {
  config.set('migrations', {
    ...config.get('migrations'),
    migrationsList: MIGRATIONS,
    generator: TSMigrationGenerator,
    disableForeignKeys: false,
  })
  await new Migrator(em as ConstructorParameters<typeof Migrator>[0]).up()
}
