import type { DuckDBConnection, DuckDBValue } from '@duckdb/node-api';
import { DuckDBTypeId } from '@duckdb/node-api';
import type { Cell } from '#core/field/value.ts';
import { ProblemError, stoppedProblem } from '#core/problem/problem.ts';
import type { Query } from '#core/sql/compile.ts';
import type { ColumnarDatabase } from './database.ts';

/** Decimals without the zeros that only their column's scale gives them. */
const trimmed = (text: string): string =>
  text.includes('.') ? text.replace(/0+$/, '').replace(/\.$/, '') : text;

/** A UTC timestamp in microseconds as ISO 8601, with as many digits of the second as it needs. */
export function instantText(micros: bigint): string {
  const seconds = micros >= 0n ? micros / 1_000_000n : -((-micros + 999_999n) / 1_000_000n);
  const rest = micros - seconds * 1_000_000n;
  const whole = new Date(Number(seconds) * 1000).toISOString().slice(0, 19);
  const part = rest === 0n ? '' : `.${String(rest).padStart(6, '0').replace(/0+$/, '')}`;
  return `${whole}${part}Z`;
}

function cellOf(value: DuckDBValue, type: DuckDBTypeId): Cell {
  if (value === null) return null;
  switch (type) {
    case DuckDBTypeId.TINYINT:
    case DuckDBTypeId.SMALLINT:
    case DuckDBTypeId.INTEGER:
    case DuckDBTypeId.BIGINT:
    case DuckDBTypeId.UTINYINT:
    case DuckDBTypeId.USMALLINT:
    case DuckDBTypeId.UINTEGER:
    case DuckDBTypeId.UBIGINT:
    case DuckDBTypeId.HUGEINT:
    case DuckDBTypeId.UHUGEINT:
      return String(value);
    case DuckDBTypeId.DECIMAL:
      return trimmed(String(value));
    case DuckDBTypeId.FLOAT:
    case DuckDBTypeId.DOUBLE:
      return typeof value === 'number' && Number.isFinite(value) ? value : String(value);
    case DuckDBTypeId.BOOLEAN:
      return value === true;
    case DuckDBTypeId.TIMESTAMP:
      return typeof value === 'object' && 'micros' in value
        ? instantText(value.micros as bigint)
        : String(value);
    default:
      return String(value);
  }
}

export interface ColumnarRun {
  readonly records: Cell[][];
  /** Milliseconds. */
  readonly took: number;
}

/** What DuckDB said, as a person can use it. */
function columnarProblem(thrown: unknown, doing: string): ProblemError {
  const said = (thrown instanceof Error ? thrown.message : String(thrown)).split('\n')[0] ?? '';
  const isLarge = /out of memory|Overflow|out of range/i.test(said);
  return new ProblemError(
    {
      code: isLarge ? 'too-much' : 'internal',
      doing,
      why: said,
      mend: isLarge
        ? 'Ask for less: a narrower scope or fewer groups.'
        : 'Try again; if it goes on, tell whoever runs this installation.',
    },
    { cause: thrown },
  );
}

const idle = new WeakMap<ColumnarDatabase, DuckDBConnection[]>();

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
  const connection = waiting.pop() ?? (await database.connect());
  const interrupt = (): void => connection.interrupt();
  let late = false;
  const timer = setTimeout(() => {
    late = true;
    interrupt();
  }, timeoutMs);
  signal?.addEventListener('abort', interrupt, { once: true });
  try {
    const reader = await connection.runAndReadAll(query.text, query.values as DuckDBValue[]);
    const types = reader.columnTypes().map(({ typeId }) => typeId);
    const records = reader
      .getRows()
      .map((row) => row.map((value, at) => cellOf(value, types[at] ?? DuckDBTypeId.VARCHAR)));
    waiting.push(connection);
    return { records, took: performance.now() - started };
  } catch (thrown) {
    connection.closeSync();
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
    const result = await connection.stream(query.text, query.values as DuckDBValue[]);
    const types = result.columnTypes().map(({ typeId }) => typeId);
    for (;;) {
      const chunk = await result.fetchChunk();
      if (!chunk || chunk.rowCount === 0) break;
      await take(
        chunk
          .getRows()
          .map((row) => row.map((value, at) => cellOf(value, types[at] ?? DuckDBTypeId.VARCHAR))),
      );
    }
  } catch (thrown) {
    if (thrown instanceof ProblemError) throw thrown;
    throw signal?.aborted ? stoppedProblem(doing) : columnarProblem(thrown, doing);
  } finally {
    signal?.removeEventListener('abort', interrupt);
    connection.closeSync();
  }
}
