import type { Plan, RecordsPlan } from '#core/plan/plan.ts';
import { compile, compileCount, type Query } from '#core/sql/compile.ts';
import { postgres } from '#core/sql/dialect/postgres/dialect.ts';
import type { PostgresAddress } from './pool.ts';
import { type QueryRun, rowCapOf, runQuery } from './run.ts';
import { sharing } from './share.ts';

const share = sharing<QueryRun>();

/** Records have changed at a source: whoever asks from now on is given no answer that was begun before. */
export const askAgain = (): void => share.forget();

export interface Asking {
  readonly address: PostgresAddress;
  readonly doing: string;
  readonly signal?: AbortSignal | undefined;
  readonly timeoutMs?: number;
}

function ask(source: string, query: Query, { signal, ...asking }: Asking): Promise<QueryRun> {
  const key = JSON.stringify([source, asking.address.user, query]);
  return share(key, signal, (shared) => runQuery(query, { source, ...asking, signal: shared }));
}

/** Runs a plan on its source. Equal plans in flight share one run. Throws a `ProblemError`. */
export function runPlan(plan: Plan, asking: Asking): Promise<QueryRun> {
  const capped = { ...plan, limit: Math.min(plan.limit, rowCapOf(plan)) } as Plan;
  return ask(plan.from.source, compile(capped, postgres), asking);
}

/** How many records a plan has over all its pages, as exact text. */
export async function countRecords(plan: RecordsPlan, asking: Asking): Promise<string> {
  const { records } = await ask(plan.from.source, compileCount(plan, postgres), asking);
  return String(records[0]?.[0] ?? '0');
}
