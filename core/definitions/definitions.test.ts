import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { dashboard, ids, incidents, sailings } from '#testing/skerry.ts';
import { DefinitionsFile, fileFormat, fileText, readDefinitions } from './file.ts';
import { dataSetChanges, review } from './review.ts';

const source = '5a1e0000-0000-4000-8000-00000000000a';
const board = '5a1e0000-0000-4000-8000-0000000000b0';
const file: DefinitionsFile = {
  format: fileFormat,
  version: 1,
  sources: [{ id: source, name: 'Sound', connection: { kind: 'postgres', host: 'h' } }],
  dataSets: [
    { id: ids.sailings, name: 'Sailings', definition: { ...sailings, source } },
    { id: ids.incidents, name: 'Incidents', definition: { ...incidents, source } },
  ],
  dashboards: [{ id: board, slug: 'morning', group: '', definition: dashboard }],
};
const read = (raw: unknown) => readDefinitions(typeof raw === 'string' ? raw : JSON.stringify(raw));
const why = (raw: unknown): string => {
  const found = read(raw);
  return found.ok ? '' : found.why.join(' ');
};

describe('a file of definitions', () => {
  test('says the same when it is read as when it was written, in one text whatever the order', () => {
    const text = fileText(file);
    expect(read(text)).toEqual({ ok: true, file });
    const turned: DefinitionsFile = {
      ...file,
      dataSets: [...file.dataSets].reverse().map(({ id, name, definition }) => ({
        definition: Object.fromEntries(Object.entries(definition).reverse()) as unknown as DataSet,
        name,
        id,
      })),
    };
    expect(fileText(turned)).toBe(text);
    expect(text.endsWith('}\n')).toBe(true);
    // A line for each value, so that a difference is one of lines.
    expect(Math.max(...text.split('\n').map((line) => line.length))).toBeLessThan(500);
  });

  test.each([
    ['no JSON', '{', 'This is not JSON, or it was cut off.'],
    ['half of it', fileText(file).slice(0, 4000), 'This is not JSON, or it was cut off.'],
    ['something else', [1, 2], 'This is not a file of definitions.'],
    ['nothing', null, 'This is not a file of definitions.'],
    ['a later version', { ...file, version: 2 }, 'The file is of version 2'],
    ['another format', { ...file, format: 'x' }, 'This is not a file of definitions.'],
    [
      'an id twice',
      { ...file, dashboards: [...file.dashboards, ...file.dashboards] },
      'stands in the file twice',
    ],
    [
      'a pane of an unknown kind',
      {
        ...file,
        dashboards: [
          { ...file.dashboards[0], definition: { ...dashboard, panes: [{ kind: 'oracle', id: 'x' }] } },
        ],
      },
      'The dashboard “morning”: panes › 0',
    ],
    [
      'ten thousand panes',
      {
        ...file,
        dashboards: [
          {
            ...file.dashboards[0],
            definition: {
              ...dashboard,
              panes: Array.from({ length: 10_000 }, (_, at) => ({ ...dashboard.panes[0], id: `p${at}` })),
            },
          },
        ],
      },
      'The dashboard “morning”: panes',
    ],
    [
      'a data set of a later version',
      { ...file, dataSets: [{ ...file.dataSets[0], definition: { ...sailings, version: 9 } }] },
      'The data set “Sailings”: the data set has version 9',
    ],
    [
      'names that are objects',
      { ...file, sources: [{ id: source, name: {}, connection: {} }] },
      'The file cannot be read',
    ],
    [
      'a prototype',
      '{"__proto__": {"format": "slate-glass/definitions"}}',
      'This is not a file of definitions.',
    ],
  ])('says what is wrong with %s', (_, raw, expected) => {
    expect(why(raw)).toContain(expected);
  });

  test('nests no deeper than a condition may, and says so without running out of anything', () => {
    const deep = `${'{"all":['.repeat(20_000)}${']}'.repeat(20_000)}`;
    const text = fileText(file).replace('"version": 1', '"version": 1').replace('"keeping": ', '"ignored": ');
    const raw = JSON.parse(text);
    raw.dataSets[0].definition.keeping = 'HERE';
    expect(why(JSON.stringify(raw).replace('"HERE"', deep))).toContain('nested');
  });

  test('is described by the schema that is published', async () => {
    const schema = z.toJSONSchema(DefinitionsFile, { io: 'input', unrepresentable: 'any', reused: 'ref' });
    await expect(`${JSON.stringify(schema, null, 2)}\n`).toMatchFileSnapshot(
      '../../docs/definitions.schema.json',
    );
  });
});

