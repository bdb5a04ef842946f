import { type Filter, fieldsOf, partsOf } from '#core/ask/condition/resolve.ts';
import { allOf, type GroupsPlan, type Plan } from '#core/plan/plan.ts';
import type { Query } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { type Tally, tallyOf } from '#core/sql/tally.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { runColumnar } from '#engine/columnar/run.ts';
import { type Extract, onExtract, without } from './extract.ts';
import type { Rooms } from './rooms.ts';

/*
 * Whoever looks at one value after another asks the same of a stretch each time, for other values of the same fields. Once that is seen,
 * what each pane adds up is kept by those values, and the next ones are answered without reading a record.
 */

/** A tally of more groups than this share of the records saves too little, and one of more than so many takes too much memory. */
const maxShare = 0.05;
const mostGroups = 10_000;
/** So many tallies of a stretch stay; the one that was used the longest ago makes room. */
const mostTallies = 24;
/** What is asked of more fields at once is seldom asked again. */
const mostFields = 3;

/** More values than this are not named one by one. */
const mostNamed = 200;

const doing = { doing: 'looking up the values of a scope' };
const textOf = (value: Cell | undefined): string | null =>
  value === null || value === undefined ? null : String(value);

/** The names of the tables that the tallies of all stretches are in. */
export const tallyTables = Array.from({ length: 2 * mostTallies }, (_, at) => `tally ${at + 1}`);

/** The fields of a filter, each once, in an order of their own. */
const eachField = (filter: Filter): string[] => [...new Set(fieldsOf(filter))].sort();

/** The values of a text, as a question about all records. */
const valuesOf = (field: string, { from, zone }: Plan): GroupsPlan => ({
  kind: 'groups',
  from,
  zone,
  where: { all: [] },
  by: [{ field }],
  measures: [],
  order: [],
  limit: mostNamed + 1,
});

const keyOf = ({ made }: Tally): string => JSON.stringify(made);

interface Held {
  /** Null: it is being made, or has too many groups. */
  table: string | null;
  users: number;
}

/** A question that a tally answers. */
export interface Tallied {
  readonly query: Query;
  readonly leave: () => void;
}

/** The tallies of one stretch. */
export class Tallies {
  /** By what makes them, the latest used last. */
  private readonly held = new Map<string, Held>();
  /** By which fields something was asked. */
  private readonly asked = new Set<string>();
  private readonly groupLimit: number;

  constructor(
    private readonly stretch: Extract,
    private readonly rooms: Rooms,
    private readonly engine: ColumnarDatabase,
  ) {
    this.groupLimit = Math.min(mostGroups, Math.floor(stretch.records * maxShare));
  }

  /** Whether what narrows the stretch further is worth tallies: it is not the first time that something is asked of its fields. */
  areWorthIt(narrower: Filter): boolean {
    const fields = eachField(narrower);
    if (fields.length === 0 || fields.length > mostFields) return false;
    const key = JSON.stringify(fields);
    const isAgain = this.asked.has(key);
    this.asked.add(key);
    return isAgain;
  }

  /** Makes the tallies of plans, one of whose conditions is `narrower`, one after the other: what is asked meanwhile comes between. */
  async make(plans: readonly Plan[], narrower: Filter): Promise<void> {
    const [first] = plans;
    for (const part of partsOf(narrower)) {
      const field = first && this.onlyText(part, first);
      if (field) await this.makeOne(valuesOf(field, first), part);
    }
    for (const plan of plans) await this.makeOne(plan, narrower);
  }

  /** How a plan, one of whose conditions is `narrower`, is answered by its tally. Null where there is none. */
  answer(plan: Plan, narrower: Filter): Tallied | null {
    const tally = this.held.size > 0 ? this.tallyOf(plan, narrower) : null;
    if (!tally) return null;
    const key = keyOf(tally);
    const held = this.held.get(key);
    if (!held || held.table === null) return null;
    this.held.delete(key);
    this.held.set(key, held);
    held.users += 1;
    return { query: tally.answer(held.table, narrower), leave: () => this.leave(held) };
  }

  /**
   * The same filter for records of the stretch, with the values of texts that pass it in place of what is asked of them, where they are
   * known and few: to compare with them takes a third of what it takes to fold the case of each text first.
   */
  async named(narrower: Filter, plan: Plan): Promise<Filter> {
    const parts = partsOf(narrower).map(async (part) => {
      const field = this.onlyText(part, plan);
      const passing = field === null ? null : this.answer(valuesOf(field, plan), part);
      if (field === null || !passing) return part;
      const { records } = await runColumnar(this.engine, passing.query, doing).finally(passing.leave);
      const values = records.map(([value]) => textOf(value));
      return values.length > mostNamed ? part : { field, test: { op: 'among' as const, values } };
    });
    return allOf(await Promise.all(parts));
  }

  /** Gives all rooms back. Nobody uses a tally any more. */
  async clear(): Promise<void> {
    const all = [...this.held.values()];
    this.held.clear();
    for (const { table } of all) if (table !== null) await this.rooms.give(table);
  }

  /** The field of a filter that asks something of one text and nothing else. */
  private onlyText(part: Filter, { from }: Plan): string | null {
    const [field = '', ...others] = eachField(part);
    const isText = from.fields.some(({ name, type }) => name === field && type === 'text');
    return isText && others.length === 0 ? field : null;
  }

  private tallyOf(plan: Plan, narrower: Filter): Tally | null {
    if (plan.kind !== 'groups') return null;
    const of = onExtract(without(plan, narrower), this.stretch);
    return tallyOf(of, eachField(narrower), this.groupLimit + 1, duckdb);
  }

  private async makeOne(plan: Plan, narrower: Filter): Promise<void> {
    const tally = this.tallyOf(plan, narrower);
    if (!tally) return;
    const key = keyOf(tally);
    const table = this.held.has(key) ? null : this.rooms.take();
    if (table === null) return;
    const held: Held = { table: null, users: 0 };
    this.held.set(key, held);
    const groups = await this.engine.copyToTable(table, tally.made).catch(() => Number.POSITIVE_INFINITY);
    if (groups <= this.groupLimit) held.table = table;
    else await this.rooms.give(table);
    this.makeRoom();
  }

  private leave(held: Held): void {
    held.users -= 1;
    this.makeRoom();
  }

  private makeRoom(): void {
    const unused = [...this.held].find(([, { users }]) => users === 0);
    if (this.held.size <= mostTallies || !unused) return;
    const [key, { table }] = unused;
    this.held.delete(key);
    if (table !== null) void this.rooms.give(table);
  }
}
