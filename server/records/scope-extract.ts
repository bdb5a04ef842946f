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
 * The panes of a page ask for the same records at once: those of its scope. Where these are a small part of several million, they
 * are copied once into a table in memory, an extract, and each pane's question goes to that table.
 */

/** With fewer records than this a question is answered as quickly without an extract. */
const minRecords = 2_000_000;
/** An extract holds at most this many values, and at most this share of all records. */
const valueLimit = 5_000_000;
const maxShare = 0.25;
/** With fewer questions than this an extract takes longer than it saves. */
const minPlans = 5;
/** A batch ends when no question has come for this many milliseconds, or after this many pauses. */
const pauseMs = 6;
const pauseLimit = 4;
/** The tables that extracts can be in. There are only a few, so that the engine's prepared statements are used again. */
const freeTables = ['extract 1', 'extract 2'];

type Bounds = Extract<FilterTest, { op: 'within' }>;

const partsOf = (filter: Filter): Filter[] => ('all' in filter ? filter.all.flatMap(partsOf) : [filter]);

/** The first bounds that a filter sets on a field. */
const boundsIn = (parts: readonly Filter[], field: string): Bounds | null => {
  const part = parts.find((each) => 'field' in each && each.field === field && each.test.op === 'within');
  return part && 'field' in part && part.test.op === 'within' ? part.test : null;
};

/** The first or the last of several bounds; null where one is open, or has a year that does not sort as text. */
function outermost(bounds: readonly (string | null)[], which: 'first' | 'last'): string | null {
  const sorted = bounds.filter((bound) => bound !== null && /^\d{4}-/.test(bound)).sort();
  if (sorted.length < bounds.length) return null;
  return sorted.at(which === 'first' ? 0 : -1) ?? null;
}

/** A filter that every record passes which passes any of these: the conditions that all of them have, and the bounds around theirs. */
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

/** The records that pass a filter, in a table of the engine's. */
interface ScopeExtract {
  readonly table: string;
  readonly where: Filter;
}

/** The same plan on an extract, without the conditions that all records there pass. */
function onExtract<P extends Plan>(plan: P, { table, where }: ScopeExtract): P {
  const common = partsOf(where);
  return {
    ...plan,
    from: { ...plan.from, request: { kind: 'kept', name: table } },
    where: allOf(
      partsOf(plan.where).filter((part) => !common.some((other) => isDeepStrictEqual(other, part))),
    ),
  };
}

/** Questions about one version that come at about the same moment. */
interface Batch {
  readonly plans: Plan[];
  /** Null: the questions go to the version itself. */
  readonly extract: Promise<ScopeExtract | null>;
  /** How many of its questions are not answered yet. */
  waiting: number;
}

/** The batches that still take questions, by the view of their version. */
const openBatches = new Map<string, Batch>();

const doing = { doing: 'copying the records of a scope' };

/**
 * Asks a question of kept records, through an extract where the questions of this moment have one. `records`: how many the version
 * has; `ask` sends a plan to the records that it names.
 */
export async function askTogether<T, P extends Plan>(
  plan: P,
  records: number,
  engine: ColumnarDatabase,
  ask: (plan: P) => Promise<T>,
): Promise<T> {
  const { request, steps } = plan.from;
  // An extract does not keep the order in which the records are stored.
  const isUnordered = plan.kind === 'records' && plan.order.length === 0 && plan.limit > 0;
  if (records < minRecords || request.kind !== 'kept' || steps?.length || isUnordered) return ask(plan);
  const batch = openBatches.get(request.name) ?? openBatch(request.name, records, engine);
  batch.plans.push(plan);
  batch.waiting += 1;
  try {
    const extract = await batch.extract;
    return await ask(extract ? onExtract(plan, extract) : plan);
  } finally {
    batch.waiting -= 1;
    if (batch.waiting === 0) void dropExtract(engine, batch.extract);
  }
}

function openBatch(view: string, records: number, engine: ColumnarDatabase): Batch {
  const plans: Plan[] = [];
  const extract = (async () => {
    for (let pauses = 0, count = -1; pauses < pauseLimit && count < plans.length; pauses += 1) {
      count = plans.length;
      await wait(pauseMs);
    }
    openBatches.delete(view);
    return makeExtract(plans, records, engine);
    // Without an extract the questions take longer, and that is all.
  })().catch(() => null);
  const batch = { plans, extract, waiting: 0 };
  openBatches.set(view, batch);
  return batch;
}

/** Copies the records that several plans ask for; null where that would not save time. */
async function makeExtract(
  plans: readonly Plan[],
  records: number,
  engine: ColumnarDatabase,
): Promise<ScopeExtract | null> {
  const [first] = plans;
  if (!first || plans.length < minPlans || freeTables.length === 0) return null;
  const where = commonFilter(plans.map((plan) => plan.where));
  if (partsOf(where).length === 0) return null;
  const fields = [...new Set(plans.flatMap(neededOf))];
  const { from, zone } = first;
  const all: RecordsPlan = { kind: 'records', from, zone, where, fields, order: [], offset: 0, limit: 0 };
  const [[countCell = null] = []] = (await runColumnar(engine, compileCount(all, duckdb), doing)).records;
  const count = Number(countCell);
  if (count > records * maxShare || count * fields.length > valueLimit) return null;
  const table = freeTables.pop();
  if (table === undefined) return null;
  try {
    await engine.copyToTable(table, compileOrdered(all, duckdb));
    return { table, where };
  } catch (error) {
    freeTables.push(table);
    throw error;
  }
}

async function dropExtract(engine: ColumnarDatabase, extract: Promise<ScopeExtract | null>): Promise<void> {
  const own = await extract;
  if (!own) return;
  await engine.dropTable(own.table).catch(() => undefined);
  freeTables.push(own.table);
}
