import { dataSetFromTable, usualChoice } from '#core/dataset/from-table.ts';
import type { Request } from '#core/dataset/schema.ts';
import type { Connection } from '#sources/connection.ts';
import type { OpenSource, Trial } from '#sources/kind.ts';
import { kindOf } from '#sources/registry.ts';

const nobody = '00000000-0000-4000-8000-000000000000';

/**
 * The first real records of a source that is being added: of its first table, of the path that was asked for, of its latest
 * log. Null where there is nothing to show yet; a look that fails is no reason not to add the source.
 */
export async function firstLook(
  source: OpenSource,
  connection: Connection,
  path: string,
): Promise<Trial | null> {
  const attempt = (request: Request): Promise<Trial | null> =>
    source.try({ request, inputs: {}, limit: 12, find: true }).catch(() => null);
  if (!source.discover) {
    const request = kindOf(connection).first?.(path) ?? null;
    return request === null ? null : attempt(request);
  }
  const tables = await source.discover().catch(() => []);
  const [table] = tables.filter(({ columns }) => columns.length > 0);
  if (!table) return null;
  const choice = { ...usualChoice(table, tables), lookUps: [] };
  return attempt(dataSetFromTable(nobody, table, tables, choice).request);
}
