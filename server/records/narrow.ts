import { setTimeout as wait } from 'node:timers/promises';
import { isDeepStrictEqual } from 'node:util';
import type { Filter, FilterTest } from '#core/ask/condition/resolve.ts';
import { allOf, type Plan, type RecordsPlan } from '#core/plan/plan.ts';
import { compileCount, compileOrdered } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { neededOf } from '#core/sql/start.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { runColumnar } from '#engine/columnar/run.ts';

/*
 * The panes of a page ask of the same records at once: those of its scope. Where those are a small part of very many, they are
 * taken out once, and each pane's question is asked of them instead of all.
 */

/** Of fewer records than this a question is answered as quickly by itself. */
const veryMany = 2_000_000;
/** As many values are taken out at the most, of no more than this part of all records. */
const mostValues = 8_000_000;
const largestPart = 0.25;
/** The views that records are taken out to, by name: as many pages as have theirs at once. Few, so that engines know their questions. */
const free = ['taken 1', 'taken 2'];
/** Fewer questions than this are not worth it. */
const fewest = 5;
/** Questions that come within this many milliseconds of each other are asked at once. */
const gatherMs = 6;
/** However many go on coming, the first do not wait longer than this many times that. */
const mostTurns = 4;

type Bounds = Extract<FilterTest, { op: 'within' }>;

const partsOf = (filter: Filter): Filter[] => ('all' in filter ? filter.all.flatMap(partsOf) : [filter]);

/** The stretch of a field that a filter keeps within; of several, the first. */
const boundsIn = (parts: readonly Filter[], field: string): Bounds | null => {
  const part = parts.find((each) => 'field' in each && each.field === field && each.test.op === 'within');
  return part && 'field' in part && part.test.op === 'within' ? part.test : null;
};

/** The first or the last of some bounds; null where one is open, or of a year that texts do not order. */
function outermost(bounds: readonly (string | null)[], which: 'first' | 'last'): string | null {
  const sorted = bounds.filter((bound) => bound !== null && /^\d{4}-/.test(bound)).sort();
  if (sorted.length < bounds.length) return null;
  return sorted.at(which === 'first' ? 0 : -1) ?? null;
}

/** What every one of several filters lets through passes this: what all of them have, and what lies around their stretches. */
export function commonFilter(filters: readonly Filter[]): Filter {
  const [first = [], ...others] = filters.map(partsOf);
  return allOf(
    first.flatMap((part): Filter[] => {
      if (others.every((parts) => parts.some((other) => isDeepStrictEqual(other, part)))) return [part];
      if (!('field' in part) || part.test.op !== 'within') return [];
      const { field } = part;
      const bounds = [first, ...others].flatMap((parts) => boundsIn(parts, field) ?? []);
      if (bounds.length <= others.length) return [];
      const from = outermost(
        bounds.map((each) => each.from),
        'first',
      );
      const to = outermost(
        bounds.map((each) => each.to),
        'last',
      );
      return from === null && to === null ? [] : [{ field, test: { op: 'within', from, to } }];
    }),
  );
}

/** Records that are taken out: the view that they are in, and what all of them pass. */
interface Taken {
  readonly view: string;
  readonly where: Filter;
}

/** A plan of the records that are taken out, which need not be asked again what all of them pass. */
function among<P extends Plan>(plan: P, { view, where }: Taken): P {
  const passed = partsOf(where);
  return {
    ...plan,
    from: { ...plan.from, request: { kind: 'kept', name: view } },
    where: allOf(
      partsOf(plan.where).filter((part) => !passed.some((other) => isDeepStrictEqual(other, part))),
    ),
  };
}

interface Gathering {
  readonly plans: Plan[];
  /** Null: all records are asked. */
  readonly taken: Promise<Taken | null>;
  waiting: number;
}

const doing = { doing: 'taking out the records of a page' };

/** Questions of a version that are being gathered. */
const gathered = new Map<string, Gathering>();

/**
 * Asks a question of kept records, or of those of them that all questions of this moment are about. `records`: how many there are;
 * `ask` asks a plan of the records that it names.
 */
export async function askTogether<T, P extends Plan>(
  plan: P,
  records: number,
  engine: ColumnarDatabase,
  ask: (plan: P) => Promise<T>,
): Promise<T> {
  const { request, steps } = plan.from;
  // What is taken out stands in no order of its own.
  const isUnordered = plan.kind === 'records' && plan.order.length === 0 && plan.limit > 0;
  if (records < veryMany || request.kind !== 'kept' || steps?.length || isUnordered) return ask(plan);
  const all = request.name;
  const gathering = gathered.get(all) ?? gather(all, records, engine);
  gathering.plans.push(plan);
  gathering.waiting += 1;
  try {
    const taken = await gathering.taken;
    return await ask(taken ? among(plan, taken) : plan);
  } finally {
    gathering.waiting -= 1;
    if (gathering.waiting === 0) void putBack(engine, gathering.taken);
  }
}

function gather(all: string, records: number, engine: ColumnarDatabase): Gathering {
  const plans: Plan[] = [];
  const taken = (async () => {
    for (let turn = 0, count = -1; turn < mostTurns && count < plans.length; turn += 1) {
      count = plans.length;
      await wait(gatherMs);
    }
    gathered.delete(all);
    return takeOut(plans, records, engine);
  })().catch(() => null);
  const gathering = { plans, taken, waiting: 0 };
  gathered.set(all, gathering);
  return gathering;
}

/** Takes the records out that several plans are about; null where that is not worth it. */
async function takeOut(
  plans: readonly Plan[],
  records: number,
  engine: ColumnarDatabase,
): Promise<Taken | null> {
  const [first] = plans;
  if (!first || plans.length < fewest || free.length === 0) return null;
  const where = commonFilter(plans.map((plan) => plan.where));
  if (partsOf(where).length === 0) return null;
  const fields = [...new Set(plans.flatMap(neededOf))];
  const { from, zone } = first;
  const all: RecordsPlan = { kind: 'records', from, zone, where, fields, order: [], offset: 0, limit: 0 };
  const [[counted = null] = []] = (await runColumnar(engine, compileCount(all, duckdb), doing)).records;
  const count = Number(counted);
  if (count > records * largestPart || count * fields.length > mostValues) return null;
  const view = free.pop();
  if (view === undefined) return null;
  try {
    await engine.takeOut(view, compileOrdered(all, duckdb));
    return { view, where };
  } catch (thrown) {
    free.push(view);
    throw thrown;
  }
}

async function putBack(engine: ColumnarDatabase, gathered: Promise<Taken | null>): Promise<void> {
  const taken = await gathered;
  if (!taken) return;
  await engine.putBack(taken.view).catch(() => undefined);
  free.push(taken.view);
}
