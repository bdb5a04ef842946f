import Big from 'big.js';
import pMap from 'p-map';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import { type GroupsPlan, type RecordsPlan, type Relation, totals } from '#core/plan/plan.ts';
import { written } from '#core/sql/dialect/scalar.ts';
import { binNumbers, binsFor, boundsOf } from '#core/value/bins/bins.ts';
import type { Field } from '#core/value/field/field.ts';
import { type Cell, isNumeric, isTemporal } from '#core/value/field/value.ts';
import { rowCap } from '#engine/postgres/run.ts';
import { runPlan } from '../records/run.ts';
import { asideAtOnce, recordCount, relationAfter, type Shaping } from './shaping.ts';

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
  /** Of a text: how many are written as values of another type are; `local`: as moments without a zone; `padded`: as codes with zeros in front. */
  readonly readable: Readonly<Record<(typeof readableTypes)[number], string>> | null;
}

/** More different values than this are counted roughly, and their most frequent ones say little. */
const manyValues = 8_000;

const readableTypes = ['integer', 'decimal', 'date', 'instant', 'local', 'padded'] as const;

/** What is in some fields after some steps, over all records. */
export async function profileAfter(
  shaping: Shaping,
  steps: number,
  names: readonly string[],
): Promise<FieldProfile[]> {
  const from = relationAfter(shaping, steps);
  const fields = names.flatMap((name) => from.fields.find((field) => field.name === name) ?? []);
  const asking = { doing: 'describing the records', signal: shaping.signal };
  const seemFew = await seemingFew(from, fields, shaping);
  const asked = fields.map((field) => measuresOf(field, !seemFew.has(field.name)));
  const { records, live } = await runPlan(
    totals(from, shaping.clock.zone, [recordCount, ...asked.flatMap((each) => each.measures)]),
    asking,
  );
  const [row = []] = records;
  const total = String(row[0] ?? '0');
  let at = 1;
  const read = asked.map(({ field, measures }) => {
    const cells = Object.fromEntries(measures.map(({ name }, index) => [name, row[at + index] ?? null]));
    at += measures.length;
    return { field, cells };
  });
  const described = read.map(({ field, cells }) => ({
    field,
    cells,
    about: Number(cells.about ?? 0),
    ends: endsOf(field, cells.least ?? null, cells.greatest ?? null),
  }));
  const isFew = ({ field, about }: (typeof described)[number]): boolean =>
    about <= manyValues && field.type !== 'nested';
  const frequents = await pMap(
    described,
    (each) => (isFew(each) ? frequentOf(from, each.field, shaping) : null),
    { concurrency: asideAtOnce, signal: shaping.signal },
  );
  const many = described.filter((_, index) => !frequents[index]);
  const [closer, unforeseen] = await Promise.all([
    closerLook(from, many, shaping),
    distinctOf(from, many, seemFew, shaping),
  ]);
  return described.map(({ field, cells, about: measured, ends }, index): FieldProfile => {
    const frequent = frequents[index];
    const about = unforeseen.get(field.name) ?? measured;
    const filled = BigInt(String(cells.filled ?? '0'));
    const blank = String(BigInt(total) - filled);
    const looked = closer.get(field.name);
    return {
      name: field.name,
      records: total,
      blank,
      distinct: String(frequent?.values.length ?? about),
      about: !frequent && !live,
      least: cells.least ?? null,
      greatest: cells.greatest ?? null,
      frequent: frequent?.values.slice(0, mostFrequent) ?? [],
      spread: looked
        ? spreadOfCounts(ends, looked.below, filled)
        : spreadOfValues(field, ends, frequent?.values ?? []),
      readable: field.type === 'text' ? (frequent?.readable ?? looked?.readable ?? null) : null,
    };
  });
}

/** This many records tell whether a field seems to have few different values, whose number need not be guessed then. */
const sampleSize = 2_000;

/** The fields of which half a sample or more repeats itself. */
async function seemingFew(
  from: Relation,
  fields: readonly Field[],
  { clock, signal }: Shaping,
): Promise<ReadonlySet<string>> {
  const plain = fields.filter(({ type }) => type !== 'nested').map(({ name }) => name);
  if (plain.length === 0) return new Set();
  const plan: RecordsPlan = {
    kind: 'records',
    from,
    zone: clock.zone,
    where: { all: [] },
    fields: plain,
    order: [],
    offset: 0,
    limit: sampleSize,
  };
  const { records } = await runPlan(plan, { doing: 'describing the records', signal });
  const isFew = (at: number): boolean =>
    new Set(records.map((record) => record[at])).size <= records.length / 2;
  return new Set(plain.filter((_, at) => isFew(at)));
}

/** How many different values those fields have that seemed to have few and do not. */
async function distinctOf(
  from: Relation,
  many: readonly { readonly field: Field }[],
  seemFew: ReadonlySet<string>,
  { clock, signal }: Shaping,
): Promise<ReadonlyMap<string, number>> {
  const names = many.map(({ field: { name } }) => name).filter((name) => seemFew.has(name));
  if (names.length === 0) return new Map();
  const { records } = await runPlan(
    totals(
      from,
      clock.zone,
      names.map((name) => ({ name, calculation: { kind: 'about', field: name } })),
    ),
    { doing: 'describing the records', signal },
  );
  return new Map(names.map((name, at) => [name, Number(records[0]?.[at] ?? 0)]));
}

