import type { Change, ChangedRecord, Conflict, Values } from '#core/change/change.ts';
import type { Column } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { ChangedTable, Changing } from './change.ts';
import { tableOf } from './change.ts';
import { conflictsOf, setOf } from './change-compare.ts';

/* Changes of a database's records in one transaction: each record held, compared with what was seen, and then changed. */

/** What a database is told within the transaction. Records come by key, with the columns that were asked for. */
export interface Session {
  /** Records as they are now, held until the end. */
  hold(keys: readonly string[], columns: readonly Column[]): Promise<Map<string, Values>>;
  /** Sets columns of records to the same values, and gives those that it changed as they are then. */
  update(
    keys: readonly string[],
    set: ReadonlyMap<Column, string | null>,
  ): Promise<ReadonlyMap<string, Values>>;
  /** Adds a record, and gives it with what the source made of it. */
  insert(set: ReadonlyMap<Column, string | null>): Promise<ReadonlyMap<string, Values>>;
  /** Removes records, and says how many those were. */
  remove(keys: readonly string[]): Promise<number>;
}

export type Made = { readonly records: ChangedRecord[] } | { readonly conflicts: Conflict[] };

type Update = Extract<Change, { way: 'update' }>;

/**
 * Makes changes, which whoever asks then ends or takes back. Where one is not as it was seen, none is made. Lines go before the record that they
 * are of, and come after it.
 */
export async function makeTogether(
  sessionOf: (table: ChangedTable) => Session,
  changing: Changing,
): Promise<Made> {
  const { lines, place } = changing;
  const session = sessionOf(tableOf(place));
  if (!lines) return make(session, changing);
  const { refers } = lines;
  const ofLines = sessionOf(tableOf(lines.place));
  const gone = await make(ofLines, {
    columns: lines.columns,
    changes: lines.changes.filter(({ way }) => way === 'remove'),
  });
  if ('conflicts' in gone)
    return { conflicts: gone.conflicts.map((each): Conflict => ({ ...each, isLine: true })) };
  const made = await make(session, changing);
  if ('conflicts' in made) return made;
  const key = made.records[0]?.key ?? null;
  const come = await make(ofLines, {
    columns: [...lines.columns, ...(refers ? [refers] : [])],
    changes: lines.changes.flatMap((each) =>
      each.way === 'insert'
        ? [{ ...each, values: { ...each.values, ...(refers ? { [refers.name]: key } : {}) } }]
        : [],
    ),
  });
  const linesMade = 'conflicts' in come ? [] : [...gone.records, ...come.records];
  return {
    records: [...made.records, ...linesMade.map((each): ChangedRecord => ({ ...each, isLine: true }))],
  };
}

/** Makes changes of one table. */
async function make(session: Session, changing: Pick<Changing, 'columns' | 'changes'>): Promise<Made> {
  const { changes } = changing;
  const known = changes.filter((each) => each.way !== 'insert');
  const keysOf = (some: readonly { readonly key: string }[]): string[] => [
    ...new Set(some.map(({ key }) => key)),
  ];
  const held =
    known.length > 0 ? await session.hold(keysOf(known), changing.columns) : new Map<string, Values>();
  const conflicts = conflictsOf(changing, (key) => held.get(key) ?? null);
  if (conflicts.length > 0) return { conflicts };
  const records = new Map<Change, ChangedRecord>();
  for (const [values, together] of alike(changes.filter((each) => each.way === 'update'))) {
    const set = setOf(values, changing.columns);
    const after = await session.update(keysOf(together), set);
    requireAll(after.size, together.length);
    const names = [...set.keys()].map(({ name }) => name);
    const isAll = names.length === changing.columns.length;
    const before = (key: string): Values => {
      const was = held.get(key) ?? {};
      return isAll ? was : Object.fromEntries(names.map((name) => [name, was[name] ?? null]));
    };
    for (const each of together)
      records.set(each, {
        key: each.key,
        before: before(each.key),
        after: after.get(each.key) ?? null,
      });
  }
  const removed = changes.filter((each) => each.way === 'remove');
  if (removed.length > 0) requireAll(await session.remove(keysOf(removed)), removed.length);
  for (const each of removed)
    records.set(each, { key: each.key, before: held.get(each.key) ?? null, after: null });
  for (const each of changes) {
    if (each.way !== 'insert') continue;
    const added = await session.insert(setOf(each.values, changing.columns));
    requireAll(added.size, 1);
    for (const [key, after] of added) records.set(each, { key, before: null, after });
  }
  return { records: changes.flatMap((each) => records.get(each) ?? []) };
}

/** Fewer records than were meant: the source let some stay as they are, so all stay. */
function requireAll(found: number, wanted: number): void {
  if (found === wanted) return;
  throw new ProblemError({
    code: 'forbidden',
    doing: 'changing records',
    why: `the source let ${found} of ${wanted} be changed: a rule or a trigger of its own keeps the others as they are`,
    mend: 'Nothing was changed. Ask whoever looks after the source.',
  });
}

/** Updates that set the same values, together. */
function alike(updates: readonly Update[]): [Values, Update[]][] {
  const groups = new Map<string, [Values, Update[]]>();
  // Most often all are set to the very same.
  const known = new Map<Values, [Values, Update[]]>();
  const groupOf = (values: Values): [Values, Update[]] => {
    const key = JSON.stringify(Object.entries(values).sort());
    const group = groups.get(key) ?? [values, []];
    groups.set(key, group);
    known.set(values, group);
    return group;
  };
  for (const each of updates) (known.get(each.values) ?? groupOf(each.values))[1].push(each);
  return [...groups.values()];
}

/** What became of one transaction is so for each of its records. */
export const sameForAll = (outcome: boolean | null, records: readonly unknown[]): (boolean | null)[] =>
  records.map(() => outcome);

/** How often and how long a source is asked what became of changes whose end was lost. Milliseconds. */
const askAgainMs = 500;
const askTimes = 8;
const askMs = 15_000;

/** What became of changes whose end was lost; null where the source cannot say within a few seconds. */
export async function untilKnown(ask: () => Promise<boolean | null>): Promise<boolean | null> {
  const until = performance.now() + askMs;
  for (let times = 0; times < askTimes && performance.now() < until; times += 1) {
    const outcome = await ask().catch(() => null);
    if (outcome !== null) return outcome;
    await new Promise((resolve) => setTimeout(resolve, askAgainMs));
  }
  return null;
}
