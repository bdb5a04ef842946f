import fc from 'fast-check';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { ChartBody } from '#core/dashboard/pane/kinds/chart/kind.ts';
import type { CrosstabBody } from '#core/dashboard/pane/kinds/crosstab/kind.ts';
import { groupName, groupValue } from '#core/dashboard/pane/kinds/table/group.ts';
import type { TableBody } from '#core/dashboard/pane/kinds/table/kind.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { emptyScope } from '#core/dashboard/scope/state.ts';
import type { Cell } from '#core/value/field/value.ts';
import { zone } from '#demo/line.ts';
import { place } from '#testing/skerry.ts';
import { soundFixture } from '../../testing/sound.ts';
import { exportList } from '../export/export.ts';
import { openBehind } from './drill.ts';
import { runPane } from './run.ts';

/* A chart, a crosstab, a table, the file of it and what is behind a number: of the same question they say the same. */

const now = new Date('2026-11-23T12:00:00Z');
let sound: Awaited<ReturnType<typeof soundFixture>>;
beforeAll(async () => {
  sound = await soundFixture(now);
});
afterAll(() => sound.end());

const daily = { field: 'departs_at', unit: 'day' } as const;

const question = fc.record({
  by: fc.constantFrom('status', 'vessel', 'route', 'master', 'delay_minutes'),
  measure: fc.constantFrom(
    'count',
    'on_time',
    'late',
    'passengers',
    'fares',
    'average_delay',
    'median_delay',
  ),
  period: fc.constantFrom<NonNullable<Extract<Pane, { kind: 'table' }>['when']>>(
    { field: 'departs_at', period: { kind: 'last', count: 3, unit: 'day' } },
    { field: 'departs_at', period: { kind: 'this', unit: 'month' } },
    { field: 'departs_at', period: { kind: 'next', count: 2, unit: 'day' } },
  ),
  least: fc.constantFrom(null, '40', '180'),
});

/** Records of one group stand together, and its head says how many of them there are on all pages. `counted` by what groups are called. */
function expectGroupsToBeWhole(
  { records, fields, groups = [] }: TableBody,
  counted: ReadonlyMap<string, Cell>,
  zone: string,
): void {
  const paths = records.map((record) =>
    groups.map((group) => {
      const at = fields.findIndex(({ name }) => name === group.field.name);
      return groupValue(record[at] ?? null, group, zone);
    }),
  );
  for (const [level, { heads }] of groups.entries()) {
    const runs = paths
      .map((path) => groupName(path.slice(0, level + 1)))
      .filter((name, index, all) => index === 0 || name !== all[index - 1]);
    expect(new Set(runs).size).toBe(runs.length);
    const said = new Map(heads?.map(({ values, count }) => [groupName(values), count]));
    expect(runs.map((name) => [name, said.get(name)])).toEqual(runs.map((name) => [name, counted.get(name)]));
  }
}

/** One chart for each value, and one for the rest: each value has its place once, and each number is that of its records. */
async function expectChartsToBeOfAll({ each, data }: ChartBody, context: Context): Promise<void> {
  const charts = each?.charts ?? [];
  const named = charts.filter(({ rest }) => !rest);
  expect(named.filter(({ value }) => value !== null).length).toBeLessThanOrEqual(2);
  expect(charts.slice(0, -1).some(({ rest }) => rest)).toBe(false);
  for (const { value, rest, data: own } of charts) {
    const at = own.series[0]?.values.findIndex((number) => number !== null && number !== '0') ?? -1;
    if (at < 0) continue;
    const behind = await openBehind(
      {
        pane: 'each',
        values: [value, data.categories[at]?.value ?? null],
        ...(rest ? { restOf: named.flatMap((one) => (one.value === null ? [] : [one.value])) } : {}),
      },
      { page: 1 },
      context,
    );
    expect(behind.value).toBe(own.series[0]?.values[at]);
  }
}

