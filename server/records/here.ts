import { setImmediate } from 'node:timers/promises';
import { allOf, type Plan, type RecordsPlan, type Relation, totals } from '#core/plan/plan.ts';
import { compile, compileOrdered, type Query } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import type { Cell } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { runColumnar, streamColumnar } from '#engine/columnar/run.ts';
import { sortBehind, sortedPage } from '#engine/columnar/sorted.ts';
import * as live from '#engine/postgres/engine.ts';
import { rowCapOf } from '#engine/postgres/run.ts';
import { TooManyRecords } from '#sources/kind.ts';
import { readPlan } from '#sources/postgres/read.ts';
import { cacheFolder } from '../kept/cache.ts';
import { columnar, lastOpened, openKept } from '../kept/open.ts';
import { openSource } from '../sources/open.ts';
import { answerOnce } from './answers.ts';
import { askTogether } from './extract/together.ts';
import { nearerPage } from './far-page.ts';
import { type Answer, type Asking, type Columnar, type Place, placeOf } from './place.ts';
import { readyFor, type Versions } from './prepare.ts';

/* Asking for records from this process. */

/** Runs a plan where its records are: on the source itself, on the kept ones, or on what is fetched. Throws a `ProblemError`. */
export async function runPlan(plan: Plan, asking: Asking): Promise<Answer> {
  const { doing, signal } = asking;
  const place = await located(plan, asking);
  if (place.kind === 'live')
    return { ...(await live.runPlan(plan, { address: place.address, doing, signal })), live: true };
  const answered = async (versions: Versions, until: AbortSignal | undefined): Promise<Answer> => {
    const started = performance.now();
    const { ready, trueAt, records } = await readyFor(plan, place, versions, asking);
    const capped = { ...ready, limit: Math.min(ready.limit, rowCapOf(ready)) } as Plan;
    const found = await answerOnce(capped, { doing, signal: until }, async (signal) => {
      const engine = await columnar();
      const ask = async (query: Query): Promise<Cell[][]> =>
        (await runColumnar(engine, query, { doing, signal })).records;
      const page = await pageOfMany(capped, records, engine, ask);
      return page ?? askTogether(capped, records, engine, ask);
    });
    return { records: found, trueAt, took: performance.now() - started, live: false };
  };
  if (place.isKept) return answeredEarly(place.keptIds, answered, asking);
  try {
    return await answered(await openKept(place.keptIds, doing), signal);
  } catch (thrown) {
    const counted = thrown instanceof TooManyRecords ? await countedThere(plan, place, asking) : null;
    if (counted) return counted;
    throw thrown;
  }
}

/** What only counts too many records to be fetched, counted at their source; null where that cannot be done. */
async function countedThere(plan: Plan, { bases }: Columnar, asking: Asking): Promise<Answer | null> {
  const { from } = plan;
  const isCount = plan.kind === 'groups' && plan.by.length === 0 && !from.steps && bases.length === 1;
  const { request } = from;
  if (!isCount || request.kind === 'kept') return null;
  if (plan.measures.some(({ calculation }) => calculation.kind !== 'count')) return null;
  const kind = await openSource(from.source);
  if (!kind.count) return null;
  const started = performance.now();
  const trueAt = new Date().toISOString();
  const counts: string[] = [];
  for (const { where } of plan.measures) {
    const count = await kind.count(request, { ...asking, where: allOf([plan.where, where]) });
    if (count === null) return null;
    counts.push(count);
  }
  return { records: [counts], trueAt, took: performance.now() - started, live: true };
}

/**
 * Versions seldom change, and to ask which are current takes a tenth of what a small pane takes. So those that were current
 * last are read while that is asked; where another is current, what was begun is stopped, and the current ones are read.
 */
async function answeredEarly(
  dataSetIds: readonly string[],
  answered: (versions: Versions, signal: AbortSignal | undefined) => Promise<Answer>,
  { doing, signal }: Asking,
): Promise<Answer> {
  const last = lastOpened(dataSetIds);
  if (!last) return answered(await openKept(dataSetIds, doing), signal);
  const stop = new AbortController();
  const begun = answered(last, signal ? AbortSignal.any([signal, stop.signal]) : stop.signal);
  // It may fail before anybody waits for it.
  begun.catch(() => {});
  // The engine is at work by the time that this thread is busy with the other question.
  await setImmediate();
  try {
    const current = await openKept(dataSetIds, doing);
    if (dataSetIds.every((id) => current.get(id)?.id === last.get(id)?.id)) return await begun;
    stop.abort();
    return await answered(current, signal);
  } finally {
    stop.abort();
  }
}

