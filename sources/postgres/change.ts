import pg from 'pg';
import type { Change, ChangedRecord, Conflict, Values } from '#core/change/change.ts';
import { isSameValue } from '#core/change/same.ts';
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
import { ProblemError } from '#core/value/problem/problem.ts';
import { clientConfig, type PostgresAddress } from '#engine/postgres/pool.ts';
import { sourceProblem } from '#engine/postgres/problem.ts';
import type { ChangeResult, ChangeSource, Changing } from '../change.ts';
import { withClient } from './prove.ts';
import * as statements from './statements.ts';

/* Changes of the records of a PostgreSQL table: one transaction, each record held and compared with what was seen. */

/** How long a change may wait for a record that somebody else holds, and take altogether. Milliseconds. */
const lockMs = 5_000;
const takeMs = 60_000;
/** How often and how long the source is asked what became of changes whose end was lost. Milliseconds. */
const askAgainMs = 500;
const askTimes = 8;

/** Who changes records signs in for the change alone. */
export function postgresChanges(address: PostgresAddress): ChangeSource {
  return {
    change: (changing) => change(address, changing),
    wasMade: (mark) => wasMade(address, mark),
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
            { name: 'May change', value: `${writable.toLocaleString('en-GB')} tables` },
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
    const made = await make(client, changing);
    if ('conflicts' in made) {
      await client.query('ROLLBACK');
      return { state: 'conflict', conflicts: made.conflicts };
    }
    const { rows } = await client.query<{ mark: string }>('SELECT pg_current_xact_id()::text AS mark');
    await beforeEnd(rows[0]?.mark ?? '', made.records);
    mark = rows[0]?.mark ?? '';
    await client.query('COMMIT');
    return { state: 'done', records: made.records };
  } catch (thrown) {
    // What the database itself refuses at the end, as a constraint that it checks only then, was not made.
    if (mark === null || (thrown instanceof pg.DatabaseError && !/^(08|57P)/.test(thrown.code ?? '')))
      throw sourceProblem(thrown, doing);
    const outcome = await askUntilKnown(address, mark);
    if (outcome === false) throw sourceProblem(thrown, doing);
    return outcome ? { state: 'done', records: [] } : { state: 'unknown' };
  } finally {
    void client.end().catch(() => undefined);
  }
}

async function askUntilKnown(address: PostgresAddress, mark: string): Promise<boolean | null> {
  for (let times = 0; times < askTimes; times += 1) {
    const outcome = await wasMade(address, mark).catch(() => null);
    if (outcome !== null) return outcome;
    await new Promise((resolve) => setTimeout(resolve, askAgainMs));
  }
  return null;
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

type Made = { readonly records: ChangedRecord[] } | { readonly conflicts: Conflict[] };

async function make(client: pg.Client, changing: Changing): Promise<Made> {
  const { changes } = changing;
  const known = changes.filter((each) => each.way !== 'insert');
  const held = await heldBy(client, changing, known);
  const typeOf = new Map(changing.columns.map(({ name, type }) => [name, type]));
  const conflicts = known.flatMap(({ key, expected }): Conflict[] => {
    const is = held.get(key) ?? null;
    const isSame =
      is !== null &&
      Object.entries(expected).every(([name, saw]) =>
        isSameValue(typeOf.get(name) ?? 'text', is[name] ?? null, saw),
      );
    return isSame ? [] : [{ key, is }];
  });
  if (conflicts.length > 0) return { conflicts };
  const records = new Map<Change, ChangedRecord>();
  for (const [values, together] of alike(changes.filter((each) => each.way === 'update'))) {
    const columns = changing.columns.filter(({ name }) => name in values);
    const set = new Map(columns.map((column) => [column, values[column.name] ?? null]));
    const keys = together.map(({ key }) => key);
    const after = await asked(client, columns, updateRecords(changing, keys, set, postgres), keys.length);
    for (const each of together)
      records.set(each, {
        key: each.key,
        before: onlyOf(held.get(each.key), columns),
        after: after.get(each.key) ?? null,
      });
  }
  const removed = changes.filter((each) => each.way === 'remove');
  if (removed.length > 0) {
    const keys = removed.map(({ key }) => key);
    await asked(client, [], removeRecords(changing, keys, postgres), keys.length);
    for (const each of removed)
      records.set(each, { key: each.key, before: held.get(each.key) ?? null, after: null });
  }
  for (const each of changes) {
    if (each.way !== 'insert') continue;
    const columns = changing.columns.filter(({ name }) => name in each.values);
    const set = new Map(columns.map((column) => [column, each.values[column.name] ?? null]));
    const [added] = await asked(client, columns, insertRecord(changing, set, postgres), 1);
    if (added) records.set(each, { key: added[0], before: null, after: added[1] });
  }
  return { records: changes.flatMap((each) => records.get(each) ?? []) };
}

async function heldBy(
  client: pg.Client,
  changing: Changing,
  known: readonly { readonly key: string }[],
): Promise<Map<string, Values>> {
  if (known.length === 0) return new Map();
  const keys = [...new Set(known.map(({ key }) => key))];
  return read(client, changing.columns, heldRecords(changing, keys, changing.columns, postgres));
}

/** The records that a statement gives, by key; the first column is that. */
async function read(
  client: pg.Client,
  columns: readonly Column[],
  { text, values }: ChangeQuery,
): Promise<Map<string, Values>> {
  const { rows } = await client.query<Cell[]>({ text, values: values as unknown[], rowMode: 'array' });
  return new Map(
    rows.map(([key = null, ...cells]) => [
      String(key),
      Object.fromEntries(columns.map(({ name }, at) => [name, cellText(cells[at] ?? null)])),
    ]),
  );
}

/** The records that a statement has changed. Fewer than were meant means that the source let some stay: then all stay. */
async function asked(
  client: pg.Client,
  columns: readonly Column[],
  query: ChangeQuery,
  meant: number,
): Promise<Map<string, Values>> {
  const found = await read(client, columns, query);
  if (found.size === meant) return found;
  throw new ProblemError({
    code: 'forbidden',
    doing: 'changing records',
    why: `the source let ${found.size} of ${meant} be changed: a rule or a trigger of its own keeps the others as they are`,
    mend: 'Nothing was changed. Ask whoever looks after the source.',
  });
}

/** Updates that set the same values, together. */
function alike(
  updates: readonly Extract<Change, { way: 'update' }>[],
): [Values, Extract<Change, { way: 'update' }>[]][] {
  const groups = new Map<string, [Values, Extract<Change, { way: 'update' }>[]]>();
  for (const each of updates) {
    const key = JSON.stringify(Object.entries(each.values).sort());
    const group = groups.get(key) ?? [each.values, []];
    group[1].push(each);
    groups.set(key, group);
  }
  return [...groups.values()];
}

const onlyOf = (values: Values | undefined, columns: readonly Column[]): Values =>
  Object.fromEntries(columns.map(({ name }) => [name, values?.[name] ?? null]));
