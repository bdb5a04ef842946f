import pg from 'pg';
import { inject } from 'vitest';
import type { PostgresAddress } from '#engine/postgres/pool.ts';

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string;
  }
}

let made = 0;

/** A database of its own for one suite, in the throw-away cluster of the test run. */
export async function testDatabase(): Promise<{ url: string; address: PostgresAddress; client: pg.Client }> {
  const base = new URL(inject('databaseUrl'));
  const admin = new pg.Client({ connectionString: base.href });
  await admin.connect();
  made += 1;
  const name = `test_${process.pid}_${Date.now().toString(36)}_${made}`;
  await admin.query(`CREATE DATABASE ${name}`);
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
  };
  return { url: base.href, address, client };
}
