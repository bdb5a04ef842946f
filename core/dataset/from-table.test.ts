import { describe, expect, test } from 'vitest';
import type { FoundTable } from './found.ts';
import { dataSetFromTable, nounsOf, titleColumn, usualChoice } from './from-table.ts';
import { DataSet } from './schema.ts';

const column = (name: string, type: FoundTable['columns'][number]['type'] = 'text', more: object = {}) => ({
  name,
  sourceType: type,
  type,
  mayBeBlank: true,
  comment: null,
  ...more,
});
const table = (name: string, columns: FoundTable['columns'], more: Partial<FoundTable> = {}): FoundTable => ({
  schema: 'public',
  name,
  kind: 'table',
  about: 10,
  comment: null,
  columns,
  key: ['id'],
  foreignKeys: [],
  ...more,
});

const routes = table('routes', [
  column('id', 'integer', { mayBeBlank: false }),
  column('name'),
  column('minutes', 'integer'),
]);
const sailings = table(
  'sailings',
  [
    column('id', 'integer', { mayBeBlank: false }),
    column('reference'),
    column('route_id', 'integer'),
    column('back_route_id', 'integer'),
    column('note', 'text', { comment: 'Typed by hand' }),
    column('at', 'instant', { read: 'utc' }),
  ],
  {
    foreignKeys: [
      { columns: ['route_id'], schema: 'public', table: 'routes', keys: ['id'] },
      { columns: ['back_route_id'], schema: 'public', table: 'routes', keys: ['id'] },
      { columns: ['a', 'b'], schema: 'public', table: 'routes', keys: ['id', 'minutes'] },
    ],
  },
);
const tables = [routes, sailings];
const source = '5a1e0000-0000-4000-8000-000000000001';
const make = (choice = usualChoice(sailings, tables)): DataSet =>
  dataSetFromTable(source, sailings, tables, choice);

describe('a data set of a table', () => {
  test('takes every column at first, and the name behind each single foreign key', () => {
    expect(usualChoice(sailings, tables).lookUps).toEqual([
      { by: 'route_id', take: ['name'] },
      { by: 'back_route_id', take: ['name'] },
    ]);
  });

  test('is valid as it stands', () => {
    expect(DataSet.safeParse(make()).error).toBeUndefined();
  });

  test('names what is looked up after the column that leads to it', () => {
    expect(make().fields.map(({ name }) => name)).toEqual([
      'id',
      'reference',
      'route_id',
      'back_route_id',
      'note',
      'at',
      'route',
      'back_route',
    ]);
  });

  test('hides the number that leads to a name, and knows what it points at', () => {
    const field = make().fields.find(({ name }) => name === 'route_id');
    expect(field).toMatchObject({
      hidden: true,
      refers: 'public.routes.id',
      origin: 'public.sailings.route_id',
    });
  });

  test('shows the number when its name is not looked up', () => {
    const field = make({ columns: ['id', 'route_id'], lookUps: [] }).fields.find(
      ({ name }) => name === 'route_id',
    );
    expect(field?.hidden).toBeUndefined();
  });

  test('gives two columns of one name different names', () => {
    const clash = table('sailings', [...sailings.columns, column('route')], {
      foreignKeys: sailings.foreignKeys,
    });
    const names = dataSetFromTable(
      source,
      clash,
      [routes, clash],
      usualChoice(clash, [routes, clash]),
    ).fields.map(({ name }) => name);
    expect(new Set(names).size).toBe(names.length);
    expect(names).toContain('route_2');
  });

  test('knows its key and the field that names a record', () => {
    expect(make()).toMatchObject({
      key: 'id',
      title: 'reference',
      noun: { one: 'sailing', many: 'sailings' },
    });
  });

  test('has no key where the key is of several columns or was left out', () => {
    expect(make({ columns: ['reference'], lookUps: [] }).key).toBeUndefined();
    const two = { ...sailings, key: ['id', 'reference'] };
    expect(dataSetFromTable(source, two, tables, usualChoice(two, tables)).key).toBeUndefined();
  });

  test('says of each column how it is read and whether it is ever blank', () => {
    const { request } = make();
    const found = request.kind === 'table' ? request.columns : [];
    expect(found.find(({ name }) => name === 'id')).toMatchObject({ filled: true });
    expect(found.find(({ name }) => name === 'at')).toMatchObject({ read: 'utc' });
    // What is looked up may find nothing, so it is never sure to be filled.
    expect(request.kind === 'table' && request.lookUps[0]?.take[0]).not.toHaveProperty('filled');
  });

  test('keeps what the source says of a column', () => {
    expect(make().fields.find(({ name }) => name === 'note')?.description).toBe('Typed by hand');
  });
});

test.each([
  ['sailings', 'sailing', 'sailings'],
  ['work_orders', 'work order', 'work orders'],
  ['ferries', 'ferry', 'ferries'],
  ['passes', 'pass', 'passes'],
  ['branches', 'branch', 'branches'],
  ['crew', 'crew record', 'crew records'],
])('the table %s holds one %s, several %s', (name, one, many) => {
  expect(nounsOf(name)).toEqual({ one, many });
});

test('a record is named by what names are called, before any other text', () => {
  expect(titleColumn(table('x', [column('note'), column('vessel_name')]))?.name).toBe('vessel_name');
  expect(titleColumn(table('x', [column('note'), column('title')]))?.name).toBe('title');
  expect(titleColumn(table('x', [column('n', 'integer')]))).toBeUndefined();
});
