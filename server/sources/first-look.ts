import { dataSetFromTable, usualChoice } from '#core/dataset/from-table.ts';
import type { Request } from '#core/dataset/schema.ts';
import { httpRequest, logRequest } from '#core/dataset/start.ts';

import type { Connection } from '#sources/connection.ts';
import type { Kind } from '#sources/registry.ts';
import type { Tried } from '#sources/tried.ts';

const nobody = '00000000-0000-4000-8000-000000000000';

/**
 * The first real records of a source that is being added: of its first table, of the path that was asked for, of its latest
 * log. Null where there is nothing to show yet; a look that fails is no reason not to add the source.
 */
export async function firstLook(kind: Kind, connection: Connection, path: string): Promise<Tried | null> {
  const attempt = (request: Request): Promise<Tried | null> =>
    kind.try({ request, inputs: {}, limit: 12, find: true }).catch(() => null);
  switch (connection.kind) {
    case 'http':
      return path === '' ? null : attempt(httpRequest(path));
    case 'logs':
      return attempt(logRequest('**'));
    case 'intake':
    case 'upload':
      return null;
    default: {
      const tables = (await kind.discover?.().catch(() => [])) ?? [];
      const [table] = tables.filter(({ columns }) => columns.length > 0);
      if (!table) return null;
      const choice = { ...usualChoice(table, tables), lookUps: [] };
      return attempt(dataSetFromTable(nobody, table, tables, choice).request);
    }
  }
}
