import { describe, expect, test } from 'vitest';
import type { FoundTable } from '#core/dataset/found.ts';
import { dataSetFromTable, usualChoice } from '#core/dataset/from-table.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Trial } from '#sources/kind.ts';
import { choiceOf, emptySql, withChoice, withText, withTrial } from './data-set-state.ts';

const column = (name: string, type: 'text' | 'integer' = 'text') => ({
  name,
  sourceType: type,
  type,
  mayBeBlank: true,
  comment: null,
});
const routes: FoundTable = {
  schema: 'public',
  name: 'routes',
  kind: 'table',
  about: 6,
  comment: null,
  columns: [column('id', 'integer'), column('name'), column('minutes', 'integer')],
  key: ['id'],
  foreignKeys: [],
};
const sailings: FoundTable = {
  ...routes,
  name: 'sailings',
  columns: [column('id', 'integer'), column('reference'), column('route_id', 'integer'), column('cause')],
  foreignKeys: [{ columns: ['route_id'], schema: 'public', table: 'routes', keys: ['id'] }],
};
const tables = [routes, sailings];
const source = '5a1e0000-0000-4000-8000-000000000001';
const made = dataSetFromTable(source, sailings, tables, usualChoice(sailings, tables));
const names = ({ fields }: DataSet): string[] => fields.map(({ name }) => name);

describe('choosing columns', () => {
  test('reads back the choice that a request was made from', () => {
    expect(choiceOf(made)).toEqual(usualChoice(sailings, tables));
  });

  test('keeps what was said of a field, and the order it had', () => {
    const edit: DataSet = {
      ...made,
      fields: [...made.fields]
        .reverse()
        .map((field) => (field.name === 'cause' ? { ...field, label: 'Why' } : field)),
    };
    const choice = choiceOf(edit);
    const next = withChoice(edit, sailings, tables, {
      ...choice,
      columns: choice.columns.filter((name) => name !== 'reference'),
    });
    expect(names(next)).toEqual(['route', 'cause', 'route_id', 'id']);
    expect(next.fields.find(({ name }) => name === 'cause')?.label).toBe('Why');
  });

  test('puts a field that is new behind those that were there', () => {
    const choice = choiceOf(made);
    const next = withChoice(made, sailings, tables, {
      ...choice,
      lookUps: [{ by: 'route_id', take: ['name', 'minutes'] }],
    });
    expect(names(next).at(-1)).toBe('route_minutes');
  });

  test('lets go of a title that was left out, for the next best', () => {
    const next = withChoice(made, sailings, tables, { columns: ['id', 'cause'], lookUps: [] });
    expect(next.title).toBeUndefined();
    expect(next.key).toBe('id');
  });

  test('keeps the measures and the noun', () => {
    const own: DataSet = { ...made, noun: { one: 'crossing', many: 'crossings' } };
    const next = withChoice(own, sailings, tables, { columns: ['id'], lookUps: [] });
    expect(next.noun.many).toBe('crossings');
    expect(next.measures).toEqual(own.measures);
  });
});

describe('writing SQL', () => {
  const start = emptySql(source);

  test('finds inputs as they are typed, and keeps what was said of them', () => {
    const one = withText(start, 'SELECT 1 WHERE 1 > :least');
    expect(one.inputs).toEqual([{ name: 'least', type: 'text', required: true }]);
    const edit = {
      ...one,
      inputs: [{ name: 'least', type: 'integer' as const, required: false, sample: '5' }],
    };
    const more = withText(edit, 'SELECT 1 WHERE 1 > :least AND :other');
    expect(more.inputs).toEqual([
      { name: 'least', type: 'integer', required: false, sample: '5' },
      { name: 'other', type: 'text', required: true },
    ]);
  });

  test('drops an input that is no longer in the text', () => {
    expect(withText(withText(start, 'SELECT :a'), 'SELECT 1').inputs).toEqual([]);
  });

  test('takes the fields from what was tried, and keeps their labels', () => {
    const tried: Trial = {
      request: {
        kind: 'sql',
        text: 'SELECT id, reference FROM sailings',
        columns: [
          { column: 'id', name: 'id', type: 'integer' },
          { column: 'reference', name: 'reference', type: 'text' },
        ],
      },
      fields: [
        { name: 'id', type: 'integer', origin: 'public.sailings.id' },
        { name: 'reference', type: 'text' },
      ],
      records: [],
      took: 1,
      more: false,
    };
    const first = withTrial(withText(start, 'SELECT id, reference FROM sailings'), tried);
    expect(names(first)).toEqual(['id', 'reference']);
    const labelled = {
      ...first,
      key: 'id',
      title: 'gone',
      fields: first.fields.map((field) => (field.name === 'id' ? { ...field, label: 'Number' } : field)),
    };
    const again = withTrial(labelled, tried);
    expect(again.fields[0]).toMatchObject({ label: 'Number', origin: 'public.sailings.id' });
    expect(again.key).toBe('id');
    expect(again.title).toBeUndefined();
  });
});
