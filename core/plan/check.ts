import { resolveCondition } from '#core/ask/condition/resolve.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import type { Check, DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import { allCounted, counted } from '#core/value/format/counted.ts';
import { formatNumber } from '#core/value/format/format.ts';
import type { Clock } from '#core/value/period/period.ts';
import {
  allOf,
  extend,
  type GroupsPlan,
  type PlannedStep,
  type RecordsPlan,
  type Relation,
  totals,
} from './plan.ts';

/** What a check came to. `failing` and `of` are exact counts of records. */
export interface CheckResult {
  readonly name: string;
  readonly state: 'met' | 'broken';
  readonly failing: string;
  readonly of: string;
  /** What was found, in words: "12 of 4,000 sailings". */
  readonly found: string;
}

export interface CheckPlan {
  /** Yields what {@link resultOf} reads. */
  readonly plan: GroupsPlan;
  /** The records that are not as expected; null where it is not about single records. */
  readonly failing: RecordsPlan | null;
}

const howMany: PlannedMeasure = { name: 'count', calculation: { kind: 'count' } };
const timesName = 'times';

/** What to ask for a check over a data set's relation. */
export function checkPlan({ expects }: Check, dataSet: DataSet, from: Relation, clock: Clock): CheckPlan {
  const whole = { from, zone: clock.zone, where: allOf([]) };
  const groups = (measures: PlannedMeasure[], of = from): GroupsPlan => totals(of, clock.zone, measures);
  const records = (where: RecordsPlan['where']): RecordsPlan => ({
    kind: 'records',
    ...whole,
    where,
    fields: dataSet.fields.filter(({ hidden }) => !hidden).map(({ name }) => name),
    order: [],
    ...(dataSet.key === undefined ? {} : { key: dataSet.key }),
    offset: 0,
    limit: 25,
  });
  switch (expects.kind) {
    case 'unique': {
      const shared = sharedValues(from, dataSet.fields, expects.fields);
      return {
        plan: groups([{ name: 'sum', calculation: { kind: 'sum', field: timesName } }], shared),
        failing: {
          kind: 'records',
          ...whole,
          from: shared,
          fields: [...expects.fields, timesName],
          order: [{ by: timesName, descending: true }],
          offset: 0,
          limit: 25,
        },
      };
    }
    case 'filled': {
      const blank = { field: expects.field, test: { op: 'blank' as const } };
      return { plan: groups([{ ...howMany, where: blank }, howMany]), failing: records(blank) };
    }
    case 'all': {
      const not = { none: [resolveCondition(expects.where, dataSet.fields, clock)] };
      return { plan: groups([{ ...howMany, where: not }, howMany]), failing: records(not) };
    }
    case 'count':
      return { plan: groups([howMany]), failing: null };
    case 'fresh':
      return {
        plan: groups([{ name: 'latest', calculation: { kind: 'greatest', field: expects.field } }]),
        failing: null,
      };
  }
}

/** A relation of the values of some fields that several records share, with how many times each stands there. */
function sharedValues(from: Relation, fields: readonly Field[], names: readonly string[]): Relation {
  const own = names.flatMap((name) => fields.find((field) => field.name === name) ?? []);
  const after: Field[] = [...own, { name: timesName, type: 'integer' }];
  const steps: PlannedStep[] = [
    {
      step: { kind: 'where', id: 'filled', condition: { all: [] } },
      before: fields,
      filters: [{ all: names.map((field) => ({ field, test: { op: 'filled' } })) }],
      others: [],
    },
    {
      step: {
        kind: 'summarise',
        id: 'times',
        by: names.map((name) => ({ field: name, as: name })),
        measures: [{ name: timesName, calculation: { kind: 'count' } }],
      },
      before: fields,
      filters: [],
      others: [],
    },
    {
      step: { kind: 'where', id: 'several', condition: { all: [] } },
      before: after,
      filters: [{ field: timesName, test: { op: 'atLeast', value: '2' } }],
      others: [],
    },
  ];
  return extend(from, { fields: after, steps });
}

/** What the answer to a check's plan says. */
export function resultOf(
  check: Check,
  cells: readonly Cell[],
  { noun }: Pick<DataSet, 'noun'>,
  clock: Clock,
): CheckResult {
  const { name, expects } = check;
  const [first = null, second = null] = cells;
  const result = (isMet: boolean, failing: string, of: string, found: string): CheckResult => ({
    name,
    state: isMet ? 'met' : 'broken',
    failing,
    of,
    found,
  });
  const number = String(first ?? '0');
  switch (expects.kind) {
    case 'unique':
      return result(
        number === '0',
        number,
        '',
        number === '0' ? 'none share it' : `${formatNumber(number)} ${noun.many} share it`,
      );
    case 'filled':
    case 'all': {
      const of = String(second ?? '0');
      return result(
        number === '0',
        number,
        of,
        number === '0'
          ? allCounted(of, noun.one, noun.many)
          : `${formatNumber(number)} of ${formatNumber(of)} ${noun.many} ${number === '1' ? 'is' : 'are'} not so`,
      );
    }
    case 'count': {
      const count = BigInt(number);
      const isFew = expects.least !== undefined && count < BigInt(expects.least);
      const isMany = expects.most !== undefined && count > BigInt(expects.most);
      return result(
        !isFew && !isMany,
        '0',
        number,
        `there ${number === '1' ? 'is' : 'are'} ${counted(number, noun.one, noun.many)}`,
      );
    }
    case 'fresh': {
      if (first === null) return result(false, '0', '', 'there is no latest one');
      const hours = (clock.now.getTime() - Date.parse(String(first))) / 3_600_000;
      const whole = Math.max(0, Math.floor(hours));
      const age = hours >= 48 ? counted(Math.floor(hours / 24), 'day') : counted(whole, 'hour');
      return result(hours <= expects.hours, '0', '', `the latest is ${age} old`);
    }
  }
}