test('whatever is asked, all ways to show it say the same numbers', async () => {
  const { ids, dataSets } = sound;
  await fc.assert(
    fc.asyncProperty(question, async ({ by, measure, period, least }) => {
      const shared = {
        title: 'Asked',
        place,
        dataSet: ids.sailings,
        when: period,
        ...(least === null
          ? {}
          : { keeping: { field: 'passengers', test: { op: 'atLeast' as const, value: least } } }),
      };
      const panes: Pane[] = [
        { ...shared, id: 'chart', kind: 'chart', mark: 'bars', measure, by: { field: by }, order: 'label' },
        {
          ...shared,
          id: 'crosstab',
          kind: 'crosstab',
          down: [{ field: by }],
          across: [{ field: 'departs_at', unit: 'day' }],
          measures: [measure, 'count'],
          cells: 'value',
          order: 'label',
        },
        {
          ...shared,
          id: 'table',
          kind: 'table',
          columns: [{ field: by }, { field: 'passengers', foot: 'sum' }],
          order: [],
          pageSize: 10,
        },
        {
          ...shared,
          id: 'grouped',
          kind: 'table',
          columns: [{ field: 'passengers', foot: 'sum' }],
          order: [{ by: 'passengers', descending: true }],
          groups: [{ field: by }],
          pageSize: 40,
        },
        { ...shared, id: 'days', kind: 'chart', mark: 'line', measure: 'count', by: daily, order: 'label' },
        {
          ...shared,
          id: 'daily',
          kind: 'table',
          columns: [{ field: by }, { field: 'passengers', foot: 'sum' }],
          order: [{ by: 'passengers' }],
          groups: [daily],
          pageSize: 40,
        },
        {
          ...shared,
          id: 'nested',
          kind: 'table',
          columns: [{ field: by }, { field: 'passengers', foot: 'sum' }],
          order: [{ by: 'passengers' }],
          groups: [daily, { field: by }],
          pageSize: 40,
        },
        {
          ...shared,
          id: 'each',
          kind: 'chart',
          mark: 'columns',
          measure,
          by: { field: 'departs_at', unit: 'day' },
          each: { field: by, count: 2, rest: true },
          order: 'label',
        },
      ];
      const context: Context = {
        dashboard: { version: 4, title: 'Agreeing', scope: [], panes } as unknown as Context['dashboard'],
        dataSets,
        scope: emptyScope,
        clock: { now, zone },
      };
      const [chart, crosstab, table, grouped, days, ofDays, nested, ofEach] = (await Promise.all(
        panes.map(async (pane) => {
          const result = await runPane({ pane, context });
          if (result.state !== 'ready') throw new Error(JSON.stringify(result));
          return result.body;
        }),
      )) as [ChartBody, CrosstabBody, TableBody, TableBody, ChartBody, TableBody, TableBody, ChartBody];

      const drawn = new Map<Cell, Cell>(
        chart.data.categories.map(({ value }, at) => [value, chart.data.series[0]?.values[at] ?? null]),
      );
      const totalAt = (row: number, which: number): Cell => crosstab.data.cells[row]?.at(which - 2) ?? null;
      const summed = new Map<Cell, Cell>(
        crosstab.data.rows.flatMap(({ values }, row) =>
          values.length === 1 ? [[values[0] ?? null, totalAt(row, 0)] as const] : [],
        ),
      );
      expect(summed).toEqual(drawn);

      const records = totalAt(crosstab.data.rows.length - 1, 1) ?? '0';
      expect(table.total).toBe(records);
      const file = await exportList(panes[2] as Pane, context, 'ndjson', new AbortController().signal);
      const lines = (await file.text()).split('\n').filter(Boolean);
      expect(String(lines.length)).toBe(records);

      for (const [value, number] of [...drawn].slice(0, 2)) {
        const behind = await openBehind({ pane: 'chart', values: [value] }, { page: 1 }, context);
        expect(behind.value).toBe(number);
      }
      const counted = new Map(
        crosstab.data.rows.map(({ values }, row) => [groupName(values), totalAt(row, 1)] as const),
      );
      expectGroupsToBeWhole(grouped, counted, zone);
      const countedByDay = new Map(
        days.data.categories.map(
          ({ value }, at) => [groupName([value]), days.data.series[0]?.values[at] ?? null] as const,
        ),
      );
      expectGroupsToBeWhole(ofDays, countedByDay, zone);
      const countedWithin = crosstab.data.rows.flatMap((row, at) =>
        crosstab.data.columns.map(
          (column, place) =>
            [
              groupName([...column.values, ...row.values]),
              crosstab.data.cells[at]?.[2 * place + 1] ?? null,
            ] as const,
        ),
      );
      expectGroupsToBeWhole(nested, new Map([...countedWithin, ...countedByDay]), zone);
      await expectChartsToBeOfAll(ofEach, context);
    }),
    { numRuns: 25 },
  );
});