function measuresOf(field: Field, countsDistinct: boolean): { field: Field; measures: PlannedMeasure[] } {
  const { name, type } = field;
  const measures: PlannedMeasure[] = [{ name: 'filled', calculation: { kind: 'filled', field: name } }];
  if (countsDistinct) measures.push({ name: 'about', calculation: { kind: 'about', field: name } });
  if (type !== 'nested' && type !== 'boolean' && type !== 'text')
    measures.push(
      { name: 'least', calculation: { kind: 'least', field: name } },
      { name: 'greatest', calculation: { kind: 'greatest', field: name } },
    );
  return { field, measures };
}

const mostFrequent = 6;

/** The different values with how often each stands there, and how many are written as other types are; null where there are too many. */
async function frequentOf(
  from: Relation,
  { name }: Field,
  { clock, signal }: Shaping,
): Promise<{
  /** All the different values, most frequent first. */
  values: FieldProfile['frequent'];
  readable: NonNullable<FieldProfile['readable']>;
} | null> {
  const plan: GroupsPlan = {
    ...totals(from, clock.zone, [recordCount]),
    where: { field: name, test: { op: 'filled' } },
    by: [{ field: name }],
    order: [{ by: 'count', descending: true }],
    limit: rowCap,
  };
  const { records } = await runPlan(plan, { doing: `describing ${name}`, signal });
  if (records.length >= rowCap) return null;
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

interface CloserLook {
  /** How many records are below the beginning of each stretch but the first. */
  readonly below: readonly bigint[];
  readonly readable: NonNullable<FieldProfile['readable']>;
}

/** What is found of fields that have too many different values to look at each: in one pass over the records for all of them. */
async function closerLook(
  from: Relation,
  fields: readonly { readonly field: Field; readonly ends: readonly Stretch[] }[],
  { clock, signal }: Shaping,
): Promise<Map<string, CloserLook>> {
  const columns = fields.map(({ field: { name, type }, ends }) => ({
    name,
    below: ends.slice(1).map(
      ({ low }, at): PlannedMeasure => ({
        ...recordCount,
        name: `below ${at} ${name}`,
        where: { field: name, test: { op: 'below', value: low } },
      }),
    ),
    readable: (type === 'text' ? readableTypes : []).map(
      (as): PlannedMeasure => ({
        name: `as ${as} ${name}`,
        calculation: { kind: 'readable', field: name, as },
      }),
    ),
  }));
  const measures = columns.flatMap(({ below, readable }) => [...below, ...readable]);
  if (measures.length === 0) return new Map();
  const { records } = await runPlan(totals(from, clock.zone, measures), {
    doing: 'describing the records',
    signal,
  });
  const counts = new Map(measures.map(({ name }, at) => [name, String(records[0]?.[at] ?? '0')]));
  const countOf = ({ name }: PlannedMeasure): string => counts.get(name) ?? '0';
  return new Map(
    columns.map(({ name, below, readable }) => [
      name,
      {
        below: below.map((measure) => BigInt(countOf(measure))),
        readable: Object.fromEntries(
          readableTypes.map((type, at) => [type, readable[at] ? countOf(readable[at]) : '0']),
        ) as CloserLook['readable'],
      },
    ]),
  );
}

const stretches = 12;

/** A stretch of values: its least one. */
interface Stretch {
  readonly low: string;
}

function endsOf(field: Field, least: Cell, greatest: Cell): Stretch[] {
  if (isTemporal(field.type)) return momentsBetween(field, least, greatest);
  if (!isNumeric(field.type)) return [];
  const bins = binsFor({ least, greatest, low: least, high: greatest }, field.type);
  const numbers = bins ? binNumbers(bins) : [];
  return bins && numbers.length > 1
    ? numbers.flatMap((number) => boundsOf(number, bins).from ?? []).map((low) => ({ low }))
    : [];
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

/** How many records fall into each stretch, from how many are below the beginning of each but the first. */
function spreadOfCounts(ends: readonly Stretch[], below: readonly bigint[], filled: bigint): string[] {
  return ends.map((_, at) => String((below[at] ?? filled) - (below[at - 1] ?? 0n)));
}

function momentsBetween({ type }: Field, least: Cell, greatest: Cell): Stretch[] {
  const [from, to] = [Date.parse(String(least)), Date.parse(String(greatest))];
  if (!(to > from)) return [];
  const at = (part: number): string => {
    const text = new Date(from + ((to - from) * part) / stretches).toISOString();
    return type === 'date' ? text.slice(0, 10) : text;
  };
  const lows = [...new Set(Array.from({ length: stretches }, (_, part) => at(part)))];
  return lows.map((low) => ({ low }));
}
