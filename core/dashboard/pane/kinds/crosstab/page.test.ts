import { expect, test } from 'vitest';
import type { CrosstabBody } from './kind.ts';
import { withAll } from './lines.ts';
import { crosstabPage } from './page.ts';

const text = (name: string) => ({ field: { name, type: 'text' as const, label: name } });
const body: CrosstabBody = {
  kind: 'crosstab',
  down: [text('Route'), text('Cause')],
  across: [{ field: { name: 'departs', type: 'instant', label: 'Departs' }, unit: 'month' }],
  measures: [
    { label: 'sailings', type: 'integer', isCount: true },
    { label: 'average delay', type: 'decimal', unit: 'min', isCount: false },
  ],
  data: {
    rows: [
      { values: ['North'], children: 1 },
      { values: ['North', null], children: 0 },
      { values: [], children: 1 },
    ],
    columns: [
      { values: ['2026-11-01'], children: 0, partial: 'so far' },
      { values: [], children: 1 },
    ],
    cells: [
      ['3', '4.5', '3', '4.5'],
      ['3', '4.5', '3', '4.5'],
      ['3', '4.5', '3', '4.5'],
    ],
    isCut: false,
  },
  order: { measure: null, descending: false, along: [] },
  noun: { one: 'sailing', many: 'sailings' },
};

test('a page has the heads and rows that are open, each under what it belongs to', () => {
  const page = crosstabPage(body, new Set(), 'UTC');
  expect(page.corner).toBe('Route › Cause');
  expect(page.heads).toEqual([
    [
      { words: 'Nov 2026 so far', from: 0, columns: 2, rows: 1 },
      { words: 'Total', from: 2, columns: 2, rows: 1 },
    ],
    ['sailings', 'average delay (min)', 'sailings', 'average delay (min)'].map((words, from) => ({
      words,
      from,
      columns: 1,
      rows: 1,
    })),
  ]);
  expect(page.rows.map(({ words, depth, isTotal }) => [words, depth, isTotal])).toEqual([
    ['North', 0, true],
    ['No cause', 1, false],
    ['Total', 0, true],
  ]);
  expect(page.rows[0]?.cells).toEqual(['3', '4.5', '3', '4.5']);
});

test('what is closed is left out', () => {
  const closed = new Set(withAll(new Set(), 'down', false));
  expect(crosstabPage(body, closed, 'UTC').rows.map(({ words }) => words)).toEqual(['North', 'Total']);
});
