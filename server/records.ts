import type { Cell } from '#core/field/value.ts';
import type { Plan, RecordsPlan, Relation } from '#core/plan/plan.ts';
import { compile, compileCount, compileOrdered, neededOf, type Query } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/duckdb.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { runColumnar, streamColumnar } from '#engine/columnar/run.ts';
import { sortedPage } from '#engine/columnar/sorted.ts';
import * as live from '#engine/postgres/engine.ts';
import type { PostgresAddress } from '#engine/postgres/pool.ts';
import { rowCap } from '#engine/postgres/run.ts';
import { readPlan } from '#sources/postgres/read.ts';
import { openFetched } from './fetched/fetched.ts';
import { cacheFolder } from './kept/cache.ts';
import { columnar, openKept } from './kept/open.ts';
import { liveAddress } from './store/sources.ts';

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

/** Runs a plan where its records are: on the source itself, on the kept ones, or on what is fetched. Throws a `ProblemError`. */
export async function runPlan(plan: Plan, { doing, signal }: Asking): Promise<Answer> {
  const place = await placeOf(plan, { doing, signal });
  if (place.kind === 'live') return live.runPlan(plan, { address: place.address, doing, signal });
  const capped = { ...place.ready, limit: Math.min(place.ready.limit, rowCap) } as Plan;
  const engine = await columnar();
  const query = farPage(capped, place.records, engine) ?? compile(capped, duckdb);
  const ran = await runColumnar(engine, query, { doing, signal });
  return { ...ran, trueAt: place.trueAt };
}

/** How many records a plan has over all its pages, as exact text. */
export async function countRecords(plan: RecordsPlan, { doing, signal }: Asking): Promise<string> {
  const place = await placeOf(plan, { doing, signal });
  if (place.kind === 'live') return live.countRecords(plan, { address: place.address, doing, signal });
  const { records } = await runColumnar(await columnar(), compileCount(place.ready, duckdb), {
    doing,
    signal,
  });
  return String(records[0]?.[0] ?? '0');
}

/** Hands over every record of a plan, a few thousand at a time, and nothing more than that in memory. */
export async function streamRecords(
  plan: RecordsPlan,
  { doing, signal }: Asking,
  take: (records: Cell[][]) => Promise<void>,
): Promise<void> {
  const place = await placeOf(plan, { doing, signal });
  if (place.kind === 'live') return readPlan(place.address, plan, doing, take);
  return streamColumnar(await columnar(), compile(place.ready, duckdb), { doing, signal }, take);
}

/** Sorting fewer records than this, or a page nearer than this, costs no time that a person can feel. */
const manyRecords = 300_000;
const farOffset = 5_000;

/** The query for a page far into many sorted records, where there is a quicker one than sorting them again. */
function farPage(plan: Plan, records: number, engine: ColumnarDatabase): Query | null {
  if (plan.kind !== 'records' || records < manyRecords || plan.offset < farOffset || plan.order.length === 0)
    return null;
  return sortedPage(engine, cacheFolder(), compileOrdered(plan, duckdb), plan.fields, plan);
}

type Place<P> =
  | { readonly kind: 'live'; readonly address: PostgresAddress }
  | { readonly kind: 'columnar'; readonly ready: P; readonly trueAt: string; readonly records: number };

/** Where the records of a plan are, and the plan over them. */
async function placeOf<P extends Plan>(plan: P, { doing, signal }: Asking): Promise<Place<P>> {
  const { from } = plan;
  const over = (name: string, known: readonly { name: string }[], spans: Relation['spans']): P => ({
    ...plan,
    from: {
      ...from,
      fields: from.fields.filter(({ name: of }) => known.some((field) => field.name === of)),
      request: { kind: 'kept', name },
      ...(spans ? { spans } : {}),
    },
  });
  if (from.request.kind === 'kept') {
    const version = await openKept(from.request.name, doing);
    return {
      kind: 'columnar',
      ready: over(version.id, version.fields, version.spans),
      trueAt: version.trueAt,
      records: version.records,
    };
  }
  const address = await liveAddress(from.source);
  if (address) return { kind: 'live', address };
  const asked = { from, needed: neededOf(plan), where: plan.where, freshSeconds: from.fresh, doing, signal };
  const { view, fields, spans, trueAt } = await openFetched(asked);
  return { kind: 'columnar', ready: over(view, fields, spans), trueAt, records: 0 };
}
