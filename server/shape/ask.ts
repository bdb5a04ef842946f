import type { Condition } from '#core/condition/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/field/field.ts';
import { type Cell, isNumeric, isTemporal, labelOf, parseValue } from '#core/field/value.ts';
import { findMembers, memberText } from '#core/http/members.ts';
import { binsOf } from '#core/measure/bins.ts';
import type { Clock } from '#core/period/period.ts';
import {
  allOf,
  type GroupsPlan,
  type PlannedMeasure,
  type PlannedStep,
  type RecordsPlan,
  type Relation,
} from '#core/plan/plan.ts';
import { ProblemError } from '#core/problem/problem.ts';
import { written } from '#core/sql/scalar.ts';
import { stepMakes, type World } from '#core/step/kinds.ts';
import { narrowed, planned, relationWith, startOf } from '#core/step/plan.ts';
import type { StepOf } from '#core/step/schema.ts';
import { countRecords, runPlan } from '../records.ts';
import { sampleInputs } from '../sample-inputs.ts';

/* What the page of a data set's steps asks: the records, figures and profiles as they are after some of the steps. */

export interface Shaping {
  readonly id: string;
  readonly definition: DataSet;
  readonly world: World;
  readonly clock: Clock;
  readonly person: { readonly name: string; readonly email: string };
  readonly signal: AbortSignal;
}

const count: PlannedMeasure = { name: 'count', calculation: { kind: 'count' } };

/** The relation after the first so many steps, with the inputs' sample values. */
export function relationAfter({ id, definition, world, clock, person }: Shaping, steps: number): Relation {
  const inputs = sampleInputs(definition.inputs, 'reading the records');
  const { steps: _, ...plain } = definition;
  const base = relationWith({ ...plain, fields: [...startOf(definition)] }, id, inputs, {
    world,
    clock,
    person,
  });
  const some = (definition.steps ?? []).slice(0, steps);
  if (some.length === 0) return base;
  return extended(base, planned(base.fields, some, inputs, { world, clock, person }));
}

const groups = (from: Relation, zone: string, measures: PlannedMeasure[]): GroupsPlan => ({
  kind: 'groups',
  from,
  zone,
  where: allOf([]),
  by: [],
  measures,
  order: [],
  limit: 1,
});

export interface StepRecords {
  readonly fields: readonly Field[];
  readonly records: Cell[][];
  readonly more: boolean;
  /** Milliseconds. */
  readonly took: number;
  readonly trueAt: string;
}

const pageSize = 50;

/** A page of the records after some steps. */
export async function recordsAfter(shaping: Shaping, steps: number, page: number): Promise<StepRecords> {
  const from = relationAfter(shaping, steps);
  const plan: RecordsPlan = {
    kind: 'records',
    from,
    zone: shaping.clock.zone,
    where: allOf([]),
    fields: from.fields.map(({ name }) => name),
    order: [],
    offset: (page - 1) * pageSize,
    limit: pageSize + 1,
  };
  const { records, took, trueAt } = await runPlan(plan, {
    doing: 'reading the records',
    signal: shaping.signal,
  });
  return {
    fields: from.fields,
    records: records.slice(0, pageSize),
    more: records.length > pageSize,
    took,
    trueAt,
  };
}

export interface StepFigures {
  /** Exact counts, as text. */
  readonly records: string;
  /** How many records are blank in each field that the step made or changed. */
  readonly blank: Readonly<Record<string, string>>;
  /** Of a changed type: how many had a value before that is not there now. */
  readonly lost: string;
  /** Milliseconds. */
  readonly took: number;
}

