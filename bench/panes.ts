/*
 * A page of twelve mixed panes over kept records, as a reader's browser has it: from a change of the scope until the last pane is
 * drawn, and until the next paint. Milliseconds of this machine.
 */
import { randomUUID } from 'node:crypto';
import { chromium } from '@playwright/test';
import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { demoPassword } from '#demo/people.ts';
import { closeColumnar } from '#server/kept/open.ts';
import { addDashboard, publish, removeDashboard } from '#server/store/dashboards.ts';
import { findDataSet, removeDataSet, saveDataSet } from '#server/store/data-sets.ts';
import { closeDatabase } from '#server/store/database.ts';
import { findDesk } from '#server/store/desks.ts';
import { chromiumLaunch } from '../scripts/browser.mjs';
import { median } from './measure.ts';
import { uploaded } from './uploaded.ts';

const origin = process.env.SLATE_URL ?? '';
const rows = Number(process.env.BENCH_KEPT_ROWS ?? 10_000_000);
const slug = 'bench-panes';
const turns = 9;

/** Scans of twelve gates, one every five seconds until now. */
const scans = (dataSet: string): Dashboard => {
  const chart = { kind: 'chart', dataSet, order: 'label' } as const;
  const card = { kind: 'card', dataSet, against: 'whole' } as const;
  return {
    version: 4,
    title: 'Twelve panes',
    scope: [
      { name: 'gate', many: 'gates', offer: 'values', dataSet, field: 'gate' },
      {
        name: 'scanned',
        many: 'times',
        lead: 'scanned',
        offer: 'dates',
        dataSet,
        field: 'scanned_at',
        initially: { op: 'during', period: { kind: 'last', count: 28, unit: 'day' } },
      },
    ],
    panes: [
      { ...card, id: 'pane-1', title: 'Scans', measure: 'count', place: { x: 0, y: 0, w: 3, h: 3 } },
      { ...card, id: 'pane-2', title: 'Refused', measure: 'refused', place: { x: 3, y: 0, w: 3, h: 3 } },
      { ...card, id: 'pane-3', title: 'Fares', measure: 'fares', place: { x: 6, y: 0, w: 3, h: 3 } },
      { ...card, id: 'pane-4', title: 'Nine in ten', measure: 'slow', place: { x: 9, y: 0, w: 3, h: 3 } },
      {
        ...chart,
        id: 'pane-5',
        title: 'Day by day',
        mark: 'columns',
        measure: 'count',
        by: { field: 'scanned_at', unit: 'day' },
        split: 'outcome',
        place: { x: 0, y: 3, w: 6, h: 6 },
      },
      {
        ...chart,
        id: 'pane-6',
        title: 'Fares by gate',
        mark: 'bars',
        measure: 'fares',
        by: { field: 'gate' },
        place: { x: 6, y: 3, w: 3, h: 6 },
      },
      {
        ...chart,
        id: 'pane-7',
        title: 'Outcomes',
        mark: 'pie',
        measure: 'count',
        by: { field: 'outcome' },
        place: { x: 9, y: 3, w: 3, h: 6 },
      },
      {
        ...chart,
        id: 'pane-8',
        title: 'Refused, week by week',
        mark: 'line',
        measure: 'refused',
        by: { field: 'scanned_at', unit: 'week' },
        place: { x: 0, y: 9, w: 6, h: 6 },
      },
      {
        kind: 'crosstab',
        id: 'pane-9',
        title: 'By weekday and hour',
        dataSet,
        down: [{ field: 'scanned_at', cycle: 'weekday' }],
        across: [{ field: 'scanned_at', cycle: 'hourOfDay' }],
        measures: ['count'],
        cells: 'value',
        order: 'label',
        place: { x: 6, y: 9, w: 6, h: 6 },
      },
      {
        kind: 'crosstab',
        id: 'pane-10',
        title: 'By gate and outcome',
        dataSet,
        down: [{ field: 'gate' }, { field: 'outcome' }],
        across: [],
        measures: ['count', 'fares'],
        cells: 'value',
        order: 'label',
        place: { x: 0, y: 15, w: 4, h: 8 },
      },
      {
        kind: 'table',
        id: 'pane-11',
        title: 'Latest first',
        dataSet,
        columns: [{ field: 'scanned_at' }, { field: 'gate' }, { field: 'outcome' }, { field: 'fare' }],
        order: [{ by: 'scanned_at', descending: true }],
        pageSize: 20,
        place: { x: 4, y: 15, w: 8, h: 8 },
      },
      {
        kind: 'record-cards',
        id: 'pane-12',
        title: 'Dearest first',
        dataSet,
        fields: ['gate', 'outcome', 'fare'],
        order: [{ by: 'fare', descending: true }],
        pageSize: 12,
        place: { x: 0, y: 23, w: 12, h: 8 },
      },
    ],
  };
};

