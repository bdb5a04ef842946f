import pg from 'pg';
import { type Problem, ProblemError } from '#core/problem/problem.ts';
import { clientConfig, connectTimeoutMs, type PostgresAddress } from '#engine/postgres/pool.ts';
import { sourceProblem } from '#engine/postgres/problem.ts';
import * as statements from './statements.ts';

/** What proving a connection found. */
export interface Proof {
  readonly version: string;
  readonly role: string;
  /** How far the source's clock is ahead of ours; negative is behind. Milliseconds, give or take a round trip. */
  readonly clockSkewMs: number;
  readonly readable: number;
  readonly writable: number;
  readonly superuser: boolean;
  readonly standby: boolean;
  readonly tookMs: number;
  /** ISO 8601. */
  readonly at: string;
}

export type Proved = { ok: true; proof: Proof } | { ok: false; problem: Problem };

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

/** Connects as a source would, and tells what it found; or, in plain words, what failed. Nothing is kept. */
export async function prove(address: PostgresAddress, now: () => Date): Promise<Proved> {
  const started = performance.now();
  const doing = `connecting to ${address.database} at ${address.host}:${address.port}`;
  try {
    const proof = await withClient(address, doing, async (client) => {
      const asked = now().getTime();
      const { rows } = await client.query(statements.about);
      const answered = now().getTime();
      const found = rows[0] as Record<string, unknown>;
      return {
        version: String(found.version),
        role: String(found.role),
        clockSkewMs: Math.round((found.now as Date).getTime() - (asked + answered) / 2),
        readable: Number(found.readable),
        writable: Number(found.writable),
        superuser: found.super === true,
        standby: found.standby === true,
        tookMs: Math.round(performance.now() - started),
        at: now().toISOString(),
      };
    });
    return { ok: true, proof };
  } catch (thrown) {
    return {
      ok: false,
      problem: thrown instanceof ProblemError ? thrown.problem : sourceProblem(thrown, doing).problem,
    };
  }
}

function withTimeout<T>(promise: Promise<T>, ms: number): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(Object.assign(new Error('timed out'), { code: 'ETIMEDOUT' })), ms);
  });
  return Promise.race([promise, late]).finally(() => clearTimeout(timer));
}
