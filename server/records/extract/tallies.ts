import { type Filter, fieldsOf, partsOf } from '#core/ask/condition/resolve.ts';
import { allOf, type Plan } from '#core/plan/plan.ts';
import type { Query } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { tallyOf } from '#core/sql/tally.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { runColumnar } from '#engine/columnar/run.ts';
import { type Extract, onExtract, without } from './extract.ts';
import type { Rooms } from './rooms.ts';

/*
 * Whoever looks at one value after another asks the same of a stretch each time, for other values of the same fields. From the second
 * time on, what each pane adds up is kept by those values, and the next ones are answered without reading a record.
 */

/** A tally of more groups than this share of the records saves too little. */
const maxShare = 0.05;
/** So many tallies of a stretch stay; the one that was used the longest ago makes room. */
const mostTallies = 24;
/** What is asked of more fields at once is seldom asked again. */
const mostFields = 3;

/** More values than this are not named one by one. */
const mostNamed = 200;

const doing = { doing: 'looking up the values of a scope' };
const all: Filter = { all: [] };
const textOf = (value: Cell | undefined): string | null =>
  value === null || value === undefined ? null : String(value);

/** The names of the tables that the tallies of all stretches are in. */
export const tallyTables = Array.from({ length: 2 * mostTallies }, (_, at) => `tally ${at + 1}`);

/** The fields of a filter, each once, in an order of their own. */
const eachField = (filter: Filter): string[] => [...new Set(fieldsOf(filter))].sort();

interface Held {
  /** Null: it has too many groups. */
  readonly table: Promise<string | null>;
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
    this.groupLimit = Math.floor(stretch.records * maxShare);
  }

  /** Whether what narrows the stretch further is worth tallies: it is not the first time that something is asked of its fields. */
  isWorthIt(narrower: Filter): boolean {
    const fields = eachField(narrower);
    if (fields.length === 0 || fields.length > mostFields) return false;
    const key = JSON.stringify(fields);
    const isAgain = this.asked.has(key);
    this.asked.add(key);
    return isAgain;
  }

  /**
   * How a plan, one of whose conditions is `narrower`, is answered by a tally; it is made if it is not there, and turns out to be null
   * where it has too many groups. Null at once where there can be none.
   */
  answer(plan: Plan, narrower: Filter): Promise<Tallied | null> | null {
    if (plan.kind !== 'groups') return null;
    const of = onExtract(without(plan, narrower), this.stretch);
    const tally = tallyOf(of, eachField(narrower), this.groupLimit + 1, duckdb);
    if (!tally) return null;
    const key = JSON.stringify(tally.made);
    const known = this.held.get(key);
    if (!known && this.rooms.isFull) return null;
    const held = known ?? { table: this.made(tally.made), users: 0 };
    this.held.delete(key);
    this.held.set(key, held);
    held.users += 1;
    return held.table.then((table) => {
      if (table !== null) return { query: tally.answer(table, narrower), leave: () => this.leave(held) };
      this.leave(held);
      return null;
    });
  }

  /**
   * The same filter for records of the stretch, with the values of texts that pass it in place of what is asked of them, where they are
   * few: to compare with them takes a third of what it takes to fold the case of each text first.
   */
  async named(narrower: Filter, of: Pick<Plan, 'from' | 'zone'>): Promise<Filter> {
    return allOf(
      await Promise.all(
        partsOf(narrower).map(async (part) => {
          const [field = '', ...others] = eachField(part);
          const isText = of.from.fields.some(({ name, type }) => name === field && type === 'text');
          if (!isText || others.length > 0) return part;
          const values = {
            kind: 'groups',
            ...of,
            where: all,
            by: [{ field }],
            measures: [],
            order: [],
          } as const;
          const passing = await this.answer({ ...values, limit: mostNamed + 1 }, part);
          if (!passing) return part;
          const { records } = await runColumnar(this.engine, passing.query, doing).finally(passing.leave);
          if (records.length > mostNamed) return part;
          return { field, test: { op: 'among' as const, values: records.map(([value]) => textOf(value)) } };
        }),
      ),
    );
  }

  /** Gives all rooms back. Nobody uses a tally any more. */
  async clear(): Promise<void> {
    const tables = [...this.held.values()].map(({ table }) => table);
    this.held.clear();
    for (const table of await Promise.all(tables)) if (table !== null) await this.rooms.give(table);
  }

  private async made(query: Query): Promise<string | null> {
    const table = this.rooms.take();
    if (table === null) return null;
    try {
      if ((await this.engine.copyToTable(table, query)) <= this.groupLimit) return table;
    } catch {
      // The question is asked of the records, and fails there if it has to.
    }
    await this.rooms.give(table);
    return null;
  }

  private leave(held: Held): void {
    held.users -= 1;
    const unused = [...this.held].find(([, { users }]) => users === 0);
    if (this.held.size <= mostTallies || !unused) return;
    const [key, { table }] = unused;
    this.held.delete(key);
    void table.then((name) => (name === null ? undefined : this.rooms.give(name)));
  }
}
