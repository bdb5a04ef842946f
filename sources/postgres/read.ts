import pg from 'pg';
import Cursor from 'pg-cursor';
import type { FilterTest } from '#core/condition/resolve.ts';
import type { Cell } from '#core/field/value.ts';
import type { RecordsPlan, Relation } from '#core/plan/plan.ts';
import { ProblemError } from '#core/problem/problem.ts';
import { compile } from '#core/sql/compile.ts';
import { postgres } from '#core/sql/postgres.ts';
import { clientConfig, type PostgresAddress } from '#engine/postgres/pool.ts';
import { sourceProblem } from '#engine/postgres/problem.ts';

export interface Reading {
  readonly from: Relation;
  readonly fields: readonly string[];
  /** Only records whose field is at or after a value, or only after it. */
  readonly since?:
    | { readonly field: string; readonly value: string; readonly inclusive: boolean }
    | undefined;
  readonly doing: string;
}

const recordsAtOnce = 5000;

/**
 * Reads every record of a request, a few thousand at a time, from one read-only transaction, so that they are of one
 * moment. What is read waits until it is taken: no more than one batch is in memory. Throws a `ProblemError`.
 */
export async function readRecords(
  address: PostgresAddress,
  { from, fields, since, doing }: Reading,
  take: (records: Cell[][]) => Promise<void>,
): Promise<void> {
  const test: FilterTest | null = since
    ? { op: since.inclusive ? 'atLeast' : 'above', value: since.value }
    : null;
  const plan: RecordsPlan = {
    kind: 'records',
    from,
    where: since && test ? { field: since.field, test } : { all: [] },
    zone: 'UTC',
    fields,
    order: [],
    offset: 0,
    limit: Number.MAX_SAFE_INTEGER,
  };
  await readPlan(address, plan, doing, take);
}

/** Reads every record of a plan, as {@link readRecords} does. */
export async function readPlan(
  address: PostgresAddress,
  plan: RecordsPlan,
  doing: string,
  take: (records: Cell[][]) => Promise<void>,
): Promise<void> {
  const { text, values } = compile(plan, postgres);
  const client = new pg.Client(clientConfig(address));
  client.on('error', () => undefined);
  try {
    await client.connect();
    await client.query('BEGIN TRANSACTION READ ONLY ISOLATION LEVEL REPEATABLE READ');
    await client.query('SET LOCAL statement_timeout = 0');
    const cursor = client.query(new Cursor<Cell[]>(text, values as unknown[], { rowMode: 'array' }));
    for (;;) {
      const records = await cursor.read(recordsAtOnce);
      if (records.length === 0) break;
      await take(records);
    }
    await cursor.close();
  } catch (thrown) {
    throw thrown instanceof ProblemError ? thrown : sourceProblem(thrown, doing);
  } finally {
    void client.end().catch(() => undefined);
  }
}
