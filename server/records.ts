import type { Cell } from '#core/field/value.ts';
import type { Plan, RecordsPlan } from '#core/plan/plan.ts';
import { compile, compileCount, type Query } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/duckdb.ts';
import { runColumnar, streamColumnar } from '#engine/columnar/run.ts';
import * as live from '#engine/postgres/engine.ts';
import { rowCap } from '#engine/postgres/run.ts';
import { readPlan } from '#sources/postgres/read.ts';
import { columnar, openKept } from './kept/open.ts';
import { sourceAddress } from './store/sources.ts';

export interface Asking {
  /** What is being done, for the problem when it fails. */
  readonly doing: string;
  readonly signal?: AbortSignal | undefined;
}

export interface Answer {
  readonly records: Cell[][];
  /** ISO 8601: when the records were true at their source. */
  readonly trueAt: string;
  /** Milliseconds. */
  readonly took: number;
}

/** Runs a plan where its records are: on the source itself, or on the kept ones. Throws a `ProblemError`. */
export async function runPlan(plan: Plan, { doing, signal }: Asking): Promise<Answer> {
  const { request, source } = plan.from;
  if (request.kind !== 'kept')
    return live.runPlan(plan, { address: await sourceAddress(source), doing, signal });
  return runKept(plan, request.name, { doing, signal }, (ready) =>
    compile({ ...ready, limit: Math.min(ready.limit, rowCap) } as Plan, duckdb),
  );
}

/** How many records a plan has over all its pages, as exact text. */
export async function countRecords(plan: RecordsPlan, { doing, signal }: Asking): Promise<string> {
  const { request, source } = plan.from;
  if (request.kind !== 'kept')
    return live.countRecords(plan, { address: await sourceAddress(source), doing, signal });
  const { records } = await runKept(plan, request.name, { doing, signal }, (ready) =>
    compileCount(ready, duckdb),
  );
  return String(records[0]?.[0] ?? '0');
}

/** Hands over every record of a plan, a few thousand at a time, and nothing more than that in memory. */
export async function streamRecords(
  plan: RecordsPlan,
  { doing, signal }: Asking,
  take: (records: Cell[][]) => Promise<void>,
): Promise<void> {
  const { request, source } = plan.from;
  if (request.kind !== 'kept') return readPlan(await sourceAddress(source), plan, doing, take);
  const { ready } = await keptPlan(plan, request.name, doing);
  return streamColumnar(await columnar(), compile(ready, duckdb), { doing, signal }, take);
}

async function runKept<P extends Plan>(
  plan: P,
  dataSetId: string,
  { doing, signal }: Asking,
  queryOf: (plan: P) => Query,
): Promise<Answer> {
  const { ready, version } = await keptPlan(plan, dataSetId, doing);
  const ran = await runColumnar(await columnar(), queryOf(ready), { doing, signal });
  return { ...ran, trueAt: version.trueAt };
}

/** A plan over the version that readers get now, and the fields that it has. */
async function keptPlan<P extends Plan>(plan: P, dataSetId: string, doing: string) {
  const version = await openKept(dataSetId, doing);
  const { from } = plan;
  const fields = from.fields.filter(({ name }) => version.fields.some((field) => field.name === name));
  const ready: P = {
    ...plan,
    from: { ...from, fields, request: { kind: 'kept', name: version.id }, spans: version.spans },
  };
  return { ready, version };
}