/** How many records there are after some steps, and what the last of them made of its fields: worked out over all of them. */
export async function figuresAfter(shaping: Shaping, steps: number): Promise<StepFigures> {
  const from = relationAfter(shaping, steps);
  const step = steps === 0 ? undefined : (shaping.definition.steps ?? [])[steps - 1];
  const before = (step && !step.off ? from.steps?.at(-1)?.before : undefined) ?? from.fields;
  const made =
    step && !step.off
      ? stepMakes(step, before).filter((name) => from.fields.some((field) => field.name === name))
      : [];
  const blanks = made.map(
    (name): PlannedMeasure => ({
      ...count,
      name: `blank ${name}`,
      where: { field: name, test: { op: 'blank' } },
    }),
  );
  const asking = { doing: 'counting the records', signal: shaping.signal };
  const isType = step?.kind === 'type' && !step.off;
  const [{ records, took }, had] = await Promise.all([
    runPlan(groups(from, shaping.clock.zone, [count, ...blanks]), asking),
    isType
      ? runPlan(
          groups(relationAfter(shaping, steps - 1), shaping.clock.zone, [
            { ...count, where: { field: step.field, test: { op: 'blank' } } },
          ]),
          asking,
        )
      : null,
  ]);
  const [row = []] = records;
  const lost = had ? BigInt(String(row[1] ?? 0)) - BigInt(String(had.records[0]?.[0] ?? 0)) : 0n;
  return {
    records: String(row[0] ?? '0'),
    blank: Object.fromEntries(made.map((name, at) => [name, String(row[at + 1] ?? '0')])),
    lost: String(lost > 0n ? lost : 0n),
    took,
  };
}

/** How many of the records that readers have a condition keeps, as exact text. */
export async function countWhere(shaping: Shaping, where: Condition): Promise<string> {
  const { definition, clock, signal } = shaping;
  const all = relationAfter(shaping, definition.steps?.length ?? 0);
  const conditions = definition.keeping ? [definition.keeping, where] : [where];
  const from = narrowed(all, conditions, shaping);
  return countRecords(
    { kind: 'records', from, zone: clock.zone, where: allOf([]), fields: [], order: [], offset: 0, limit: 1 },
    { doing: 'counting the records', signal },
  );
}

export interface FieldProfile {
  readonly name: string;
  readonly records: string;
  readonly blank: string;
  readonly distinct: string;
  /** The count of different values is rough where there are very many. */
  readonly about: boolean;
  readonly least: Cell;
  readonly greatest: Cell;
  /** The values that stand there most often; none where nearly all are different. */
  readonly frequent: readonly { readonly value: Cell; readonly count: string }[];
  /** Counts of equal stretches from the least to the greatest. */
  readonly spread: readonly string[];
  /** Of a text: how many are written as values of another type are. */
  readonly readable: Readonly<Record<'integer' | 'decimal' | 'date' | 'instant', string>> | null;
}

/** More different values than this are counted roughly, and their most frequent ones say little. */
const manyValues = 20_000;

const readableTypes = ['integer', 'decimal', 'date', 'instant'] as const;

/** What is in some fields after some steps, over all records. */
export async function profileAfter(
  shaping: Shaping,
  steps: number,
  names: readonly string[],
): Promise<FieldProfile[]> {
  const from = relationAfter(shaping, steps);
  const fields = names.flatMap((name) => from.fields.find((field) => field.name === name) ?? []);
  const asking = { doing: 'describing the records', signal: shaping.signal };
  const measured = fields.map((field) => measuresOf(field));
  const { records } = await runPlan(
    groups(from, shaping.clock.zone, [count, ...measured.flatMap((each) => each.measures)]),
    asking,
  );
  const [row = []] = records;
  const total = String(row[0] ?? '0');
  let at = 1;
  const read = measured.map(({ field, measures }) => {
    const cells = Object.fromEntries(measures.map(({ name }, index) => [name, row[at + index] ?? null]));
    at += measures.length;
    return { field, cells };
  });
  return Promise.all(
    read.map(async ({ field, cells }): Promise<FieldProfile> => {
      const about = Number(cells.about ?? 0);
      const few = about <= manyValues && field.type !== 'nested';
      const [frequent, spread] = await Promise.all([
        few ? frequentOf(from, field, shaping) : null,
        spreadOf(from, field, cells.least ?? null, cells.greatest ?? null, shaping),
      ]);
      return {
        name: field.name,
        records: total,
        blank: String(cells.blank ?? '0'),
        distinct: frequent ? frequent.distinct : String(about),
        about: !frequent && from.request.kind === 'kept',
        least: cells.least ?? null,
        greatest: cells.greatest ?? null,
        frequent: frequent?.values ?? [],
        spread,
        readable:
          field.type === 'text' ? (frequent?.readable ?? (await readableOf(from, field, shaping))) : null,
      };
    }),
  );
}

