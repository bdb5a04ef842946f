import type { Change, ChangedRecord, Values } from '#core/change/change.ts';
import { madeFrom } from '#core/change/read-back.ts';
import type { Column } from '#core/dataset/schema.ts';
import { type Problem, ProblemError, problemOf } from '#core/value/problem/problem.ts';
import type { ChangeResult, Changing, EachOutcome, NotedChanges } from './change.ts';
import { conflictsOf, setOf, typesOf } from './change-compare.ts';

/*
 * Changes of a service's records, which it takes one at a time. All are looked at first, and where one is not as it was seen none is sent.
 * What a service says of a change is not taken for it: the record is read back.
 */

export interface ReadRecord {
  readonly values: Values;
  /** What the service calls this state of the record, so that it refuses a change of any other; null where it does not. */
  readonly tag: string | null;
}

type Set = ReadonlyMap<Column, string | null>;

/** How a service is told. What is thrown says that nothing was done, unless it is {@link Unclear}. */
export interface RecordService {
  /** A record as it is now; null where there is none. */
  read(key: string, columns: readonly Column[]): Promise<ReadRecord | null>;
  update(key: string, set: Set, tag: string | null): Promise<void>;
  /**
   * Adds a record with its lines and gives its key, null where the service does not tell it, and those of its lines as far as they are told.
   * `once`: sent again under the same name it is the same.
   */
  insert(
    set: Set,
    once: string,
    lines: LinesToAdd | null,
  ): Promise<{ readonly key: string | null; readonly lineKeys?: readonly string[] }>;
  remove(key: string, tag: string | null): Promise<void>;
}

/** Lines that a service takes within the record that they are of. */
export interface LinesToAdd {
  readonly member: string;
  readonly key: Column;
  readonly sets: readonly Set[];
}

/** It was sent, and no answer says whether it was done. */
export class Unclear extends ProblemError {}

/** A service may take a moment to do what it has said. Times, and milliseconds between them. */
const lookTimes = 4;
const lookAgainMs = 400;
/** Records are looked at this many at a time. */
const readAtOnce = 4;

/** By what batches are known that are sent one by one. */
export const mark = 'one by one';
/** After this no more of a batch is sent, since somebody waits. Milliseconds. */
const sendMs = 60_000;

/** Makes changes one after the other, each whatever became of the others. */
export async function makeEach(service: RecordService, changing: Changing): Promise<ChangeResult> {
  const { changes, columns, doing, beforeEnd } = changing;
  const known = changes.filter((each) => each.way !== 'insert');
  const found = await readAll(
    service,
    known.map(({ key }) => key),
    columns,
  );
  const conflicts = conflictsOf(changing, (key) => found.get(key)?.values ?? null);
  if (conflicts.length > 0) return { state: 'conflict', conflicts };
  const plans = changes.map((each) => intended(each, found, changing));
  const lines = linesOf(changing);
  await beforeEnd(mark, [...plans, ...lines]);
  const each: EachOutcome[] = [];
  let away: Problem | null = null;
  const until = performance.now() + sendMs;
  for (const [at, change] of changes.entries()) {
    const record = plans[at] as ChangedRecord;
    const problem = away ? unsentAway(away) : performance.now() > until ? unsentLate(doing) : null;
    if (problem) {
      each.push({ record, outcome: 'refused', problem });
      continue;
    }
    const outcome = await makeOne(service, change, { record, tag: tagOf(change, found), changing });
    each.push(outcome);
    for (const [index, key] of (outcome.lineKeys ?? []).entries())
      if (lines[index]) lines[index] = { ...lines[index], key };
    if (isAway(outcome)) away = outcome.problem;
  }
  if (each.every(({ outcome }) => outcome === 'done'))
    return { state: 'done', records: [...each.map(({ record }) => record), ...lines] };
  const [only] = each;
  if (each.length === 1 && only?.outcome === 'refused')
    throw new ProblemError(only.problem ?? unheard(doing));
  if (each.length === 1) return { state: 'unknown' };
  return { state: 'each', each };
}

const unsentAway = (away: Problem): Problem => ({
  ...away,
  why: `it was not sent, since the service does not answer: ${away.why}`,
});

const unsentLate = (doing: string): Problem => ({
  code: 'time-out',
  doing,
  why: 'it was not sent, since those before it took so long',
  mend: 'Try these again.',
});

/** The service does not answer any more, so that nothing else is worth sending. */
const isAway = ({ outcome, problem }: EachOutcome): boolean =>
  problem?.code === 'refused' ||
  (outcome === 'unknown' && (problem?.code === 'unreachable' || problem?.code === 'time-out'));

const tagOf = (change: Change, found: ReadonlyMap<string, ReadRecord>): string | null =>
  change.way === 'insert' ? null : (found.get(change.key)?.tag ?? null);

