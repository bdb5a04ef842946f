import type { Condition } from '#core/ask/condition/schema.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import { fieldWords, stepMakes } from '#core/dataset/step/kinds.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import { allOf, extend, type RecordsPlan, totals } from '#core/plan/plan.ts';
import { narrow, planSteps } from '#core/plan/relation.ts';
import { isAsFetched } from '#core/sql/steps.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Records } from '../records/answers.ts';
import { countRecords, runPlan } from '../records/run.ts';
import { type ValueCounts, valueCounts } from '../value-counts.ts';
import { recordCount, relationAfter, type Shaping } from './shaping.ts';

export interface StepRecords {
  readonly fields: readonly Field[];
  readonly records: Records;
  readonly more: boolean;
  /** How many there are on a page that is full. */
  readonly size: number;
  /** Milliseconds. */
  readonly took: number;
  readonly trueAt: string;
}

const pageSize = 50;

/** A page of the records after some steps. */
export async function recordsAfter(shaping: Shaping, steps: number, page: number): Promise<StepRecords> {
  const from = relationAfter(shaping, steps);
  const { key } = shaping.definition;
  // Sources give their records in any order, another one for each page; what is kept stands in the order of its files.
  const isKeyed =
    key !== undefined &&
    from.request.kind !== 'kept' &&
    from.fields.some(({ name }) => name === key) &&
    isAsFetched(from, key);
  const plan: RecordsPlan = {
    kind: 'records',
    from,
    zone: shaping.clock.zone,
    where: allOf([]),
    fields: from.fields.map(({ name }) => name),
    order: [],
    ...(isKeyed ? { key } : {}),
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
    size: pageSize,
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
      ...recordCount,
      name: `blank ${name}`,
      where: { field: name, test: { op: 'blank' } },
    }),
  );
  const asking = { doing: 'counting the records', signal: shaping.signal };
  const isType = step?.kind === 'type' && !step.off;
  const [{ records, took }, had] = await Promise.all([
    runPlan(totals(from, shaping.clock.zone, [recordCount, ...blanks]), asking),
    isType
      ? runPlan(
          totals(relationAfter(shaping, steps - 1), shaping.clock.zone, [
            { ...recordCount, where: { field: step.field, test: { op: 'blank' } } },
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

/** How many records after some steps are alike in every field with one before them. Exact, as text. */
export async function alikeAfter(shaping: Shaping, steps: number): Promise<string> {
  const before = relationAfter(shaping, steps);
  const times = ' times';
  const summed: Step[] = [
    {
      kind: 'summarise',
      id: 'times',
      by: before.fields
        .filter(({ type }) => type !== 'nested')
        .map(({ name }) => ({ field: name, as: name })),
      measures: [{ name: times, calculation: { kind: 'count' } }],
    },
    { kind: 'where', id: 'several', condition: { field: times, test: { op: 'atLeast', value: '2' } } },
  ];
  const from = extend(before, planSteps(before.fields, summed, before.inputs, shaping));
  const { records } = await runPlan(
    totals(from, shaping.clock.zone, [
      { name: 'times', calculation: { kind: 'sum', field: times } },
      { name: 'different', calculation: { kind: 'count' } },
    ]),
    { doing: 'looking for records that are alike', signal: shaping.signal },
  );
  const [all, different] = (records[0] ?? []).map((cell) => BigInt(String(cell ?? '0')));
  return String((all ?? 0n) - (different ?? 0n));
}

/** How many of the records that readers have a condition keeps, as exact text. */
export async function countWhere(shaping: Shaping, where: Condition): Promise<string> {
  const { definition, clock, signal } = shaping;
  const all = relationAfter(shaping, definition.steps?.length ?? 0);
  const conditions = definition.keeping ? [definition.keeping, where] : [where];
  const from = narrow(all, conditions, shaping);
  return countRecords(
    { kind: 'records', from, zone: clock.zone, where: allOf([]), fields: [], order: [], offset: 0, limit: 1 },
    { doing: 'counting the records', signal },
  );
}

/** The values that a field has after some steps, with how many records have each. */
export function valuesAfter(
  shaping: Shaping,
  steps: number,
  { field, find }: { field: string; find: string },
): Promise<ValueCounts> {
  const from = relationAfter(shaping, steps);
  return valueCounts(
    { from, zone: shaping.clock.zone, where: null, field, find },
    { doing: `finding the values of ${fieldWords(field, from.fields)}`, signal: shaping.signal },
  );
}