function measuresOf(field: Field): { field: Field; measures: PlannedMeasure[] } {
  const { name, type } = field;
  const measures: PlannedMeasure[] = [
    { ...count, name: 'blank', where: { field: name, test: { op: 'blank' } } },
    { name: 'about', calculation: { kind: 'about', field: name } },
  ];
  if (type !== 'nested' && type !== 'boolean' && type !== 'text')
    measures.push(
      { name: 'least', calculation: { kind: 'least', field: name } },
      { name: 'greatest', calculation: { kind: 'greatest', field: name } },
    );
  return { field, measures };
}

const mostFrequent = 6;

/** The exact number of different values, and those that stand there most often. */
async function frequentOf(
  from: Relation,
  { name }: Field,
  { clock, signal }: Shaping,
): Promise<{
  distinct: string;
  values: FieldProfile['frequent'];
  readable: NonNullable<FieldProfile['readable']>;
}> {
  const plan: GroupsPlan = {
    ...groups(from, clock.zone, [count]),
    where: { field: name, test: { op: 'filled' } },
    by: [{ field: name }],
    order: [{ by: 'count', descending: true }],
    limit: manyValues * 2,
  };
  const { records } = await runPlan(plan, { doing: `describing ${name}`, signal });
  const readable = readableTypes.map((type) => {
    const whole = new RegExp(`^(?:${written[type]})$`);
    const fitting = records.filter(([value]) => whole.test(String(value ?? '').trim()));
    return [type, String(fitting.reduce((sum, [, n]) => sum + BigInt(String(n ?? '0')), 0n))];
  });
  return {
    readable: Object.fromEntries(readable) as NonNullable<FieldProfile['readable']>,
    distinct: String(records.length),
    values: records.slice(0, mostFrequent).map(([value = null, n]) => ({ value, count: String(n ?? '0') })),
  };
}

/** How many texts are written as values of other types are, where there are too many different ones to look at each. */
async function readableOf(
  from: Relation,
  { name }: Field,
  { clock, signal }: Shaping,
): Promise<NonNullable<FieldProfile['readable']>> {
  const measures = readableTypes.map(
    (as): PlannedMeasure => ({ name: as, calculation: { kind: 'readable', field: name, as } }),
  );
  const { records } = await runPlan(groups(from, clock.zone, measures), {
    doing: `describing ${name}`,
    signal,
  });
  return Object.fromEntries(
    readableTypes.map((type, at) => [type, String(records[0]?.[at] ?? '0')]),
  ) as NonNullable<FieldProfile['readable']>;
}

const stretches = 12;

async function spreadOf(
  from: Relation,
  field: Field,
  least: Cell,
  greatest: Cell,
  { clock, signal }: Shaping,
): Promise<string[]> {
  const ends = isNumeric(field.type)
    ? binsOf(least, greatest, field.type === 'integer').map(({ from: low, below }) => ({ low, below }))
    : isTemporal(field.type)
      ? momentsBetween(field, least, greatest)
      : [];
  if (ends.length === 0) return [];
  const measures = ends.map(
    ({ low, below }, at): PlannedMeasure => ({
      ...count,
      name: `stretch ${at}`,
      where: allOf([
        { field: field.name, test: { op: 'atLeast', value: low } },
        below === null ? null : { field: field.name, test: { op: 'below', value: below } },
      ]),
    }),
  );
  const { records } = await runPlan(groups(from, clock.zone, measures), {
    doing: `describing ${field.name}`,
    signal,
  });
  return ends.map((_, at) => String(records[0]?.[at] ?? '0'));
}

