import type pg from 'pg';
import { mostNumbers, type Plan } from '#core/plan/plan.ts';
import type { Query } from '#core/sql/compile.ts';
import type { Cell } from '#core/value/field/value.ts';
import { ProblemError, stoppedProblem } from '#core/value/problem/problem.ts';
import { countBytes, mostAnswerBytes } from './bytes.ts';
import { type PostgresAddress, poolOf } from './pool.ts';
import { sourceProblem } from './problem.ts';

/** The records of a query, and when they were true. */
export interface QueryRun {
  readonly records: Cell[][];
  readonly columns: readonly ResultColumn[];
  /** ISO 8601; the moment the transaction began. */
  readonly trueAt: string;
  /** Milliseconds, at this end. */
  readonly took: number;
}

export interface ResultColumn {
  readonly name: string;
  readonly typeId: number;
  readonly tableId: number;
  readonly columnId: number;
}

export interface RunOptions {
  readonly source: string;
  readonly address: PostgresAddress;
  /** What is being done, for the problem when it fails. */
  readonly doing: string;
  readonly signal?: AbortSignal | undefined;
  readonly timeoutMs?: number;
}

export const defaultTimeoutMs = 30_000;
/** No plan brings more records than this into memory. */
export const rowCap = 10_000;
/** What is brought of a plan at most: of totals and subtotals, whose records are single numbers, more than of records. */
export const rowCapOf = (plan: Plan): number =>
  plan.kind === 'groups' && plan.sets ? mostNumbers + 1 : rowCap;

/**
 * Runs one query on a source in a read-only transaction with a statement timeout. When the signal aborts, the statement
 * is cancelled on the server. Throws a {@link ProblemError}.
 */
export async function runQuery(query: Query, options: RunOptions): Promise<QueryRun> {
  const { doing, signal, timeoutMs = defaultTimeoutMs } = options;
  if (signal?.aborted) throw stoppedProblem(doing);
  const started = performance.now();
  const { pool, canceller } = poolOf(options.source, options.address);
  let client: pg.PoolClient;
  try {
    client = await pool.connect();
  } catch (thrown) {
    throw sourceProblem(thrown, doing);
  }
  let cancelling: Promise<unknown> | null = null;
  const cancel = (): void => {
    const { processID } = client as unknown as { processID: number };
    cancelling = canceller.query('SELECT pg_cancel_backend($1)', [processID]).catch(() => undefined);
  };
  const bytes = countBytes(client, mostAnswerBytes, doing);
  try {
    signal?.addEventListener('abort', cancel, { once: true });
    if (signal?.aborted) throw stoppedProblem(doing);
    const trueAt = new Date().toISOString();
    // One round trip for both: neither holds a value that came from outside.
    await client.query(`BEGIN TRANSACTION READ ONLY; SET LOCAL statement_timeout = ${Math.trunc(timeoutMs)}`);
    if (signal?.aborted) throw stoppedProblem(doing);
    const result = await client.query({
      text: query.text,
      values: query.values as unknown[],
      rowMode: 'array',
    });
    return {
      records: result.rows as Cell[][],
      columns: result.fields.map(({ name, dataTypeID, tableID, columnID }) => ({
        name,
        typeId: dataTypeID,
        tableId: tableID,
        columnId: columnID,
      })),
      trueAt,
      took: performance.now() - started,
    };
  } catch (thrown) {
    if (signal?.aborted) throw stoppedProblem(doing);
    throw sourceProblem(thrown, doing);
  } finally {
    signal?.removeEventListener('abort', cancel);
    bytes.stop();
    void giveBack(client, cancelling);
  }
}

/**
 * Ends the transaction and gives the connection back, off the asker's clock. A cancel in flight must have landed first,
 * lest it hit whatever the connection runs next.
 */
async function giveBack(client: pg.PoolClient, cancelling: Promise<unknown> | null): Promise<void> {
  if (cancelling) await cancelling;
  try {
    await client.query('ROLLBACK');
    // Locks, settings and what else a session may hold go, so that nobody finds what another left.
    await client.query('DISCARD ALL');
    client.release();
  } catch (thrown) {
    client.release(thrown as Error);
  }
}
