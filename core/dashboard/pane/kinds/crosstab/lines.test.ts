import { expect, test } from 'vitest';
import { headsOf } from './heads.ts';
import { isOpen, linesInView, withAll, withTurned } from './lines.ts';
import type { Line } from './shape.ts';

const line = (children: number, ...values: string[]): Line => ({ values, children });
const rows = [
  line(2, 'North'),
  line(1, 'North', 'fog'),
  line(0, 'North', 'fog', 'am'),
  line(0, 'North', 'tide'),
  line(1, 'South'),
  line(0, 'South', 'fog'),
  line(2),
];
const seen = (turned: Iterable<string>) =>
  linesInView('down', rows, new Set(turned)).map(({ line: { values } }) => values.join('/'));

test('what belongs to a closed row is out of view, and the others stay', () => {
  const [north, fog] = rows as [Line, Line];
  const one = withTurned(new Set(), 'down', fog);
  expect(seen(one)).toEqual(['North', 'North/fog', 'North/tide', 'South', 'South/fog', '']);
  const both = withTurned(new Set(one), 'down', north);
  expect(seen(both)).toEqual(['North', 'South', 'South/fog', '']);
  expect(seen(withTurned(new Set(both), 'down', north))).toEqual(seen(one));
});

test('all are closed or opened at once, and one by one after that; the other side stays as it is', () => {
  const across = withTurned(new Set(), 'across', line(2, 'Oct'));
  const closed = withAll(new Set(across), 'down', false);
  expect(seen(closed)).toEqual(['North', 'South', '']);
  const [north] = rows as [Line];
  const opened = new Set(withTurned(new Set(closed), 'down', north));
  expect(seen(opened)).toEqual(['North', 'North/fog', 'North/tide', 'South', '']);
  expect(isOpen('across', line(2, 'Oct'), opened)).toBe(false);
  expect(seen(withAll(opened, 'down', true))).toHaveLength(rows.length);
});

test('each level over the columns has one head for what belongs together, and totals reach down to the numbers', () => {
  const columns = [line(0, '2026', 'Oct'), line(0, '2026', 'Nov'), line(2, '2026'), line(1)].map(
    (each, at) => ({ line: each, at }),
  );
  expect(headsOf(columns, 2)).toEqual([
    [
      { from: 0, columns: 3, rows: 1, depth: 1 },
      { from: 3, columns: 1, rows: 2, depth: null },
    ],
    [
      { from: 0, columns: 1, rows: 1, depth: 2 },
      { from: 1, columns: 1, rows: 1, depth: 2 },
      { from: 2, columns: 1, rows: 1, depth: null },
    ],
  ]);
});