function momentsBetween(
  { type }: Field,
  least: Cell,
  greatest: Cell,
): { low: string; below: string | null }[] {
  const [from, to] = [Date.parse(String(least)), Date.parse(String(greatest))];
  if (!(to > from)) return [];
  const at = (part: number): string => {
    const text = new Date(from + ((to - from) * part) / stretches).toISOString();
    return type === 'date' ? text.slice(0, 10) : text;
  };
  const lows = [...new Set(Array.from({ length: stretches }, (_, part) => at(part)))];
  return lows.map((low, index) => ({ low, below: lows[index + 1] ?? null }));
}

export interface MatchFigures {
  readonly records: string;
  readonly matched: string;
  readonly unmatched: string;
  readonly several: string;
  /** Values without a match, and those with several, most frequent first. */
  readonly without: readonly { readonly value: Cell; readonly count: string }[];
  readonly withSeveral: readonly { readonly value: Cell; readonly count: string }[];
}

/** What a look-up would find, before it is applied: over all records. */
export async function matchesOf(
  shaping: Shaping,
  step: StepOf<'lookUp'>,
  steps: number,
): Promise<MatchFigures> {
  const before = relationAfter(shaping, steps);
  const asking = { doing: 'comparing the records', signal: shaping.signal };
  const counted: StepOf<'lookUp'> = {
    kind: 'lookUp',
    id: step.id,
    from: step.from,
    on: step.on,
    mode: 'count',
    take: [],
    order: [],
    as: ' matches',
  };
  const { world, clock, person } = shaping;
  const added = planned(before.fields, [counted], before.inputs, { world, clock, person });
  const from = extended(before, added);
  const matches = ' matches';
  const is = (op: 'atLeast' | 'atMost', value: string): PlannedMeasure => ({
    ...count,
    where: { field: matches, test: { op, value } },
  });
  const { records } = await runPlan(
    groups(from, clock.zone, [count, is('atLeast', '1'), is('atLeast', '2')]),
    asking,
  );
  const [total, matched, several] = (records[0] ?? []).map((cell) => BigInt(String(cell ?? '0')));
  const examples = async (op: 'atLeast' | 'atMost', value: string): Promise<MatchFigures['without']> => {
    const [key] = step.on;
    if (!key) return [];
    const found = await runPlan(
      {
        ...groups(from, clock.zone, [count]),
        where: { field: matches, test: { op, value } },
        by: [{ field: key.field }],
        order: [{ by: 'count', descending: true }],
        limit: 4,
      },
      asking,
    );
    return found.records.map(([each = null, n]) => ({ value: each, count: String(n ?? '0') }));
  };
  const none = (total ?? 0n) - (matched ?? 0n);
  const [without, withSeveral] = await Promise.all([
    none > 0n ? examples('atMost', '0') : [],
    (several ?? 0n) > 0n ? examples('atLeast', '2') : [],
  ]);
  return {
    records: String(total ?? 0n),
    matched: String(matched ?? 0n),
    unmatched: String(none),
    several: String(several ?? 0n),
    without,
    withSeveral,
  };
}

/** A relation with steps after those it has. */
const extended = (
  relation: Relation,
  added: { readonly fields: readonly Field[]; readonly steps: readonly PlannedStep[] },
): Relation => ({
  ...relation,
  start: relation.start ?? relation.fields,
  fields: added.fields,
  steps: [...(relation.steps ?? []), ...added.steps],
});

export interface Near {
  readonly dataSet: string;
  readonly other: string;
  readonly field: string;
  /** Of the different values of our field, how many the other one has too: 0…1. */
  readonly overlap: number;
}

const nearMost = 12;

/**
 * Where a field could be looked up: fields of other data sets with the same meaning or name, or that identify their
 * records, by how many of our values are there too.
 */