describe('a review', () => {
  const present = (dataSets: Record<string, DataSet> = {}, dashboards: Record<string, Dashboard> = {}) => ({
    dataSets: new Map(
      Object.entries(dataSets).map(([id, definition]) => [id, { name: 'Sailings', definition }]),
    ),
    dashboards: new Map(Object.entries(dashboards)),
  });
  const chosen = new Map([[source, source]]);
  const states = (items: ReturnType<typeof review>) => items.map(({ name, state }) => `${name}: ${state}`);

  test('tells what is new, changed and the same, with the differences in sentences', () => {
    expect(states(review(file, present(), chosen))).toEqual([
      'Sailings: new',
      'Incidents: new',
      `${dashboard.title}: new`,
    ]);
    const same = { ...sailings, source };
    expect(states(review(file, present({ [ids.sailings]: same }, { [board]: dashboard }), chosen))).toEqual([
      'Sailings: same',
      'Incidents: new',
      `${dashboard.title}: same`,
    ]);
    const [item] = review(
      file,
      present({
        [ids.sailings]: { ...same, measures: [], rowRule: { field: 'id', test: { op: 'filled' } } },
      }),
      chosen,
    );
    expect(item).toMatchObject({
      state: 'changed',
      changes: ['Its measures changed.', 'Who sees which records changed.'],
    });
    // Another source is a difference too.
    const [moved] = review(file, present({ [ids.sailings]: same }), new Map([[source, ids.incidents]]));
    expect(moved?.changes).toEqual(['It comes from another source.']);
  });

  test('finds what cannot be: what is missing, leads back to itself, or has lost its fields', () => {
    const of = (id: string, to: string, more: Partial<DataSet> = {}) => ({
      id,
      name: id.slice(-2),
      definition: {
        ...sailings,
        source,
        request: { kind: 'of' as const, dataSet: to, columns: [] },
        ...more,
      } as DataSet,
    });
    const [a, b] = ['5a1e0000-0000-4000-8000-0000000000a1', '5a1e0000-0000-4000-8000-0000000000a2'];
    const problems = (dataSets: DefinitionsFile['dataSets']) =>
      review({ ...file, dataSets, dashboards: [] }, present(), chosen).map((item) => item.problems[0]);
    expect(problems([of(a, b), of(b, a)])).toEqual([
      'It leads back to itself, through the data sets that it looks up.',
      'It leads back to itself, through the data sets that it looks up.',
    ]);
    expect(problems([of(a, a)])[0]).toContain('leads back to itself');
    expect(problems([of(a, b)])[0]).toContain('neither here nor in the file');
    expect(
      problems([
        {
          id: a,
          name: 'a',
          definition: {
            ...sailings,
            source,
            subsets: [{ name: 's', label: 's', where: { field: 'gone', test: { op: 'filled' } } }],
          },
        },
      ])[0],
    ).toContain('gone');
    const [only] = review({ ...file, dataSets: [] }, present(), chosen);
    expect(only?.problems).toEqual(['It shows a data set that is neither here nor in the file.']);
  });

  test('says of words alone that they changed', () => {
    expect(dataSetChanges(sailings, sailings)).toEqual([]);
    expect(dataSetChanges(sailings, { ...sailings, noun: { one: 'trip', many: 'trips' } })).toEqual([
      'Its words or names changed.',
    ]);
  });
});
