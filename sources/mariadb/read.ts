import type { Duplex } from 'node:stream';
import type { Connection, RowDataPacket } from 'mysql2/promise';
import type { Filter } from '#core/ask/condition/resolve.ts';
import type { Column, Request } from '#core/dataset/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import type { MariaQuery } from '#core/sql/dialect/mariadb/dialect.ts';
import { tableQuery, textQuery } from '#core/sql/dialect/mariadb/request.ts';
import type { Field } from '#core/value/field/field.ts';
import { freeName } from '#core/value/field/free-name.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { tooManyBytes } from '#engine/postgres/bytes.ts';
import type { Trial } from '../kind.ts';
import { type FetchInto, sinceTest, TooManyRecords } from '../kind.ts';
import { typedSample } from '../typed-sample.ts';
import { requireSelect } from './check-sql.ts';
import { fieldTypeOf, type MariaAddress, withSession } from './connect.ts';

type Asked = Extract<Request, { kind: 'table' | 'sql' }>;

/** Records, and characters of them, that are handed on at once; and bytes of which one record is at most. */
const mostAtOnce = 4000;
const pieceBytes = 8_000_000;
const mostPieceBytes = 64_000_000;

/** Rows a few thousand at a time, as texts by column; what is read waits until it is taken. */
async function* rowsOf(
  session: Connection,
  { text, values }: MariaQuery,
  doing: string,
): AsyncGenerator<(string | null)[][]> {
  const stream = (
    session as unknown as {
      connection: {
        query: (...args: unknown[]) => { stream: (o: object) => AsyncIterable<(string | null)[]> };
      };
    }
  ).connection
    .query({ sql: text, values, rowsAsArray: true })
    .stream({ highWaterMark: 2000 });
  const { connection } = session as unknown as { connection: { stream: Duplex } };
  let [batch, size]: [(string | null)[][], number] = [[], 0];
  let seen = 0;
  // One value that is larger than this is never put together: the connection ends first.
  const count = (piece: Buffer): void => {
    seen += piece.length;
    if (seen > mostPieceBytes) connection.stream.destroy(tooManyBytes(doing, mostPieceBytes));
  };
  connection.stream.on('data', count);
  try {
    for await (const row of stream) {
      seen = 0;
      batch.push(row);
      for (const text of row) size += text?.length ?? 0;
      if (batch.length < mostAtOnce && size < pieceBytes) continue;
      yield batch;
      [batch, size] = [[], 0];
    }
    if (batch.length > 0) yield batch;
  } finally {
    connection.stream.off('data', count);
  }
}

/** Ones and zeros of fields that are true or false, as such. */
export const booleans =
  (fields: readonly { type: FieldType }[]) =>
  (row: (string | null)[]): (string | null)[] =>
    row.map((text, at) =>
      fields[at]?.type === 'boolean' && text !== null ? (text === '0' ? 'false' : 'true') : text,
    );

/** The first records of a request. The columns of SQL text are described by the server. Throws a {@link ProblemError}. */
export async function tryMaria(
  address: MariaAddress,
  request: Asked,
  fields: readonly Field[],
  inputs: Relation['inputs'],
  limit = 50,
): Promise<Trial> {
  const started = performance.now();
  const doing = request.kind === 'table' ? `trying ${request.table}` : 'trying the SQL';
  const message =
    request.kind === 'table' ? { request, fields } : await described(address, request, inputs, doing);
  const rows: (string | null)[][] = [];
  const query =
    request.kind === 'table'
      ? tableQuery(request, fields, undefined, limit + 1)
      : textQuery(await requireSelect(request.text), inputs, undefined, limit + 1);
  await withSession(address, doing, { standardQuotes: request.kind === 'table' }, async (session) => {
    for await (const batch of rowsOf(session, query, doing)) rows.push(...batch);
  });
  const looked = await typedSample(
    message.fields.map(({ name }) => name),
    (writer) => writer.add(rows.slice(0, limit).map(booleans(message.fields))),
    limit,
    message.fields,
  );
  return {
    ...message,
    records: looked.records,
    took: performance.now() - started,
    more: rows.length > limit,
  };
}

/** What the columns of SQL text are, as a view of it would have them. */
async function described(
  address: MariaAddress,
  request: Extract<Asked, { kind: 'sql' }>,
  inputs: Relation['inputs'],
  doing: string,
): Promise<{ request: Asked; fields: Field[] }> {
  const { text, values } = textQuery(await requireSelect(request.text), inputs, undefined, 0);
  return withSession(address, doing, {}, async (session) => {
    const [, columns] = await session.query<RowDataPacket[]>(text, values as string[]);
    const used = new Set<string>();
    const typedColumns = columns.map((column): Column => {
      const name = freeName(column.name, (each) => used.has(each.toLowerCase()));
      used.add(name.toLowerCase());
      return { column: column.name, name, type: protocolType(column as unknown as ProtocolColumn) };
    });
    return {
      request: { ...request, columns: typedColumns },
      fields: typedColumns.map(({ name, type }): Field => ({ name, type })),
    };
  });
}

interface ProtocolColumn {
  readonly columnType: number;
  readonly columnLength: number;
  readonly flags: number;
}

/** The type codes of the client/server protocol. */
const protocolNames: Record<number, string> = {
  0: 'decimal',
  246: 'decimal',
  1: 'tinyint',
  2: 'smallint',
  3: 'int',
  8: 'bigint',
  9: 'mediumint',
  13: 'year',
  4: 'float',
  5: 'double',
  7: 'timestamp',
  12: 'datetime',
  10: 'date',
  14: 'date',
  245: 'json',
};
const unsigned = 32;

function protocolType({ columnType, columnLength, flags }: ProtocolColumn): FieldType {
  const name = protocolNames[columnType] ?? 'text';
  if (name === 'tinyint' && columnLength === 1) return 'boolean';
  return fieldTypeOf(`${name}${flags & unsigned ? ' unsigned' : ''}`);
}

/** Fetches every record of a request, from one moment of the database. */
export const fetchMaria =
  (address: MariaAddress): FetchInto =>
  async (writer, { request, fields, inputs, since, where, doing, signal, most, progress }) => {
    const asked = request as Asked;
    const limit = most === undefined ? undefined : most + 1;
    const sinceFilter: Filter[] = since ? [{ field: since.field, test: sinceTest(since) }] : [];
    const type = fields.find(({ name }) => name === since?.field)?.type ?? 'text';
    const query =
      asked.kind === 'table'
        ? tableQuery(asked, fields, { all: [...sinceFilter, ...(where ? [where] : [])] }, limit)
        : textQuery(await requireSelect(asked.text), inputs, since && { ...since, type }, limit);
    // SQL text yields its own columns in its own order.
    const order =
      asked.kind === 'table'
        ? null
        : fields.map(({ name }) => asked.columns.findIndex((column) => column.name === name));
    let records = 0;
    await withSession(
      address,
      doing,
      { standardQuotes: asked.kind === 'table', seconds: 0 },
      async (session) => {
        signal?.addEventListener('abort', () => session.destroy(), { once: true });
        for await (const batch of rowsOf(session, query, doing)) {
          records += batch.length;
          if (most !== undefined && records > most) throw new TooManyRecords(doing, most);
          const ordered = order ? batch.map((row) => order.map((at) => row[at] ?? null)) : batch;
          await writer.add(ordered.map(booleans(fields)));
          await progress(batch.length);
        }
      },
    );
    return { records };
  };
