import { expect, test } from 'vitest';
import { fromTable, recordsOf } from '#testing/plans.ts';
import { barOf, footingsOf, footPlan } from './foot.ts';

const fields = [
  { name: 'route', type: 'text' as const },
  { name: 'delay', type: 'integer' as const },
  { name: 'code', type: 'integer' as const, format: { kind: 'id' as const } },
];
const list = recordsOf(fromTable('sailing', fields), { fields: ['route', 'delay'], offset: 20 });

test('a foot is asked of all records of the list, whatever page is shown, and only where a column can have it', () => {
  const foot = footPlan(
    [
      { field: 'route', foot: 'sum' },
      { field: 'delay', foot: 'average', bar: true },
      { field: 'gone', foot: 'sum', bar: true },
    ],
    fields,
    list,
  );
  expect(foot?.plan).toMatchObject({ kind: 'groups', by: [], where: { all: [] } });
  expect(foot?.plan.measures.map(({ calculation }) => calculation)).toEqual([
    { kind: 'average', field: 'delay' },
    { kind: 'least', field: 'delay' },
    { kind: 'greatest', field: 'delay' },
  ]);
  expect(foot?.shape(['4.5', '-3', '41'])).toEqual({
    feet: { delay: { footing: 'average', value: '4.5', type: 'decimal' } },
    spans: { delay: { least: '-3', greatest: '41' } },
  });
  expect(footPlan([{ field: 'delay' }], fields, list)).toBeNull();
});

test('identifiers are not added up; what is no number can only be told apart', () => {
  expect(footingsOf({ type: 'integer' })).toContain('sum');
  expect(footingsOf({ type: 'integer', format: { kind: 'id' } })).toEqual(['distinct']);
  expect(footingsOf({ type: 'text' })).toEqual(['distinct']);
  expect(footingsOf({ type: 'instant' })).toEqual(['least', 'greatest', 'distinct']);
});

test('bars begin at nothing and share one scale: what is below it goes to the other side', () => {
  const span = { least: '-10', greatest: '30' };
  expect(barOf('30', span)).toEqual({ from: 0.25, length: 0.75 });
  expect(barOf('-10', span)).toEqual({ from: 0, length: 0.25 });
  expect(barOf('15', { least: '5', greatest: '30' })).toEqual({ from: 0, length: 0.5 });
  for (const cell of [null, '0', 'NaN', 'Infinity']) expect(barOf(cell, span)).toBeNull();
  expect(barOf('1', { least: null, greatest: null })).toBeNull();
  expect(barOf('1', { least: '0', greatest: 'Infinity' })).toBeNull();
});
