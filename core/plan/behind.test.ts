import { describe, expect, test } from 'vitest';
import { calculationType, type PlannedMeasure } from '#core/ask/measure/calculation.ts';
import type { Field } from '#core/value/field/field.ts';
import { groupFilter, measureFilter, recordsBehind } from './behind.ts';
import { allOf, type GroupsPlan } from './plan.ts';

const fields: Field[] = [
  { name: 'cause', type: 'text' },
  { name: 'departs', type: 'instant' },
  { name: 'due', type: 'date' },
  { name: 'fares', type: 'decimal' },
  { name: 'weight', type: 'float' },
  { name: 'passengers', type: 'integer' },
];
const plan: GroupsPlan = {
  kind: 'groups',
  from: {
    source: 's',
    inputs: {},
    fields,
    request: { kind: 'table', schema: 'p', table: 't', columns: [], lookUps: [] },
  },
  where: { field: 'fares', test: { op: 'filled' } },
  zone: 'Europe/London',
  by: [{ field: 'cause' }, { field: 'departs', unit: 'month' }],
  measures: [],
  order: [],
  limit: 10,
};
const page = { fields: ['cause'], order: [], offset: 0, limit: 10 };
const count: PlannedMeasure = { name: 'n', calculation: { kind: 'count' } };
const october = {
  field: 'departs',
  test: { op: 'within', from: '2026-09-30T23:00:00.000Z', to: '2026-11-01T00:00:00.000Z' },
};

describe('the records behind a cell', () => {
  test('are those of its groups, letter for letter and by the desk’s months, under the plan’s own filter', () => {
    expect(recordsBehind(plan, { values: ['Weather', '2026-10-01'] }, count, page).where).toEqual({
      all: [plan.where, { field: 'cause', test: { op: 'same', value: 'Weather' } }, october],
    });
  });

  test('of a blank group are the blanks', () => {
    expect(groupFilter({ field: 'cause' }, null, fields, 'UTC')).toEqual({
      field: 'cause',
      test: { op: 'blank' },
    });
  });

  test('of the rest are all that are filled and none of the top ones', () => {
    const { where } = recordsBehind(
      plan,
      { values: [null, '2026-10-01'], restOf: ['weather', 'tide'] },
      count,
      page,
    );
    expect(where).toEqual({
      all: [
        plan.where,
        { none: ['weather', 'tide'].map((value) => ({ field: 'cause', test: { op: 'same', value } })) },
        { field: 'cause', test: { op: 'filled' } },
        october,
      ],
    });
  });

  test('of a date’s week are days, which have no zone', () => {
    expect(groupFilter({ field: 'due', unit: 'week' }, '2026-10-19', fields, 'Pacific/Apia')).toEqual({
      field: 'due',
      test: { op: 'within', from: '2026-10-19', to: '2026-10-26' },
    });
  });
});

describe('the records a measure counts', () => {
  test('leave out the blanks that an aggregate ignores', () => {
    expect(measureFilter({ name: 'm', calculation: { kind: 'average', field: 'fares' } })).toEqual({
      field: 'fares',
      test: { op: 'filled' },
    });
  });

  test('of a share are those that meet its condition', () => {
    const where = { field: 'cause', test: { op: 'filled' as const } };
    expect(measureFilter({ name: 'm', calculation: { kind: 'share', where } })).toEqual(where);
  });

  test('keep the measure’s own condition', () => {
    const own = { field: 'cause', test: { op: 'blank' as const } };
    expect(measureFilter({ ...count, where: own })).toEqual(own);
    expect(measureFilter(count)).toEqual({ all: [] });
  });
});

test('all of nothing keeps everything, and all of one is that one', () => {
  expect(allOf([null, undefined, { all: [] }])).toEqual({ all: [] });
  expect(allOf([null, plan.where])).toEqual(plan.where);
});

test.each([
  [{ kind: 'count' }, 'integer'],
  [{ kind: 'distinct', field: 'fares' }, 'integer'],
  [{ kind: 'sum', field: 'fares' }, 'decimal'],
  [{ kind: 'sum', field: 'weight' }, 'float'],
  [{ kind: 'average', field: 'passengers' }, 'decimal'],
  [{ kind: 'median', field: 'weight' }, 'float'],
  [{ kind: 'least', field: 'due' }, 'date'],
  [{ kind: 'percentile', field: 'passengers', at: 90 }, 'integer'],
  [{ kind: 'share', where: { all: [] } }, 'decimal'],
  [{ kind: 'ratio', of: { kind: 'sum', field: 'fares' }, to: { kind: 'count' } }, 'decimal'],
  [{ kind: 'ratio', of: { kind: 'sum', field: 'weight' }, to: { kind: 'count' } }, 'float'],
] as const)('%j is of type %s', (calculation, type) => {
  expect(calculationType(calculation as never, fields)).toBe(type);
});
