import { expect, test } from 'vitest';
import { ids, incidents, sailings, tableDataSet } from '#testing/skerry.ts';
import { proposedMeanings } from './meanings.ts';
import type { DataSet } from './schema.ts';

const elsewhere = '5a1e0000-0000-4000-8000-00000000000f';
const scans: DataSet = tableDataSet(
  'scans',
  'scan',
  [
    { name: 'id', type: 'integer' },
    { name: 'passageRef', type: 'text' },
    { name: 'gate', type: 'text' },
  ],
  { source: elsewhere },
);
const passages = (refers?: string): DataSet =>
  tableDataSet('passages', 'passage', [{ name: 'ref', type: 'text', ...(refers ? { refers } : {}) }], {
    key: 'ref',
  });
const pair = { field: 'passageRef', dataSet: 'p', other: 'ref', overlap: 0.98 };
const among = (there: DataSet, one = pair) => proposedMeanings(scans, [one], new Map([['p', there]]));

test('what identifies the records is proposed to be said by what one of them is called', () => {
  expect(proposedMeanings(scans, [], new Map())).toEqual([
    { field: 'id', refers: 'scan', noun: { one: 'scan', many: 'scans' } },
  ]);
  expect(proposedMeanings({ ...scans, noun: { one: 'record', many: 'records' } }, [], new Map())).toEqual([]);
  const { key: _, ...without } = scans;
  expect(proposedMeanings(without, [], new Map())).toEqual([]);
});

test('a field whose values identify other records is proposed to point at them', () => {
  expect(among(passages('passage'))[1]).toEqual({
    field: 'passageRef',
    refers: 'passage',
    noun: { one: 'passage', many: 'passages' },
    found: { dataSet: 'p', overlap: 0.98 },
  });
});

test('where the other records do not say what identifies them, that is said to be missing', () => {
  expect(among(passages())[1]).toMatchObject({ field: 'passageRef', refers: null });
});

test('is nothing by chance, by a field that identifies nothing, by a column of another source, or where something is said', () => {
  expect(among(passages('passage'), { ...pair, overlap: 0.2 })).toHaveLength(1);
  expect(among({ ...passages('passage'), key: 'id' })).toHaveLength(1);
  expect(among(passages('public.passages.ref'))).toHaveLength(1);
  const world = new Map([[ids.sailings, sailings]]);
  expect(
    proposedMeanings(
      incidents,
      [{ field: 'sailing_id', dataSet: ids.sailings, other: 'id', overlap: 1 }],
      world,
    ),
  ).toEqual([]);
});
