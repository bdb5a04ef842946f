import Big from 'big.js';
import type { Field } from '#core/field/field.ts';
import { type Cell, isNumeric, isTemporal } from '#core/field/value.ts';
import { binsOf } from '#core/measure/bins.ts';
import { allOf, type GroupsPlan, type PlannedMeasure, type Relation, totals } from '#core/plan/plan.ts';
import { written } from '#core/sql/scalar.ts';
import { runPlan } from '../records.ts';
import { counted, relationAfter, type Shaping } from './shaping.ts';

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
  /** Of a text: how many are written as values of another type are; `local`: as moments without a zone. */
  readonly readable: Readonly<Record<(typeof readableTypes)[number], string>> | null;
}

/** More different values than this are counted roughly, and their most frequent ones say little. */
const manyValues = 20_000;

const readableTypes = ['integer', 'decimal', 'date', 'instant', 'local'] as const;

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
  const { records, live } = await runPlan(
    totals(from, shaping.clock.zone, [counted, ...measured.flatMap((each) => each.measures)]),
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
      const ends = endsOf(field, cells.least ?? null, cells.greatest ?? null);
      const [frequent, counted] = await Promise.all([
        few ? frequentOf(from, field, shaping) : null,
        few ? null : spreadOf(from, field, ends, shaping),
      ]);
      const spread = counted ?? spreadOfValues(field, ends, frequent?.values ?? []);
      return {
        name: field.name,
        records: total,
        blank: String(cells.blank ?? '0'),
        distinct: String(frequent?.values.length ?? about),
        about: !frequent && !live,
        least: cells.least ?? null,
        greatest: cells.greatest ?? null,
        frequent: frequent?.values.slice(0, mostFrequent) ?? [],
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
    { ...counted, name: 'blank', where: { field: name, test: { op: 'blank' } } },
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

/** The different values with how often each stands there, and how many are written as other types are. */
async function frequentOf(
  from: Relation,
  { name }: Field,
  { clock, signal }: Shaping,
): Promise<{
  /** All the different values, most frequent first. */
  values: FieldProfile['frequent'];
  readable: NonNullable<FieldProfile['readable']>;
}> {
  const plan: GroupsPlan = {
    ...totals(from, clock.zone, [counted]),
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
    values: records.map(([value = null, n]) => ({ value, count: String(n ?? '0') })),
    readable: Object.fromEntries(readable) as NonNullable<FieldProfile['readable']>,
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
  const { records } = await runPlan(totals(from, clock.zone, measures), {
    doing: `describing ${name}`,
    signal,
  });
  return Object.fromEntries(
    readableTypes.map((type, at) => [type, String(records[0]?.[at] ?? '0')]),
  ) as NonNullable<FieldProfile['readable']>;
}

const stretches = 12;

/** A stretch of values: its least one, and the one that begins the next. */
interface Stretch {
  readonly low: string;
  readonly below: string | null;
}

function endsOf(field: Field, least: Cell, greatest: Cell): Stretch[] {
  if (isTemporal(field.type)) return momentsBetween(field, least, greatest);
  if (!isNumeric(field.type)) return [];
  return binsOf(least, greatest, field.type === 'integer').map(({ from: low, below }) => ({ low, below }));
}

/** How many records fall into each stretch, where all the different values are known. */
export function spreadOfValues(
  { type }: Pick<Field, 'type'>,
  ends: readonly Stretch[],
  values: FieldProfile['frequent'],
): string[] {
  if (ends.length === 0) return [];
  const counts = ends.map(() => 0n);
  const isMoment = isTemporal(type);
  const numberOf = (text: string): Big | null => {
    const number = isMoment ? Date.parse(text) : text;
    return Number.isFinite(Number(number)) ? new Big(number) : null;
  };
  const lows = ends.flatMap(({ low }) => numberOf(low) ?? []);
  for (const { value, count } of values) {
    const number = value === null ? null : numberOf(String(value));
    if (!number) continue;
    const at = Math.max(
      0,
      lows.findLastIndex((low) => low.lte(number)),
    );
    counts[at] = (counts[at] ?? 0n) + BigInt(count);
  }
  return counts.map(String);
}

async function spreadOf(
  from: Relation,
  field: Field,
  ends: readonly Stretch[],
  { clock, signal }: Shaping,
): Promise<string[]> {
  if (ends.length === 0) return [];
  const measures = ends.map(
    ({ low, below }, at): PlannedMeasure => ({
      ...counted,
      name: `stretch ${at}`,
      where: allOf([
        { field: field.name, test: { op: 'atLeast', value: low } },
        below === null ? null : { field: field.name, test: { op: 'below', value: below } },
      ]),
    }),
  );
  const { records } = await runPlan(totals(from, clock.zone, measures), {
    doing: `describing ${field.name}`,
    signal,
  });
  return ends.map((_, at) => String(records[0]?.[at] ?? '0'));
}

function momentsBetween({ type }: Field, least: Cell, greatest: Cell): Stretch[] {
  const [from, to] = [Date.parse(String(least)), Date.parse(String(greatest))];
  if (!(to > from)) return [];
  const at = (part: number): string => {
    const text = new Date(from + ((to - from) * part) / stretches).toISOString();
    return type === 'date' ? text.slice(0, 10) : text;
  };
  const lows = [...new Set(Array.from({ length: stretches }, (_, part) => at(part)))];
  return lows.map((low, index) => ({ low, below: lows[index + 1] ?? null }));
}
