import { rmSync } from 'node:fs'
import path from 'node:path'
import { Client } from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { closeOrm, LATEST_MIGRATION, migrate } from '../server/database'
import { MIGRATIONS } from '../server/database/migrations'
import { startCluster, type Cluster } from './postgres'

// Where the user postgres can reach it; others' tests look at their databases meanwhile.
const folder = path.resolve(import.meta.dirname, '..', '.test-data', 'schema')
const shared = process.env.DATABASE_URL
let cluster: Cluster

/** What a query answers in the trial's database. */
async function asked(query: string): Promise<Record<string, unknown>[]> {
  const client = new Client({ connectionString: cluster.url })
  await client.connect()
  try {
    return (await client.query<Record<string, unknown>>(query)).rows
  } finally {
    await client.end()
  }
}

const columns = () =>
  asked(
    `select table_name, column_name, data_type, is_nullable from information_schema.columns
     where table_schema = 'public' order by 1, 2`,
  )

beforeAll(async () => {
  rmSync(folder, { recursive: true, force: true })
  cluster = await startCluster(path.join(folder, 'postgresql'))
  process.env.DATABASE_URL = cluster.url
})
afterAll(async () => {
  await closeOrm()
  process.env.DATABASE_URL = shared
  await cluster.stop()
  rmSync(folder, { recursive: true, force: true })
})

describe('the schema of the database', () => {
  it('the latest migration is the last of all', () => {
    expect(LATEST_MIGRATION).toBe(MIGRATIONS.at(-1)!.name)
    expect(MIGRATIONS.map(({ name }) => name)).toEqual(MIGRATIONS.map((one) => one.class.name))
  })

  it('has all migrations once, whoever brings it up and however often', async () => {
    await Promise.all([migrate(), migrate()])
    await migrate()
    const names = await asked('select name from mikro_orm_migrations order by id')
    expect(names.map(({ name }) => name)).toEqual(MIGRATIONS.map(({ name }) => name))
    const before = await columns()
    await migrate()
    expect(await columns()).toEqual(before)
  })

  it('of before the latest migration is brought up by that one alone', async () => {
    await migrate()
    const whole = await columns()
    await asked('drop table live_token')
    await asked(`delete from mikro_orm_migrations where name = '${LATEST_MIGRATION}'`)
    await migrate()
    expect(await columns()).toEqual(whole)
  })
})
