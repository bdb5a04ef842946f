import type { Column, Request } from '#core/dataset/schema.ts';
import { compile } from '#core/sql/compile.ts';
import { postgres } from '#core/sql/dialect/postgres/dialect.ts';
import { checkedText, sql, toQuery } from '#core/sql/fragment.ts';
import { textSql } from '#core/sql/relation.ts';
import { freeName } from '#core/value/field/free-name.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { fieldTypeOf, type PostgresAddress, readOf } from '#engine/postgres/pool.ts';
import { runQuery } from '#engine/postgres/run.ts';
import type { Trial } from '../kind.ts';
import { fieldsOfTable } from '../table-fields.ts';
import { requireSql } from './functions.ts';
import { withClient } from './prove.ts';
import * as statements from './statements.ts';

type Inputs = Parameters<typeof textSql>[1];

export interface TryOptions {
  readonly source: string;
  readonly address: PostgresAddress;
  readonly inputs: Inputs;
  readonly signal?: AbortSignal | undefined;
  readonly limit?: number;
}

/**
 * Runs a request for its first records, before anything depends on it. SQL text is checked, run, and its columns are
 * described: their types from the server, their origin in a table where they come straight from one.
 */
export async function tryRequest(request: Request, options: TryOptions): Promise<Trial> {
  switch (request.kind) {
    case 'sql':
      return trySql(request.text, options);
    case 'table':
      return tryTable(request, options);
    default:
      throw new ProblemError({
        code: 'bad-request',
        doing: 'trying the request',
        why: `a database cannot be asked for what is described as ${request.kind}`,
        mend: 'Choose a table, or write SQL.',
      });
  }
}

async function trySql(
  raw: string,
  { source, address, inputs, signal, limit = 50 }: TryOptions,
): Promise<Trial> {
  const text = await requireSql(raw, address);
  const query = toQuery(
    sql`SELECT * FROM (
${textSql(text, inputs)}
) AS q LIMIT ${checkedText([String(Math.trunc(limit) + 1)], [])}`,
    postgres.placeholder,
  );
  const ran = await runQuery(query, { source, address, doing: 'trying the SQL', signal });
  const origin = await originsOf(address, ran.columns);
  const used = new Set<string>();
  const columns = ran.columns.map(({ name, typeId }): Column => {
    const unique = freeName(name, (each) => used.has(each.toLowerCase()));
    used.add(unique.toLowerCase());
    const read = readOf(typeId);
    return { column: name, name: unique, type: fieldTypeOf(typeId), ...(read ? { read } : {}) };
  });
  return {
    request: { kind: 'sql', text, columns },
    fields: columns.map(({ name, type }, index) => {
      const from = origin.get(index);
      return { name, type, ...(from ? { origin: from } : {}) };
    }),
    records: ran.records.slice(0, limit),
    took: ran.took,
    more: ran.records.length > limit,
  };
}

async function originsOf(
  address: PostgresAddress,
  columns: readonly { tableId: number; columnId: number }[],
): Promise<Map<number, string>> {
  const direct = columns.filter(({ tableId }) => tableId > 0);
  if (direct.length === 0) return new Map();
  const { rows } = await withClient(address, 'looking up where the columns come from', (client) =>
    client.query<{ oid: string; number: number; schema: string; table: string; column: string }>(
      statements.origins,
      [direct.map(({ tableId }) => tableId), direct.map(({ columnId }) => columnId)],
    ),
  );
  const found = new Map(
    rows.map((row) => [`${row.oid} ${row.number}`, `${row.schema}.${row.table}.${row.column}`]),
  );
  return new Map(
    columns.flatMap(({ tableId, columnId }, index): [number, string][] => {
      const origin = found.get(`${tableId} ${columnId}`);
      return origin === undefined ? [] : [[index, origin]];
    }),
  );
}

async function tryTable(request: Extract<Request, { kind: 'table' }>, options: TryOptions): Promise<Trial> {
  const { source, address, inputs, signal, limit = 50 } = options;
  const fields = fieldsOfTable(request);
  const ran = await runQuery(
    compile(
      {
        kind: 'records',
        from: { source, request, inputs, fields },
        where: { all: [] },
        zone: 'UTC',
        fields: fields.map(({ name }) => name),
        order: [],
        offset: 0,
        limit: limit + 1,
      },
      postgres,
    ),
    { source, address, doing: `trying ${request.schema}.${request.table}`, signal },
  );
  return {
    request,
    fields,
    records: ran.records.slice(0, limit),
    took: ran.took,
    more: ran.records.length > limit,
  };
}
