import type { DuckDBConnection, DuckDBPreparedStatement } from '@duckdb/node-api';
import type { Query } from '#core/sql/compile.ts';
import type { Cell } from '#core/value/field/value.ts';
import {
  diskProblem,
  ProblemError,
  stepProblem,
  stepReason,
  stoppedProblem,
} from '#core/value/problem/problem.ts';
import { putRecent } from '#core/value/recent.ts';
import { boundValues } from './bound.ts';
import { cellsOf } from './cells.ts';
import type { ColumnarDatabase } from './database.ts';

export interface ColumnarRun {
  readonly records: Cell[][];
  /** Milliseconds. */
  readonly took: number;
}

/** What DuckDB said, as a person can use it. */
function columnarProblem(thrown: unknown, doing: string): ProblemError {
  const message = (thrown instanceof Error ? thrown.message : String(thrown)).split('\n')[0] ?? '';
  const reason = stepReason(message);
  if (reason !== null) return stepProblem(reason, doing);
  const full = diskProblem(thrown, doing);
  if (full) return full;
  const isLarge = /out of memory|Overflow|out of range/i.test(message);
  return new ProblemError(
    {
      code: isLarge ? 'too-much' : 'internal',
      doing,
      why: message,
      mend: isLarge
        ? 'Ask for less: a narrower scope or fewer groups.'
        : 'Try again; if it goes on, tell whoever runs this installation.',
    },
    { cause: thrown },
  );
}

const idle = new WeakMap<ColumnarDatabase, Idle[]>();

/** A connection between two queries, with the statements it has prepared, the latest used last. */
interface Idle {
  readonly connection: DuckDBConnection;
  readonly prepared: Map<string, DuckDBPreparedStatement>;
}
const mostPrepared = 50;

/** One of those that are idle, which it no longer is: one that has prepared the text if there is one. Null where none is idle. */
function nextOf(waiting: Idle[], text: string): Idle | null {
  const known = waiting.findIndex(({ prepared }) => prepared.has(text));
  const [next = null] = waiting.splice(known, 1);
  return next;
}

/** The statement of a query: it need not be parsed and looked up again each time that a page asks the same of other values. */
async function statementOf({ connection, prepared }: Idle, text: string): Promise<DuckDBPreparedStatement> {
  const statement = prepared.get(text) ?? (await connection.prepare(text));
  for (const [, unused] of putRecent(prepared, text, statement, mostPrepared)) unused.destroySync();
  return statement;
}

/** Runs one query. When the signal aborts, the query is interrupted. Throws a {@link ProblemError}. */
export async function runColumnar(
  database: ColumnarDatabase,
  query: Query,
  {
    doing,
    signal,
    timeoutMs = 30_000,
  }: { doing: string; signal?: AbortSignal | undefined; timeoutMs?: number },
): Promise<ColumnarRun> {
  if (signal?.aborted) throw stoppedProblem(doing);
  const started = performance.now();
  const waiting = idle.get(database) ?? [];
  idle.set(database, waiting);
  const asking = nextOf(waiting, query.text) ?? {
    connection: await database.connect(),
    prepared: new Map(),
  };
  const interrupt = (): void => asking.connection.interrupt();
  let late = false;
  const timer = setTimeout(() => {
    late = true;
    interrupt();
  }, timeoutMs);
  signal?.addEventListener('abort', interrupt, { once: true });
  try {
    const statement = await statementOf(asking, query.text);
    statement.bind(boundValues(query.values));
    const reader = await statement.runAndReadAll();
    const records = cellsOf(reader.columnTypes(), reader.getRows());
    waiting.push(asking);
    return { records, took: performance.now() - started };
  } catch (thrown) {
    asking.connection.closeSync();
    if (signal?.aborted) throw stoppedProblem(doing);
    if (late)
      throw new ProblemError({
        code: 'time-out',
        doing,
        why: `it took longer than ${timeoutMs / 1000} s`,
        mend: 'Ask for less: a narrower scope or fewer groups.',
      });
    throw columnarProblem(thrown, doing);
  } finally {
    clearTimeout(timer);
    signal?.removeEventListener('abort', interrupt);
  }
}

/**
 * Runs one query and hands its records over as they come, a few thousand at a time; no more is in memory. Throws a
 * {@link ProblemError}.
 */
export async function streamColumnar(
  database: ColumnarDatabase,
  query: Query,
  { doing, signal }: { doing: string; signal?: AbortSignal | undefined },
  take: (records: Cell[][]) => Promise<void>,
): Promise<void> {
  const connection = await database.connect();
  const interrupt = (): void => connection.interrupt();
  signal?.addEventListener('abort', interrupt, { once: true });
  try {
    const result = await connection.stream(query.text, boundValues(query.values));
    const types = result.columnTypes();
    for (;;) {
      const chunk = await result.fetchChunk();
      if (!chunk || chunk.rowCount === 0) break;
      await take(cellsOf(types, chunk.getRows()));
    }
  } catch (thrown) {
    if (thrown instanceof ProblemError) throw thrown;
    throw signal?.aborted ? stoppedProblem(doing) : columnarProblem(thrown, doing);
  } finally {
    signal?.removeEventListener('abort', interrupt);
    connection.closeSync();
  }
}