/** A record as it is to become. Whoever adds one may say its key; else only the service knows it, afterwards. */
function intended(
  change: Change,
  found: ReadonlyMap<string, ReadRecord>,
  { place }: Changing,
): ChangedRecord {
  if (change.way === 'insert')
    return { key: change.values[place.key.name] ?? '', before: null, after: change.values };
  const is = found.get(change.key)?.values ?? {};
  if (change.way === 'remove') return { key: change.key, before: is, after: null };
  const before = Object.fromEntries(Object.keys(change.values).map((each) => [each, is[each] ?? null]));
  return { key: change.key, before, after: change.values };
}

/** The lines of a record as they are to become. Only the service knows their keys, afterwards. */
const linesOf = ({ lines }: Changing): ChangedRecord[] =>
  (lines?.changes ?? []).flatMap((each): ChangedRecord[] =>
    each.way === 'insert' ? [{ key: '', before: null, after: each.values, isLine: true }] : [],
  );

function linesToAdd({ lines }: Changing): LinesToAdd | null {
  if (!lines) return null;
  const { member, columns, place, changes } = lines;
  if (member === null) throw new TypeError('a service knows lines by a name');
  return {
    member,
    key: place.key,
    sets: changes.flatMap((each) => (each.way === 'insert' ? [setOf(each.values, columns)] : [])),
  };
}

async function makeOne(
  service: RecordService,
  change: Change,
  { record, tag, changing }: { record: ChangedRecord; tag: string | null; changing: Changing },
): Promise<EachOutcome & { readonly lineKeys?: readonly string[] }> {
  const { columns, doing } = changing;
  let said: Problem | null = null;
  let { key } = record;
  let lineKeys: readonly string[] = [];
  try {
    switch (change.way) {
      case 'update':
        await service.update(key, setOf(change.values, columns), tag);
        break;
      case 'remove':
        await service.remove(key, tag);
        break;
      case 'insert': {
        const added = await service.insert(
          setOf(change.values, columns),
          onceOf(changing, change),
          linesToAdd(changing),
        );
        key = added.key ?? key;
        lineKeys = added.lineKeys ?? [];
      }
    }
  } catch (thrown) {
    said = problemOf(thrown, doing);
    if (!(thrown instanceof Unclear)) return { record, outcome: 'refused', problem: said };
  }
  // Where nobody knows its key there is nothing to read back.
  if (key === '') return { record, outcome: 'unknown', problem: said ?? unheard(doing) };
  const wanted = columns.filter(({ name }) => name in (record.after ?? record.before ?? {}));
  let isMade: boolean | null = null;
  for (let times = 0; times < lookTimes; times += 1) {
    if (times > 0) await new Promise((resolve) => setTimeout(resolve, lookAgainMs));
    try {
      const now = await service.read(key, wanted);
      isMade = asMeant({ ...record, key }, now, columns, said === null);
      if (isMade)
        return {
          record: { ...record, key, after: now?.values ?? null },
          outcome: 'done',
          problem: null,
          lineKeys,
        };
    } catch (thrown) {
      return { record, outcome: 'unknown', problem: problemOf(thrown, doing) };
    }
  }
  if (isMade === null) return { record, outcome: 'unknown', problem: said ?? unheard(doing) };
  return { record, outcome: 'refused', problem: said ?? denied(doing) };
}

/** Whether a record is as it was to become. A service that said so may have made something else of a value; nothing at all is none of that. */
function asMeant(
  record: ChangedRecord,
  now: ReadRecord | null,
  columns: readonly Column[],
  isSaid: boolean,
): boolean | null {
  const is = new Map(now ? [[record.key, now.values]] : []);
  const isMade = madeFrom([record], is, typesOf(columns));
  return isMade === null && isSaid && now !== null && record.after !== null ? true : isMade;
}

const onceOf = ({ once, changes }: Changing, change: Change): string => `${once}-${changes.indexOf(change)}`;

const unheard = (doing: string): Problem => ({
  code: 'unreachable',
  doing,
  why: 'the service did not say what became of it',
  mend: 'Look at the record before you try it again.',
});

const denied = (doing: string): Problem => ({
  code: 'bad-request',
  doing,
  why: 'the service said that it was done, and the record is as it was before',
  mend: 'Tell whoever runs the service.',
});

async function readAll(
  service: RecordService,
  keys: readonly string[],
  columns: readonly Column[],
): Promise<Map<string, ReadRecord>> {
  const found = new Map<string, ReadRecord>();
  const waiting = [...new Set(keys)];
  await Promise.all(
    Array.from({ length: readAtOnce }, async () => {
      for (let key = waiting.shift(); key !== undefined; key = waiting.shift()) {
        const record = await service.read(key, columns);
        if (record) found.set(key, record);
      }
    }),
  );
  return found;
}

/** What became of changes that nobody heard the end of, record by record. */
export async function outcomesOfEach(
  service: RecordService,
  { records, columns }: NotedChanges,
): Promise<(boolean | null)[]> {
  const outcomes: (boolean | null)[] = [];
  for (const record of records) {
    if (record.key === '') {
      outcomes.push(null);
      continue;
    }
    const wanted = columns.filter(({ name }) => name in (record.after ?? record.before ?? {}));
    outcomes.push(asMeant(record, await service.read(record.key, wanted), columns, false));
  }
  return outcomes;
}
