import { describe, expect, test } from 'vitest';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import { mostNumbers } from '#core/plan/plan.ts';
import type { Cell } from '#core/value/field/value.ts';
import { place } from '#testing/skerry.ts';
import type { CrosstabPane } from './schema.ts';
import { type RowOrder, type ShapeContext, shapeCrosstab } from './shape.ts';

const pane: CrosstabPane = {
  kind: 'crosstab',
  id: 'two-ways',
  title: 'Two ways',
  place,
  dataSet: '5a1e0000-0000-4000-8000-000000000002',
  down: [{ field: 'route' }, { field: 'cause' }],
  across: [{ field: 'departs', unit: 'month' }],
  measures: ['count'],
  cells: 'value',
  order: 'label',
};
const count: PlannedMeasure = { name: 'number:0', calculation: { kind: 'count' } };
const median: PlannedMeasure = { name: 'number:0', calculation: { kind: 'median', field: 'delay' } };
const byHeads: RowOrder = { measure: null, descending: false, along: [] };

const contextOf = (of: CrosstabPane, measure: PlannedMeasure, order: RowOrder): ShapeContext => ({
  down: {
    levels: of.down,
    fields: of.down.map(({ field }) => ({ name: field, type: 'text' })),
    spans: of.down.map(() => null),
  },
  across: {
    levels: of.across,
    fields: of.across.map(({ field }) => ({ name: field, type: 'instant' })),
    spans: of.across.map(() => null),
  },
  measures: [measure],
  order,
  zone: 'UTC',
  now: new Date('2026-11-27T00:00:00Z'),
});

const [oct, nov] = ['2026-10-01', '2026-11-01'];
/** Sets: 0 all; 1 months; 2 routes; 3 routes × months; 4 routes and causes; 5 those × months. */
const answer: Cell[][] = [
  ['0', null, null, null, '9'],
  ['1', null, null, oct, '4'],
  ['1', null, null, nov, '5'],
  ['2', 'North', null, null, '6'],
  ['2', 'South', null, null, '3'],
  ['3', 'North', null, oct, '4'],
  ['3', 'North', null, nov, '2'],
  ['3', 'South', null, nov, '3'],
  ['4', 'North', 'fog', null, '5'],
  ['4', 'North', null, null, '1'],
  ['4', 'South', 'tide', null, '3'],
  ['5', 'North', 'fog', oct, '4'],
  ['5', 'North', 'fog', nov, '1'],
  ['5', 'North', null, nov, '1'],
  ['5', 'South', 'tide', nov, '3'],
];

const shaped = (more: Partial<CrosstabPane> = {}, order = byHeads, measure = count, records = answer) =>
  shapeCrosstab({ ...pane, ...more }, records, contextOf({ ...pane, ...more }, measure, order));

describe('numbers that are laid out', () => {
  test('stand under what they belong to, with each total in its place and blanks as a value', () => {
    const { rows, columns, cells } = shaped();
    expect(rows.map(({ values }) => values)).toEqual([
      ['North'],
      ['North', 'fog'],
      ['North', null],
      ['South'],
      ['South', 'tide'],
      [],
    ]);
    expect(columns.map(({ values }) => values)).toEqual([[oct], [nov], []]);
    expect(cells).toEqual([
      ['4', '2', '6'],
      ['4', '1', '5'],
      ['0', '1', '1'],
      ['0', '3', '3'],
      ['0', '3', '3'],
      ['4', '5', '9'],
    ]);
    expect(rows.map(({ children }) => children)).toEqual([2, 0, 0, 1, 0, 2]);
  });

  test('are blank where a measure has no value without records', () => {
    expect(shaped({}, byHeads, median).cells[2]).toEqual([null, '1', '1']);
  });

  test('of a month that is still running say so', () => {
    expect(shaped().columns.map(({ partial }) => partial)).toEqual([undefined, 'so far', undefined]);
  });

  test('are in order by any column, within what they belong to, and blanks come last both ways', () => {
    const order = (along: Cell[], descending: boolean) =>
      shaped({}, { measure: 0, descending, along }).rows.map(({ values }) => values.join('/'));
    expect(order([], true)).toEqual(['North', 'North/fog', 'North/', 'South', 'South/tide', '']);
    expect(order([nov], true)).toEqual(['South', 'South/tide', 'North', 'North/fog', 'North/', '']);
    expect(order([], false).slice(0, 2)).toEqual(['South', 'South/tide']);
    const heads = shaped({}, { measure: null, descending: true, along: [] });
    expect(heads.rows.map(({ values }) => values.join('/'))).toEqual([
      'South',
      'South/tide',
      'North',
      'North/fog',
      'North/',
      '',
    ]);
  });
});

