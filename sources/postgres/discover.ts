import type { ForeignKey, FoundTable } from '#core/dataset/found.ts';
import { fieldTypeOf, type PostgresAddress, readOf } from '#engine/postgres/pool.ts';
import { withClient } from './prove.ts';
import * as statements from './statements.ts';

/** More values than this are no choice. */
const mostAmong = 200;

interface TableRow {
  schema: string;
  name: string;
  kind: 'table' | 'view';
  about: string | null;
  comment: string | null;
  oid: string;
}
interface ColumnRow {
  oid: string;
  name: string;
  type_id: string;
  type: string;
  may_be_blank: boolean;
  comment: string | null;
  made: boolean;
  usual: boolean;
  longest: number | null;
  among: string[] | null;
}
interface KeyRow {
  oid: string;
  kind: string;
  other: string;
  columns: string[];
  other_columns: string[];
}

function grouped<T extends { oid: string }>(rows: readonly T[]): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const row of rows) groups.set(row.oid, [...(groups.get(row.oid) ?? []), row]);
  return groups;
}

/** Everything the role may read: tables and views with columns, keys and foreign keys. Three statements in all. */
export async function discover(address: PostgresAddress): Promise<FoundTable[]> {
  return withClient(address, `looking around ${address.database}`, async (client) => {
    const tables = (await client.query<TableRow>(statements.tables)).rows;
    const columns = grouped((await client.query<ColumnRow>(statements.columns)).rows);
    const keys = grouped((await client.query<KeyRow>(statements.keys)).rows);
    const byOid = new Map(tables.map((table) => [table.oid, table]));
    return tables.map(({ oid, schema, name, kind, about, comment }) => ({
      schema,
      name,
      kind,
      about: about === null ? null : Number(about),
      comment,
      columns: (columns.get(oid) ?? []).map((column) => ({
        name: column.name,
        sourceType: column.type,
        type: fieldTypeOf(Number(column.type_id)),
        read: readOf(Number(column.type_id)),
        mayBeBlank: column.may_be_blank,
        comment: column.comment,
        ...(column.made ? { made: true } : {}),
        ...(column.usual ? { usual: true } : {}),
        ...(column.longest === null ? {} : { longest: column.longest }),
        ...(column.among && column.among.length <= mostAmong ? { among: column.among } : {}),
      })),
      key: keys.get(oid)?.find((key) => key.kind === 'p')?.columns ?? [],
      foreignKeys: (keys.get(oid) ?? []).flatMap((key): ForeignKey[] => {
        const other = byOid.get(key.other);
        return key.kind === 'f' && other
          ? [{ columns: key.columns, schema: other.schema, table: other.name, keys: key.other_columns }]
          : [];
      }),
    }));
  });
}
