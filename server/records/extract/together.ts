import { setTimeout as wait } from 'node:timers/promises';
import { partsOf } from '#core/ask/condition/resolve.ts';
import type { Plan } from '#core/plan/plan.ts';
import { neededOf } from '#core/sql/start.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { commonFilter, isPartOf, stretchesOf } from './common.ts';
import { areFew, copyRecords, onExtract } from './extract.ts';
import { Rooms } from './rooms.ts';
import { Stretches, type Used } from './stretches.ts';

/*
 * The panes of a page ask for the same records at once: those of its scope. Where these are a small part of several million, they
 * are copied once into a table in memory, an extract, and each pane's question goes to that table.
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
  readonly used: Promise<Used | null>;
  /** How many of its questions are not answered yet. */
  waiting: number;
}

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
    const used = (async () => {
      for (let pauses = 0, count = -1; pauses < pauseLimit && count < plans.length; pauses += 1) {
        count = plans.length;
        await wait(pauseMs);
      }
      this.openBatches.delete(view);
      return this.use(view, plans, records);
      // Without an extract the questions take longer, and that is all.
    })().catch(() => null);
    const batch = { plans, used, waiting: 0 };
    this.openBatches.set(view, batch);
    return batch;
  }

  /** The records that several plans ask for; null where to copy them would not save time. */
  private async use(view: string, plans: readonly Plan[], records: number): Promise<Used | null> {
    const [first] = plans;
    const where = commonFilter(plans.map((plan) => plan.where));
    if (!first || partsOf(where).length === 0) return null;
    const { from, zone } = first;
    const wanted = { from, zone, where, fields: [...new Set(plans.flatMap(neededOf))], records };
    const areMany = plans.length >= minPlans;
    const stretch = await this.stretches.use(view, wanted, areMany);
    if (!areMany || (stretch && isPartOf(stretch.extract.where, where))) return stretch;
    // A scope that is a stretch and nothing else has been counted as one.
    const isOneStretch = isPartOf(stretchesOf(where), where);
    if (!stretch && (isOneStretch || !(await areFew(wanted, this.engine)))) return null;
    const extract = await copyRecords(wanted, this.rooms, this.engine, stretch?.extract).catch(() => null);
    if (!extract) return stretch;
    stretch?.leave();
    return { extract, leave: () => void this.rooms.give(extract.table) };
  }
}

const extractsOf = new WeakMap<ColumnarDatabase, Extracts>();

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
  const isOfAll = partsOf(plan.where).length === 0;
  if (records < minRecords || request.kind !== 'kept' || steps?.length || isUnordered || isOfAll)
    return ask(plan);
  const extracts = extractsOf.get(engine) ?? new Extracts(engine);
  extractsOf.set(engine, extracts);
  const batch = extracts.openBatches.get(request.name) ?? extracts.openBatch(request.name, records);
  batch.plans.push(plan);
  batch.waiting += 1;
  try {
    const used = await batch.used;
    return await ask(used ? onExtract(plan, used.extract) : plan);
  } finally {
    batch.waiting -= 1;
    if (batch.waiting === 0) void batch.used.then((used) => used?.leave());
  }
}
