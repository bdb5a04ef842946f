import type { Connection, ResultSetHeader, RowDataPacket } from 'mysql2/promise';
import type { Values } from '#core/change/change.ts';
import { madeFrom } from '#core/change/read-back.ts';
import type { Column } from '#core/dataset/schema.ts';
import { heldRecords, insertRecord, removeRecords, updateRecords } from '#core/sql/dialect/mariadb/change.ts';
import type { MariaQuery } from '#core/sql/dialect/mariadb/dialect.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import {
  type ChangedTable,
  type ChangeResult,
  type ChangeSource,
  type Changing,
  type NotedChanges,
  tableOf,
} from '../change.ts';
import { typesOf } from '../change-compare.ts';
import { makeTogether, type Session, sameForAll, untilKnown } from '../change-together.ts';
import { type MariaAddress, withSession } from './connect.ts';
import { testMaria } from './look.ts';
import { booleans } from './read.ts';

/*
 * Changes of the records of a MariaDB table: one transaction, each record held and compared with what was seen. The server does not remember
 * what became of a transaction, so that is told from the records themselves.
 */

/** Seconds that one statement may take. */
const seconds = 60;
/** Names of records in one statement, whose text has a bound. */
const keysAtOnce = 1_000;

export function mariaChanges(address: MariaAddress): ChangeSource {
  return {
    together: true,
    change: (changing) => change(address, changing),
    outcomes: async (noted) => sameForAll(await wasMade(address, noted), noted.records),
    test: async () => {
      const doing = `signing in as ${address.user} to change records`;
      const { facts } = await testMaria(address, () => new Date());
      if (facts.some(({ name, value }) => name === 'May change' && value === 'nothing'))
        throw new ProblemError({
          code: 'forbidden',
          doing,
          why: 'this user may not change any table',
          mend: 'Let it insert, update or delete where people are to change records.',
        });
      return { facts: facts.filter(({ name }) => name === 'Signed in as' || name === 'May change') };
    },
  };
}

async function change(address: MariaAddress, changing: Changing): Promise<ChangeResult> {
  const { doing, beforeEnd, columns } = changing;
  let noted: NotedChanges | null = null;
  try {
    return await withSession(address, doing, { standardQuotes: true, seconds, changes: true }, async (on) => {
      const result = await makeTogether((table) => sessionOf(on, table), changing);
      if ('conflicts' in result) {
        await on.query('ROLLBACK');
        return { state: 'conflict', conflicts: result.conflicts };
      }
      const { records } = result;
      const mark = 'read back';
      await beforeEnd(mark, records);
      noted = { mark, place: changing.place, columns, records: records.filter(({ isLine }) => !isLine) };
      await on.query('COMMIT');
      return { state: 'done', records };
    });
  } catch (thrown) {
    // Whatever happened before the end was not made.
    if (noted === null) throw thrown;
    const before: NotedChanges = noted;
    const outcome = await untilKnown(() => wasMade(address, before));
    if (outcome === false) throw thrown;
    return outcome ? { state: 'done', records: before.records } : { state: 'unknown' };
  }
}

/** What became of a transaction: whoever still has it open holds its records, so they are waited for. */
const wasMade = (address: MariaAddress, { place, columns, records }: NotedChanges): Promise<boolean | null> =>
  withSession(
    address,
    'asking what became of a change',
    { standardQuotes: true, seconds, changes: true },
    async (on) => {
      const keys = records.map(({ key }) => key);
      const now = await sessionOf(on, tableOf(place)).hold(keys, columns);
      await on.query('ROLLBACK');
      return madeFrom(records, now, typesOf(columns));
    },
  );

function sessionOf(on: Connection, table: ChangedTable): Session {
  const hold = async (keys: readonly string[], columns: readonly Column[]) => {
    const found = new Map<string, Values>();
    for (const some of piecesOf(keys))
      for (const [key, values] of await read(on, table, columns, heldRecords(table, some, columns)))
        found.set(key, values);
    return found;
  };
  return {
    hold,
    update: async (keys, set) => {
      for (const some of piecesOf(keys)) await tell(on, updateRecords(table, some, set));
      return hold(keys, [...set.keys()]);
    },
    insert: async (set) => {
      const { insertId } = await tell(on, insertRecord(table, set));
      const given = set.get([...set.keys()].find(({ column }) => column === table.key.column) ?? table.key);
      return hold([given ?? String(insertId)], [...set.keys()]);
    },
    remove: async (keys) => {
      let removed = 0;
      for (const some of piecesOf(keys)) removed += (await tell(on, removeRecords(table, some))).affectedRows;
      return removed;
    },
  };
}

const tell = async (on: Connection, { text, values }: MariaQuery): Promise<ResultSetHeader> =>
  (await on.query<ResultSetHeader>(text, values as string[]))[0];

/** The records that a statement gives, by key; the first column is that. */
async function read(
  on: Connection,
  { key }: ChangedTable,
  columns: readonly Column[],
  { text, values }: MariaQuery,
): Promise<[string, Values][]> {
  const [rows] = await on.query<RowDataPacket[][]>({
    sql: text,
    values: values as string[],
    rowsAsArray: true,
  });
  const asRead = booleans([key, ...columns]);
  return (rows as unknown as (string | null)[][]).map((row) => {
    const [own = null, ...cells] = asRead(row);
    return [String(own), Object.fromEntries(columns.map(({ name }, at) => [name, cells[at] ?? null]))];
  });
}

const piecesOf = (keys: readonly string[]): string[][] =>
  Array.from({ length: Math.ceil(keys.length / keysAtOnce) }, (_, at) =>
    keys.slice(at * keysAtOnce, (at + 1) * keysAtOnce),
  );
