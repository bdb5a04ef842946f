import pg from 'pg';
import type { Values } from '#core/change/change.ts';
import type { Column } from '#core/dataset/schema.ts';
import {
  type ChangeQuery,
  heldRecords,
  insertRecord,
  removeRecords,
  updateRecords,
} from '#core/sql/change.ts';
import { postgres } from '#core/sql/dialect/postgres/dialect.ts';
import { type Cell, cellText } from '#core/value/field/value.ts';
import { counted } from '#core/value/format/counted.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { clientConfig, type PostgresAddress } from '#engine/postgres/pool.ts';
import { sourceProblem } from '#engine/postgres/problem.ts';
import type { ChangedTable, ChangeResult, ChangeSource, Changing } from '../change.ts';
import { makeTogether, type Session, sameForAll, untilKnown } from '../change-together.ts';
import { withClient } from './prove.ts';
import * as statements from './statements.ts';

/* Changes of the records of a PostgreSQL table: one transaction, each record held and compared with what was seen. */

/** How long a change may wait for a record that somebody else holds, and take altogether. Milliseconds. */
const lockMs = 5_000;
const takeMs = 60_000;

/** Who changes records signs in for the change alone. */
export function postgresChanges(address: PostgresAddress): ChangeSource {
  return {
    together: true,
    change: (changing) => change(address, changing),
    outcomes: async ({ mark, records }) => sameForAll(await wasMade(address, mark), records),
    test: () =>
      withClient(address, `signing in as ${address.user} to change records`, async (client) => {
        const [found] = (await client.query<{ role: string; writable: string }>(statements.about)).rows;
        const writable = Number(found?.writable ?? 0);
        if (writable === 0)
          throw new ProblemError({
            code: 'forbidden',
            doing: `signing in as ${address.user} to change records`,
            why: 'this role may not change any table',
            mend: 'Let it insert, update or delete where people are to change records.',
          });
        return {
          facts: [
            { name: 'Signed in as', value: String(found?.role) },
            { name: 'May change', value: counted(writable, 'table') },
          ],
        };
      }),
  };
}

async function change(address: PostgresAddress, changing: Changing): Promise<ChangeResult> {
  const { doing, beforeEnd } = changing;
  const client = new pg.Client(clientConfig(address));
  client.on('error', () => undefined);
  let mark: string | null = null;
  try {
    await client.connect();
    await client.query(
      `BEGIN; SET LOCAL statement_timeout = ${takeMs}; SET LOCAL lock_timeout = ${lockMs}; SET LOCAL idle_in_transaction_session_timeout = ${takeMs}`,
    );
    const result = await makeTogether((table) => sessionOf(client, table), changing);
    if ('conflicts' in result) {
      await client.query('ROLLBACK');
      return { state: 'conflict', conflicts: result.conflicts };
    }
    const { rows } = await client.query<{ mark: string }>('SELECT pg_current_xact_id()::text AS mark');
    await beforeEnd(rows[0]?.mark ?? '', result.records);
    mark = rows[0]?.mark ?? '';
    await client.query('COMMIT');
    return { state: 'done', records: result.records };
  } catch (thrown) {
    // What the database itself refuses at the end, as a constraint that it checks only then, was not made.
    if (mark === null || (thrown instanceof pg.DatabaseError && !/^(08|57P)/.test(thrown.code ?? '')))
      throw sourceProblem(thrown, doing);
    const known = mark;
    const outcome = await untilKnown(() => wasMade(address, known));
    if (outcome === false) throw sourceProblem(thrown, doing);
    return outcome ? { state: 'done', records: [] } : { state: 'unknown' };
  } finally {
    void client.end().catch(() => undefined);
  }
}

/** Whether a transaction was committed: PostgreSQL remembers for as long as it needs to (9.27). */
const wasMade = (address: PostgresAddress, mark: string): Promise<boolean | null> =>
  withClient(address, 'asking what became of a change', async (client) => {
    const { rows } = await client.query<{ status: string | null }>(
      'SELECT pg_xact_status($1::xid8) AS status',
      [mark],
    );
    const status = rows[0]?.status;
    return status === 'committed' ? true : status === 'aborted' ? false : null;
  });

const sessionOf = (client: pg.Client, table: ChangedTable): Session => ({
  hold: (keys, columns) => read(client, columns, heldRecords(table, keys, columns, postgres)),
  update: (keys, set) => read(client, [...set.keys()], updateRecords(table, keys, set, postgres)),
  insert: (set) => read(client, [...set.keys()], insertRecord(table, set, postgres)),
  remove: async (keys) => (await read(client, [], removeRecords(table, keys, postgres))).size,
});

/** The records that a statement gives, by key; the first column is that. */
async function read(
  client: pg.Client,
  columns: readonly Column[],
  { text, values }: ChangeQuery,
): Promise<Map<string, Values>> {
  const { rows } = await client.query<Cell[]>({ text, values: values as unknown[], rowMode: 'array' });
  const names = columns.map(({ name }) => name);
  const blank = Object.fromEntries(names.map((name) => [name, null as string | null]));
  const found = new Map<string, Values>();
  for (const cells of rows) {
    const values = { ...blank };
    for (const [at, name] of names.entries()) values[name] = cellText(cells[at + 1] ?? null);
    found.set(String(cells[0]), values);
  }
  return found;
}