describe('shares', () => {
  test('are of their row, their column or the whole, and each of a total is one', () => {
    const last = (way: CrosstabPane['cells']) => shaped({ cells: way }).cells;
    expect(last('row share')[0]).toEqual(['0.666666666667', '0.333333333333', '1']);
    expect(last('column share').map(([cell]) => cell)).toEqual(['1', '1', '0', '0', '0', '1']);
    expect(last('whole share').at(-1)).toEqual(['0.444444444444', '0.555555555556', '1']);
  });

  test('of nothing are blank, never an error', () => {
    const none = answer.map((record) => [...record.slice(0, 4), '0']);
    expect(shaped({ cells: 'row share' }, byHeads, count, none).cells[0]).toEqual([null, null, null]);
  });
});

test('the difference is from the column before, which the first and the total have none of', () => {
  expect(shaped({ cells: 'difference' }).cells[0]).toEqual([null, '-2', null]);
});

describe('the largest', () => {
  const top: Cell[][] = [
    ['0', null, null, null, null, '9'],
    ['2', false, 'North', null, null, '6'],
    ['2', true, null, null, null, '3'],
    ['4', true, null, 'tide', null, '3'],
  ];
  test('stand before the rest, which is closed up or opened like any other', () => {
    const { rows, cells } = shaped({ top: { count: 1, rest: true } }, byHeads, count, top);
    expect(rows.map(({ values, isRest }) => [isRest ?? false, ...values])).toEqual([
      [false, 'North'],
      [true, null],
      [true, null, 'tide'],
      [false],
    ]);
    expect(cells.at(-1)).toEqual(['9']);
  });

  test('may stand alone, and totals are of all records all the same', () => {
    const { rows, cells } = shaped({ top: { count: 1, rest: false } }, byHeads, count, top);
    expect(rows.map(({ values }) => values)).toEqual([['North'], []]);
    expect(cells.at(-1)).toEqual(['9']);
  });
});

test('of more numbers than can be shown none is missing in between: the finest are left out', () => {
  const routes: Cell[][] = Array.from({ length: mostNumbers - 5 }, (_, at) => [
    '2',
    `R${at}`,
    null,
    null,
    '1',
  ]);
  const crossed: Cell[][] = Array.from({ length: 10 }, (_, at) => ['3', `R${at}`, null, oct, '1']);
  const records: Cell[][] = [
    ['0', null, null, null, '59995'],
    ['1', null, null, oct, '59995'],
    ...routes,
    ...crossed,
  ];
  const { rows, columns, cells, isCut } = shaped({}, byHeads, count, records);
  expect(isCut).toBe(true);
  expect(rows).toHaveLength(routes.length + 1);
  expect(columns.map(({ values }) => values)).toEqual([[oct], []]);
  // What is not known is blank, and never a zero.
  expect(cells[0]).toEqual([null, '1']);
});

test('without records there is nothing to lay out', () => {
  expect(shaped({}, byHeads, count, []).cells).toEqual([]);
});

test('months without records stand between those that have some, up to this one; of rows as of columns', () => {
  const [aug, dec] = ['2026-08-01', '2026-12-01'];
  const records: Cell[][] = [
    ['0', null, null, '9'],
    ['1', null, aug, '4'],
    ['1', null, dec, '5'],
    ['2', 'North', null, '9'],
    ['3', 'North', aug, '4'],
    ['3', 'North', dec, '5'],
  ];
  const { columns, cells } = shaped({ down: [{ field: 'route' }] }, byHeads, count, records);
  expect(columns.map(({ values }) => values[0])).toEqual([
    aug,
    '2026-09-01',
    '2026-10-01',
    '2026-11-01',
    dec,
    undefined,
  ]);
  expect(cells).toEqual([
    ['4', '0', '0', '0', '5', '9'],
    ['4', '0', '0', '0', '5', '9'],
  ]);
});
