import pg from 'pg';
import { inject } from 'vitest';
import type { PostgresAddress } from '#engine/postgres/pool.ts';

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string;
    mariaPort: number;
  }
}

let made = 0;

/**
 * A database of its own for one suite, in the throw-away cluster of the test run. With `collation` it orders text as the root of
 * the Unicode Collation Algorithm has it, as the columnar engine does. `cluster`: another one, by the address of a database in it.
 */
export async function testDatabase({
  collation = false,
  cluster = inject('databaseUrl'),
} = {}): Promise<{ url: string; address: PostgresAddress; client: pg.Client }> {
  const base = new URL(cluster);
  const admin = new pg.Client({ connectionString: base.href });
  await admin.connect();
  made += 1;
  const name = `test_${process.pid}_${Date.now().toString(36)}_${made}`;
  await admin.query(
    `CREATE DATABASE ${name}${collation ? " TEMPLATE template0 LOCALE_PROVIDER icu ICU_LOCALE 'und'" : ''}`,
  );
  await admin.end();
  base.pathname = `/${name}`;
  const client = new pg.Client({ connectionString: base.href });
  await client.connect();
  const address: PostgresAddress = {
    host: base.hostname,
    port: Number(base.port),
    database: name,
    user: base.username,
    password: base.password,
    tls: 'off',
    allowed: ['127.0.0.1'],
  };
  return { url: base.href, address, client };
}