export async function nearFields(shaping: Shaping, steps: number): Promise<Near[]> {
  const { id, world, clock } = shaping;
  const before = relationAfter(shaping, steps);
  const pairs = [...world].flatMap(([other, dataSet]) =>
    other === id || dataSet.inputs.some(({ required }) => required)
      ? []
      : dataSet.fields.flatMap((field) => {
          const ours = before.fields.find((each) => each.type === field.type && isLike(each, field, dataSet));
          return ours
            ? [{ dataSet: other, other: field.name, field: ours.name, rank: rankOf(ours, field, dataSet) }]
            : [];
        }),
  );
  const best = pairs.sort((a, b) => b.rank - a.rank).slice(0, nearMost);
  const measured = await Promise.all(
    best.map(async ({ dataSet, other, field }): Promise<Near | null> => {
      try {
        const only = planned(
          before.fields,
          [
            {
              kind: 'summarise',
              id: 'values',
              by: [{ field, as: 'value' }],
              measures: [{ name: 'n', calculation: { kind: 'count' } }],
            },
            { kind: 'where', id: 'filled', condition: { field: 'value', test: { op: 'filled' } } },
            {
              kind: 'lookUp',
              id: 'there',
              from: { dataSet },
              on: [{ field: 'value', other }],
              mode: 'any',
              take: [],
              order: [],
              as: 'there',
            },
          ],
          before.inputs,
          shaping,
        );
        const { records } = await runPlan(
          groups(extended(before, only), clock.zone, [
            {
              name: 'overlap',
              calculation: { kind: 'share', where: { field: 'there', test: { op: 'same', value: 'true' } } },
            },
          ]),
          { doing: 'comparing values', signal: shaping.signal },
        );
        return { dataSet, other, field, overlap: Number(records[0]?.[0] ?? 0) };
      } catch (thrown) {
        if (thrown instanceof ProblemError) return null;
        throw thrown;
      }
    }),
  );
  return measured
    .filter((near): near is Near => near !== null && near.overlap > 0)
    .sort((a, b) => b.overlap - a.overlap)
    .slice(0, 5);
}

const bare = (name: string): string => name.toLowerCase().replace(/[^a-z0-9]/g, '');

function isLike(ours: Field, theirs: Field, { key }: DataSet): boolean {
  if (ours.type === 'nested' || ours.type === 'boolean' || ours.type === 'float' || isTemporal(ours.type))
    return false;
  return rankOf(ours, theirs, { key }) > 0;
}

/** Foreign keys first, then one meaning, then one name. */
function rankOf(ours: Field, theirs: Field, { key }: Pick<DataSet, 'key'>): number {
  if (ours.refers !== undefined && (ours.refers === theirs.origin || ours.refers === theirs.refers)) return 4;
  const [a, b] = [bare(ours.name), bare(theirs.name)];
  if (a === b) return theirs.name === key ? 3 : 2;
  return theirs.name === key && (a.endsWith(b) || b.endsWith(a)) ? 1 : 0;
}

export interface FoundPath {
  readonly path: string;
  readonly name: string;
  readonly type: Field['type'];
}

/** What is inside a field of lists or objects. */
export interface Inside {
  readonly kind: 'list' | 'object' | 'mixed' | 'empty';
  /** Members of the objects, or of the objects in the lists. */
  readonly members: readonly FoundPath[];
}

export interface TraceStep {
  /** How many steps have been done; 0 is as the source gave it. */
  readonly steps: number;
  readonly fields: readonly Field[];
  readonly records: Cell[][];
  readonly total: string;
}

const traceMost = 3;

