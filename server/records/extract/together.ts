import { setTimeout as wait } from 'node:timers/promises';
import { partsOf } from '#core/ask/condition/resolve.ts';
import type { Plan } from '#core/plan/plan.ts';
import { compile, type Query } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { neededOf } from '#core/sql/start.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { commonFilter, isPartOf, notStretches, stretchesOf } from './common.ts';
import { also, areFew, copyRecords, type Extract, onExtract, type Wanted, without } from './extract.ts';
import { Rooms } from './rooms.ts';
import { Stretches, type Used } from './stretches.ts';

/*
 * The panes of a page ask for the same records at once: those of its scope. Where these are a small part of several million, they
 * are copied once into a table in memory, an extract, and each pane's question goes to that table; or, where the same was asked of
 * other values before, to a tally of what it adds up.
 */

/** With fewer records than this a question is answered as quickly without an extract. */
const minRecords = 2_000_000;
/** With fewer questions than this an extract takes longer than it saves. */
const minPlans = 5;
/** A batch ends when no question has come for this many milliseconds, or after this many pauses. */
const pauseMs = 6;
const pauseLimit = 4;

/** Questions about one version that come at about the same moment. */
interface Batch {
  readonly plans: Plan[];
  /** Null: the questions go to the version itself. */
  readonly way: Promise<Way | null>;
  /** How many of its questions are not answered yet. */
  waiting: number;
}

/** How the questions of a batch are answered out of what has been copied. */
interface Way {
  readonly of: (plan: Plan) => Promise<Asked>;
  readonly leave: () => void;
}

/** What the engine is asked; `leave`, once it has answered. */
interface Asked {
  readonly query: Query;
  readonly leave?: () => void;
}

const wayThrough = ({ extract, leave }: Pick<Used, 'extract' | 'leave'>): Way => ({
  of: async (plan) => ({ query: compile(onExtract(plan, extract), duckdb) }),
  leave,
});

/** What is copied out of the records that one engine reads. */
class Extracts {
  /** The batches that still take questions, by the view of their version. */
  readonly openBatches = new Map<string, Batch>();
  private readonly rooms: Rooms;
  private readonly stretches: Stretches;

  constructor(private readonly engine: ColumnarDatabase) {
    this.rooms = new Rooms(engine, ['extract 1', 'extract 2']);
    this.stretches = new Stretches(engine);
  }

  openBatch(view: string, records: number): Batch {
    const plans: Plan[] = [];
    const way = (async () => {
      for (let pauses = 0, count = -1; pauses < pauseLimit && count < plans.length; pauses += 1) {
        count = plans.length;
        await wait(pauseMs);
      }
      this.openBatches.delete(view);
      return this.wayFor(view, plans, records);
      // Without an extract the questions take longer, and that is all.
    })().catch(() => null);
    const batch = { plans, way, waiting: 0 };
    this.openBatches.set(view, batch);
    return batch;
  }

  /** How several plans are answered; null where to copy records for them would not save time. */
  private async wayFor(view: string, plans: readonly Plan[], records: number): Promise<Way | null> {
    const [first] = plans;
    const where = commonFilter(plans.map((plan) => plan.where));
    if (!first || partsOf(where).length === 0) return null;
    const { from, zone } = first;
    const neededBy = (of: readonly Plan[]): string[] => [...new Set(of.flatMap(neededOf))];
    const wanted = { from, zone, where, fields: neededBy(plans), records };
    const areMany = plans.length >= minPlans;
    const stretch = await this.stretches.use(view, wanted, areMany);
    if (!areMany || (stretch && isPartOf(stretch.extract.where, where)))
      return stretch && wayThrough(stretch);
    // A scope that is a stretch and nothing else has been counted as one.
    const isOneStretch = isPartOf(stretchesOf(where), where);
    if (!stretch) return isOneStretch || !(await areFew(wanted, this.engine)) ? null : this.extracted(wanted);
    const { tallies } = stretch;
    const narrower = notStretches(where);
    const tallied = new Map(plans.map((plan) => [plan, tallies.answer(plan, narrower)]));
    const others = plans.filter((plan) => !tallied.get(plan));
    const extracted =
      others.length < minPlans
        ? null
        : await this.extracted({ ...wanted, fields: neededBy(others) }, stretch.extract);
    const through = extracted ?? wayThrough(stretch);
    const named = extracted ? narrower : tallies.named(narrower, first).catch(() => narrower);
    return {
      of: async (plan) => tallied.get(plan) ?? through.of(also(without(plan, narrower), await named)),
      leave: () => {
        extracted?.leave();
        const made = tallies.areWorthIt(narrower) ? tallies.make(others, narrower) : Promise.resolve();
        void made.catch(() => undefined).then(stretch.leave);
      },
    };
  }

  private async extracted(wanted: Wanted, out?: Extract): Promise<Way | null> {
    const extract = await copyRecords(wanted, this.rooms, this.engine, out).catch(() => null);
    return extract && wayThrough({ extract, leave: () => void this.rooms.give(extract.table) });
  }
}

const extractsOf = new WeakMap<ColumnarDatabase, Extracts>();

/**
 * Asks a question of kept records, through what is copied of them for the questions of this moment, where something is. `records`: how
 * many the version has; `ask` puts it to the engine.
 */
export async function askTogether<T>(
  plan: Plan,
  records: number,
  engine: ColumnarDatabase,
  ask: (query: Query) => Promise<T>,
): Promise<T> {
  const { request, steps } = plan.from;
  // A copy does not keep the order in which the records are stored.
  const isUnordered = plan.kind === 'records' && plan.order.length === 0 && plan.limit > 0;
  const isOfAll = partsOf(plan.where).length === 0;
  if (records < minRecords || request.kind !== 'kept' || steps?.length || isUnordered || isOfAll)
    return ask(compile(plan, duckdb));
  const extracts = extractsOf.get(engine) ?? new Extracts(engine);
  extractsOf.set(engine, extracts);
  const batch = extracts.openBatches.get(request.name) ?? extracts.openBatch(request.name, records);
  batch.plans.push(plan);
  batch.waiting += 1;
  try {
    const way = await batch.way;
    const asked = await way?.of(plan);
    return await ask(asked?.query ?? compile(plan, duckdb)).finally(asked?.leave);
  } finally {
    batch.waiting -= 1;
    if (batch.waiting === 0) void batch.way.then((way) => way?.leave());
  }
}