/** How many records a plan has over all its pages, as exact text. */
export async function countRecords(plan: RecordsPlan, { doing, signal }: Asking): Promise<string> {
  const place = await located(plan, { doing, signal });
  if (place.kind === 'live') return live.countRecords(plan, { address: place.address, doing, signal });
  const versions = await openKept(place.keptIds, doing);
  const { ready, records: ofVersion } = await readyFor(plan, place, versions, { doing, signal });
  // How the records are looked at changes nothing about how many they are.
  const count = totals(ready.from, ready.zone, [{ name: 'n', calculation: { kind: 'count' } }], ready.where);
  const records = await answerOnce({ count }, { doing, signal }, async (until) => {
    const engine = await columnar();
    return askTogether(
      count,
      ofVersion,
      engine,
      async (query) => (await runColumnar(engine, query, { doing, signal: until })).records,
    );
  });
  return String(records[0]?.[0] ?? '0');
}

/** Records that are handed over at once: so few that whoever asks for something else meanwhile does not wait for them. */
const streamedAtOnce = 250;

/** Hands over every record of a plan, some at a time, and nothing more than that in memory. */
export async function streamRecords(
  plan: RecordsPlan,
  { doing, signal }: Asking,
  take: (records: Cell[][]) => Promise<void>,
): Promise<void> {
  const place = await located(plan, { doing, signal });
  if (place.kind === 'live') return readPlan(place.address, plan, doing, take, streamedAtOnce);
  const { ready } = await readyFor(plan, place, await openKept(place.keptIds, doing), { doing, signal });
  return streamColumnar(await columnar(), compile(ready, duckdb), { doing, signal }, take);
}

/** Sorting fewer records than this, or a page nearer than this, costs no time that a person can feel. */
const manyRecords = 300_000;
const farOffset = 5_000;

/**
 * A page of many sorted records, where there is a quicker way than to sort all of them; null where there is none. After a page far
 * into them, a sorted file of all is made for the pages that are asked for next.
 */
async function pageOfMany(
  plan: Plan,
  records: number,
  engine: ColumnarDatabase,
  ask: (query: Query) => Promise<Cell[][]>,
): Promise<Cell[][] | null> {
  if (plan.kind !== 'records' || records < manyRecords || plan.order.length === 0) return null;
  const allInOrder = compileOrdered(plan, duckdb);
  const fromFile = sortedPage(cacheFolder(), allInOrder, plan.fields, plan);
  if (fromFile) return ask(fromFile);
  if (plan.offset < farOffset) return null;
  const page = await ask(compile((await nearerPage(plan, ask)) ?? plan, duckdb));
  sortBehind(engine, cacheFolder(), allInOrder);
  return page;
}

/** Where the records of a plan are. Throws a {@link ProblemError} where an input has a value that it may not have. */
async function located(plan: Plan, asking: Asking): Promise<Place> {
  await refuseUnlisted(plan.from.allowed, { doing: asking.doing, signal: asking.signal });
  return placeOf(plan, asking);
}

/** Throws a {@link ProblemError} for a value of an input that does not stand where its values have to. */
async function refuseUnlisted(allowed: Relation['allowed'] = [], asking: Asking): Promise<void> {
  await Promise.all(
    allowed.map(async ({ input, value, among, field }) => {
      const { records } = await runPlan(
        {
          kind: 'records',
          from: among,
          zone: 'UTC',
          where: { field, test: { op: 'same', value } },
          fields: [field],
          order: [],
          offset: 0,
          limit: 1,
        },
        asking,
      );
      if (records.length > 0) return;
      throw new ProblemError({
        code: 'bad-request',
        doing: asking.doing,
        why: `“${value}” is none of the values that ${input.replaceAll('_', ' ')} may have`,
        mend: 'Choose another.',
      });
    }),
  );
}
