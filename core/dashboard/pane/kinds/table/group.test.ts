import { expect, test } from 'vitest';
import { fromTable, recordsOf } from '#testing/plans.ts';
import { groupName, headsPlan } from './group.ts';

const fields = [
  { name: 'route', type: 'text' as const },
  { name: 'delay', type: 'integer' as const },
];
const list = recordsOf(fromTable('sailing', fields), {
  fields: ['route', 'delay'],
  where: { field: 'delay', test: { op: 'atLeast', value: '5' } },
  offset: 20,
  limit: 10,
});
const columns = [{ field: 'route' }, { field: 'delay', foot: 'sum' as const, bar: true }];

test('heads are of all records that the table has of the values in view, and of no others', () => {
  const heads = headsPlan('route', ['North', 'North', null], columns, fields, list);
  expect(heads.plan).toMatchObject({
    kind: 'groups',
    by: [{ field: 'route' }],
    where: { all: [list.where, { field: 'route', test: { op: 'is', values: ['North', null] } }] },
  });
  expect(heads.plan.measures.map(({ calculation }) => calculation)).toEqual([
    { kind: 'count' },
    { kind: 'sum', field: 'delay' },
  ]);
});

test('a head says how many records it is of, and what stands below the columns for those', () => {
  const heads = headsPlan('route', ['North', null], columns, fields, list);
  expect(
    heads.shape([
      ['North', '12', '340'],
      [null, '1', null],
    ]),
  ).toEqual([
    { value: 'North', count: '12', feet: { delay: { footing: 'sum', value: '340', type: 'integer' } } },
    { value: null, count: '1', feet: { delay: { footing: 'sum', value: null, type: 'integer' } } },
  ]);
});

test('a blank is told from the word', () => {
  expect(groupName(null)).not.toBe(groupName('blank'));
  expect(groupName(true)).toBe('is true');
});