/** A record through the steps: at each, the records that it came from, found by what has not changed since. */
export async function traceOf(
  shaping: Shaping,
  steps: number,
  record: Readonly<Record<string, string | null>>,
): Promise<TraceStep[]> {
  const all = shaping.definition.steps ?? [];
  const after = relationAfter(shaping, steps);
  // By name at the place looked at; a step back undoes a new name and lets go of what the step made.
  let known = new Map(
    after.fields
      .filter(({ type }) => type !== 'nested' && type !== 'float')
      .map(({ name }) => [name, record[name] ?? null] as const),
  );
  const found: TraceStep[] = [];
  for (let at = steps; at >= 0; at -= 1) {
    const from = relationAfter(shaping, at);
    const tests = [...known].filter(([name]) => from.fields.some((field) => field.name === name));
    const plan: RecordsPlan = {
      kind: 'records',
      from,
      zone: shaping.clock.zone,
      where: allOf(tests.map(([field, value]) => ({ field, test: { op: 'same', value } }))),
      fields: from.fields.map(({ name }) => name),
      order: [],
      offset: 0,
      limit: traceMost,
    };
    const asking = { doing: 'following the record', signal: shaping.signal };
    const [{ records }, total] = await Promise.all([runPlan(plan, asking), countRecords(plan, asking)]);
    found.unshift({ steps: at, fields: from.fields, records, total });
    const step = all[at - 1];
    if (step && !step.off) known = undone(step, known, relationAfter(shaping, at - 1).fields);
  }
  return found;
}

/** What is still known of a record before a step. */
function undone(
  step: NonNullable<DataSet['steps']>[number],
  known: ReadonlyMap<string, string | null>,
  before: readonly Field[],
): Map<string, string | null> {
  if (step.kind === 'rename') {
    const value = known.get(step.as);
    const rest = [...known].filter(([name]) => name !== step.as);
    return new Map(value === undefined ? rest : [...rest, [step.field, value]]);
  }
  if (step.kind === 'summarise')
    return new Map(
      step.by.flatMap(({ field, unit, as }) => {
        const value = known.get(as);
        return unit || value === undefined ? [] : [[field, value] as const];
      }),
    );
  if (step.kind === 'wide') return new Map([...known].filter(([name]) => step.by.includes(name)));
  const makes = stepMakes(step, before);
  return new Map([...known].filter(([name]) => !makes.includes(name)));
}

/** What there is inside the lists or objects of a field, from the first records that have some. */
export async function insideOf(shaping: Shaping, steps: number, name: string): Promise<Inside> {
  const from = relationAfter(shaping, steps);
  const { records } = await runPlan(
    {
      kind: 'records',
      from,
      zone: shaping.clock.zone,
      where: { field: name, test: { op: 'filled' } },
      fields: [name],
      order: [],
      offset: 0,
      limit: 500,
    },
    { doing: `looking into ${labelOf({ name })}`, signal: shaping.signal },
  );
  return inside(records.map(([cell]) => String(cell ?? '')));
}

function inside(texts: readonly string[]): Inside {
  const values = texts.flatMap((text): unknown[] => {
    try {
      return [JSON.parse(text)];
    } catch {
      return [];
    }
  });
  const lists = values.filter((value) => Array.isArray(value));
  const objects = values.filter(
    (value) => value !== null && typeof value === 'object' && !Array.isArray(value),
  );
  const kind =
    lists.length + objects.length === 0
      ? 'empty'
      : lists.length === 0
        ? 'object'
        : objects.length === 0
          ? 'list'
          : 'mixed';
  const items = kind === 'list' ? lists.flat() : objects;
  const members = findMembers(items.filter((item) => item !== null && typeof item === 'object'));
  const scalars = items.filter((item) => item !== null && typeof item !== 'object').map(String);
  const typed = (found: readonly (string | null)[]): Field['type'] => {
    const filled = found.filter((text): text is string => text !== null && text !== '');
    if (filled.length === 0) return 'text';
    if (filled.every((text) => /^[[{]/.test(text))) return 'nested';
    for (const type of ['integer', 'decimal', 'boolean', 'date', 'instant'] as const) {
      const isPadded = filled.some((text) => /^[+-]?0\d/.test(text));
      if (
        !(isPadded && (type === 'integer' || type === 'decimal')) &&
        filled.every((text) => parseValue(type, text).ok)
      )
        return type;
    }
    return 'text';
  };
  return {
    kind,
    members:
      scalars.length > 0 && members.length === 0
        ? [{ path: '', name: 'item', type: typed(scalars) }]
        : members.map(({ column, name }) => ({
            path: column,
            name,
            type: typed(items.map((item) => memberText(item, column))),
          })),
  };
}
