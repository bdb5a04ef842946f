import type { RowDataPacket } from 'mysql2/promise';
import type { FoundColumn, FoundTable } from '#core/dataset/found.ts';
import { counted } from '#core/value/format/counted.ts';
import type { ConnectionReport } from '../kind.ts';
import { fieldTypeOf, type MariaAddress, withSession } from './connect.ts';

/** Connects as the source would. Throws a `ProblemError` in plain words. */
export async function testMaria(address: MariaAddress, now: () => Date): Promise<ConnectionReport> {
  const started = performance.now();
  const doing = `connecting to ${address.database} at ${address.host}:${address.port}`;
  return withSession(address, doing, {}, async (session) => {
    const start = now().getTime();
    const [[about]] = await session.query<RowDataPacket[]>(
      `SELECT version() AS version, current_user() AS user, utc_timestamp(6) AS now,
         (SELECT count(*) FROM information_schema.tables WHERE table_schema = database()) AS readable`,
    );
    const answered = now().getTime();
    const [grants] = await session
      .query<RowDataPacket[]>('SHOW GRANTS')
      .catch(() => [[]] as unknown as [RowDataPacket[]]);
    const grantTexts = (grants as RowDataPacket[]).map((row) => String(Object.values(row)[0] ?? ''));
    const mayChange = grantTexts.some((grant) => changes(grant, address.database));
    const at = Date.parse(String(about?.now ?? ''));
    return {
      facts: [
        { name: 'Server', value: String(about?.version ?? '') },
        { name: 'Signed in as', value: String(about?.user ?? '') },
        {
          name: 'May read',
          value: counted(Number(about?.readable ?? 0), 'table or view', 'tables and views'),
        },
        { name: 'May change', value: mayChange ? 'something' : 'nothing' },
      ],
      warnings: grantTexts.some((grant) => /ALL PRIVILEGES ON \*\.\*/i.test(grant))
        ? ['This user may do anything. Prefer one that may only read.']
        : [],
      clockSkewMs: Number.isNaN(at) ? null : Math.round(at - (start + answered) / 2),
      tookMs: Math.round(performance.now() - started),
      at: now().toISOString(),
    };
  });
}

/** Whether a grant, as the server writes it, lets somebody change what is in a database; names of tables say nothing. */
export function changes(grant: string, database: string): boolean {
  const [, rights = '', schema = ''] = /^GRANT (.+?) ON (?:TABLE )?(\*|`(?:[^`]|``)*`)\./i.exec(grant) ?? [];
  // A schema is a pattern, in which _ and % stand for letters unless a backslash is before them.
  const pattern = schema
    .slice(1, -1)
    .replaceAll('``', '`')
    .replace(/\\([_%])|([_%])|[^\w\s]/g, (found, plain, wild) =>
      plain ? plain : wild === '_' ? '.' : wild === '%' ? '.*' : `\\${found}`,
    );
  const isHere = schema === '*' || new RegExp(`^${pattern}$`, 'is').test(database);
  return isHere && /\b(ALL PRIVILEGES|INSERT|UPDATE|DELETE|DROP|ALTER|CREATE)\b/i.test(rights);
}

/** Tables and views of the database, with columns, keys and foreign keys. Throws a `ProblemError`. */
export function discoverMaria(address: MariaAddress): Promise<FoundTable[]> {
  return withSession(address, 'looking around', {}, async (session) => {
    const ask = async (text: string): Promise<Record<string, string | null>[]> =>
      (await session.query<RowDataPacket[]>(text))[0] as Record<string, string | null>[];
    const tables = await ask(
      `SELECT table_schema AS s, table_name AS t, table_type AS kind, table_rows AS about, table_comment AS remark
       FROM information_schema.tables WHERE table_schema = database() ORDER BY table_name LIMIT 5000`,
    );
    const columns = await ask(
      `SELECT table_name AS t, column_name AS c, column_type AS type, is_nullable AS blank, column_comment AS said, column_key AS k,
         extra, column_default AS usual, character_maximum_length AS longest
       FROM information_schema.columns WHERE table_schema = database() ORDER BY table_name, ordinal_position LIMIT 100000`,
    );
    const foreign = await ask(
      `SELECT table_name AS t, constraint_name AS f, column_name AS c, referenced_table_schema AS os, referenced_table_name AS ot, referenced_column_name AS oc
       FROM information_schema.key_column_usage WHERE table_schema = database() AND referenced_table_name IS NOT NULL
       ORDER BY table_name, constraint_name, ordinal_position LIMIT 50000`,
    );
    const byTable = grouped(columns, ({ t }) => t);
    const foreignByTable = grouped(foreign, ({ t }) => t);
    return tables.map(({ s, t, kind, about, remark }): FoundTable => {
      const own = byTable.get(t) ?? [];
      return {
        schema: s ?? '',
        name: t ?? '',
        kind: /view/i.test(kind ?? '') ? 'view' : 'table',
        about: about === null || about === undefined ? null : Number(about),
        comment: remark && !/^VIEW$/i.test(remark) ? remark : null,
        columns: own.map(({ c, type, blank, said: comment, extra, usual, longest }): FoundColumn => {
          const among = membersOf(type ?? '');
          const isMade = /\b(VIRTUAL|STORED|PERSISTENT) GENERATED\b/i.test(extra ?? '');
          return {
            name: c ?? '',
            sourceType: type ?? '',
            type: fieldTypeOf(type ?? ''),
            mayBeBlank: blank !== 'NO',
            comment: comment || null,
            ...(isMade ? { made: true } : {}),
            ...(/auto_increment/i.test(extra ?? '') || (usual !== null && !isMade) ? { usual: true } : {}),
            ...(longest && Number(longest) <= mostCharacters && !among ? { longest: Number(longest) } : {}),
            ...(among ? { among } : {}),
          };
        }),
        key: own.filter(({ k }) => k === 'PRI').map(({ c }) => c ?? ''),
        foreignKeys: [...grouped(foreignByTable.get(t) ?? [], ({ f }) => f).values()].map((parts) => ({
          columns: parts.map(({ c }) => c ?? ''),
          schema: parts[0]?.os ?? '',
          table: parts[0]?.ot ?? '',
          keys: parts.map(({ oc }) => oc ?? ''),
        })),
      };
    });
  });
}

/** Longer texts are bound by bytes and not by characters. */
const mostCharacters = 16_383;
const mostAmong = 200;

/** What a column may be one of, of a type such as `enum('open','it''s done')`. */
function membersOf(type: string): string[] | null {
  if (!/^enum\(/i.test(type)) return null;
  const members = [...type.matchAll(/'((?:[^']|'')*)'/g)].map(([, text = '']) => text.replaceAll("''", "'"));
  return members.length <= mostAmong ? members : null;
}

function grouped<T>(
  items: readonly T[],
  by: (item: T) => string | null | undefined,
): Map<string | null | undefined, T[]> {
  const groups = new Map<string | null | undefined, T[]>();
  for (const item of items) groups.set(by(item), [...(groups.get(by(item)) ?? []), item]);
  return groups;
}
