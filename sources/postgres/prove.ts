import pg from 'pg';
import { counted } from '#core/value/format/counted.ts';
import { clientConfig, connectTimeoutMs, type PostgresAddress } from '#engine/postgres/pool.ts';
import { sourceProblem } from '#engine/postgres/problem.ts';
import type { ConnectionReport } from '../kind.ts';
import * as statements from './statements.ts';

/** Runs some statements on a connection of its own that is closed afterwards. Throws a `ProblemError`. */
export async function withClient<T>(
  address: PostgresAddress,
  doing: string,
  use: (client: pg.Client) => Promise<T>,
): Promise<T> {
  const client = new pg.Client({ ...clientConfig(address), types: undefined, query_timeout: 20_000 });
  client.on('error', () => undefined);
  try {
    await withTimeout(client.connect(), connectTimeoutMs + 1_000);
    return await use(client);
  } catch (thrown) {
    throw sourceProblem(thrown, doing);
  } finally {
    void client.end().catch(() => undefined);
  }
}

/** Connects as a source would, and tells what it found. Nothing is kept. Throws a {@link ProblemError} in plain words. */
export async function testPostgres(address: PostgresAddress, now: () => Date): Promise<ConnectionReport> {
  const started = performance.now();
  const doing = `connecting to ${address.database} at ${address.host}:${address.port}`;
  return withClient(address, doing, async (client) => {
    const start = now().getTime();
    const { rows } = await client.query(statements.about);
    const answered = now().getTime();
    const found = rows[0] as Record<string, unknown>;
    const isSuper = found.super === true;
    const writable = Number(found.writable);
    return {
      facts: [
        {
          name: 'Server',
          value: `PostgreSQL ${found.version}${found.standby === true ? ', a standby' : ''}`,
        },
        { name: 'Signed in as', value: `${found.role}${isSuper ? ', a superuser' : ''}` },
        { name: 'May read', value: counted(Number(found.readable), 'table or view', 'tables and views') },
        {
          name: 'May change',
          value: writable === 0 ? 'nothing' : counted(writable, 'table'),
        },
      ],
      warnings: isSuper ? ['A superuser may do anything. Prefer a role that may only read.'] : [],
      clockSkewMs: Math.round((found.now as Date).getTime() - (start + answered) / 2),
      tookMs: Math.round(performance.now() - started),
      at: now().toISOString(),
    };
  });
}

function withTimeout<T>(promise: Promise<T>, ms: number): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(Object.assign(new Error('timed out'), { code: 'ETIMEDOUT' })), ms);
  });
  return Promise.race([promise, late]).finally(() => clearTimeout(timer));
}
