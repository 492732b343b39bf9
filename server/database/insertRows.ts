import type { EntityManager, Knex } from '@mikro-orm/postgresql'

/**
 * Inserts rows by the names of their columns, within the transaction of `tx`, their values as parameters of the statement.
 * The mapper writes values into the text of the statement, letter by letter: an edit of 16 MB takes seconds that way.
 *
 * @param whenThere  `ignore`: a row of that key stays as it is
 */
export async function insertRows(
  tx: EntityManager,
  table: string,
  rows: readonly Record<string, unknown>[],
  whenThere: 'fail' | 'ignore' = 'fail',
): Promise<void> {
  const transaction = tx.getTransactionContext<Knex.Transaction>()
  if (!transaction) throw new Error('Rows are inserted within a transaction')
  const insert = transaction(table).insert(rows)
  await (whenThere === 'ignore' ? insert.onConflict().ignore() : insert)
}