const dataSet = await uploaded(
  'Bench panes',
  `SELECT n AS id, 'Gate ' || (1 + n % 12) AS gate, ['passed','passed','passed','refused','expired'][1 + (n * 7919) % 5] AS outcome,
    CAST(now() - (${rows} - n) * INTERVAL 5 SECONDS AS TIMESTAMPTZ) AS scanned_at, (n * 31) % 900 AS took_ms,
    CAST(((n * 37) % 9000) / 100 AS DECIMAL(18, 2)) AS fare FROM range(1, ${rows + 1}) AS r(n)`,
);
const stored = await findDataSet(dataSet);
const desk = await findDesk('skerry-sound');
if (!stored || !desk) throw new Error('the demo is not there');
const measures: DataSet['measures'] = [
  { name: 'count', label: 'scans', calculation: { kind: 'count' } },
  {
    name: 'refused',
    label: 'refused',
    calculation: { kind: 'share', where: { field: 'outcome', test: { op: 'is', values: ['refused'] } } },
  },
  { name: 'fares', label: 'fares', calculation: { kind: 'sum', field: 'fare' } },
  { name: 'slow', label: 'nine in ten', calculation: { kind: 'percentile', field: 'took_ms', at: 90 } },
];
await saveDataSet({
  ...stored,
  definition: { ...stored.definition, key: 'id', measures },
  by: null,
});
const id = randomUUID();
await addDashboard({ id, deskId: desk.id, slug, draft: scans(dataSet), by: null });
await publish(id, null, null);

const browser = await chromium.launch(chromiumLaunch);
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, baseURL: origin });
await page.goto('/sign-in');
await page.getByLabel('E-mail address').fill('reader@skerry.example');
await page.getByLabel('Password').fill(demoPassword);
await page.getByRole('button', { name: 'Sign in' }).click();
await page.waitForURL((url) => !url.pathname.startsWith('/sign-in'));

/** Milliseconds in the page from a click until its next paint, and until the paint after which no pane waits for anything. */
const settle = (): Promise<{ paint: number; drawn: number }> =>
  page.evaluate(
    () =>
      new Promise((resolve) => {
        window.addEventListener(
          'click',
          () => {
            const begun = performance.now();
            let paint = 0;
            let wasBusy = false;
            requestAnimationFrame(() =>
              setTimeout(() => {
                paint = performance.now() - begun;
              }),
            );
            // To look at each frame would have each frame made.
            const watch = new MutationObserver(() => {
              const isBusy =
                document.querySelector('.pane :is([aria-busy="true"], [data-awaited], [data-undrawn])') !==
                null;
              wasBusy ||= isBusy;
              if (!wasBusy || isBusy) return;
              watch.disconnect();
              requestAnimationFrame(() =>
                setTimeout(() => resolve({ paint, drawn: performance.now() - begun })),
              );
            });
            watch.observe(document.body, {
              subtree: true,
              childList: true,
              attributeFilter: ['aria-busy', 'data-awaited', 'data-undrawn'],
            });
          },
          { capture: true, once: true },
        );
      }),
  );

const times: { paint: number; drawn: number }[] = [];
await page.goto(`/desk/skerry-sound/${slug}`);
await page.locator('html[data-live]').waitFor({ state: 'attached' });
await page.locator('.pane :is([data-awaited], [data-undrawn])').first().waitFor({ state: 'detached' });
await page.getByRole('button', { name: 'All gates' }).click();
const values = page.getByRole('dialog').getByRole('checkbox');
await values.nth(turns).waitFor();
for (let turn = 0; turn < turns; turn += 1) {
  const settled = settle();
  await values.nth(turn).click();
  times.push(await settled);
}
const drawn = times.map((time) => time.drawn);
console.log(
  `\ntwelve panes of ${rows.toLocaleString('en-GB')} kept records in a browser, ${turns} changes of the scope`,
  `\nuntil the last is drawn: median ${median(drawn).toFixed(0)} ms, longest ${Math.max(...drawn).toFixed(0)} ms   asked: 400`,
  `\nuntil the next paint: median ${median(times.map((time) => time.paint)).toFixed(0)} ms   asked: 100`,
);
await browser.close();
await removeDashboard(id);
await removeDataSet(dataSet);
await closeColumnar();
await closeDatabase();
process.exit(0);
