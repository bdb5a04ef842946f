import { randomUUID } from 'node:crypto';
import { setMaxListeners } from 'node:events';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { CardBody } from '#core/dashboard/pane/kinds/card/kind.ts';
import type { ChartBody } from '#core/dashboard/pane/kinds/chart/kind.ts';
import type { TableBody } from '#core/dashboard/pane/kinds/table/kind.ts';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import { emptyScope, type Scope } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { morningBrief } from '#demo/dashboards/morning-brief.ts';
import type { DemoIds } from '#demo/data-sets.ts';
import { zone } from '#demo/line.ts';
import { soundFixture } from '../../testing/sound.ts';
import { openBehind } from './drill.ts';
import { openRecord } from './opened-record.ts';
import { runPane } from './run.ts';
import { countScope, firstResults, viewOf } from './shown.ts';
import { clauseValues } from './values.ts';

/** Noon of a winter's Monday at the ferry line: a real database, the demo's own definitions. */
const now = new Date('2026-11-23T12:00:00Z');
let sound: Awaited<ReturnType<typeof soundFixture>>;
let ids: DemoIds;
let dashboard: Dashboard;
let dataSets: Map<string, DataSet>;

beforeAll(async () => {
  sound = await soundFixture(now);
  ({ ids, dataSets } = sound);
  dashboard = morningBrief(ids);
});
afterAll(() => sound.end());

const at = (scope: Partial<Scope> = {}): Context => ({
  dashboard,
  dataSets,
  scope: { ...emptyScope, ...scope },
  clock: { now, zone },
});
const paneOf = (id: string) => {
  const pane = dashboard.panes.find((each) => each.id === id);
  if (!pane) throw new Error(`no pane ${id}`);
  return pane;
};
async function shown<Body>(id: string, scope: Partial<Scope> = {}): Promise<Body> {
  const result = await runPane({ pane: paneOf(id), context: at(scope) });
  if (result.state !== 'ready') throw new Error(JSON.stringify(result));
  return result.body as Body;
}
const counted = async (where: string): Promise<string> =>
  String((await sound.client.query(`SELECT count(*) AS n FROM sailings WHERE ${where}`)).rows[0].n);
const days28 = "departs_at >= '2026-10-27T00:00:00Z' AND departs_at < '2026-11-24T00:00:00Z'";
const sailing = async (where = 'delay_minutes > 20'): Promise<string> =>
  String(
    (
      await sound.client.query(
        `SELECT sailing_id AS n FROM incidents i JOIN sailings s ON s.id = i.sailing_id WHERE ${where} ORDER BY 1 DESC LIMIT 1`,
      )
    ).rows[0].n,
  );

describe('a card', () => {
  test('tells the same as SQL written by hand, now and before', async () => {
    const card = await shown<CardBody>('today');
    expect(card.now).toBe(await counted("departs_at >= '2026-11-23' AND departs_at < '2026-11-24'"));
    expect(card.before).toBe(await counted("departs_at >= '2026-11-22' AND departs_at < '2026-11-23'"));
    expect([card.nowWords, card.beforeWords]).toEqual(['23 Nov', '22 Nov']);
  });

  test('adds money up to the cent', async () => {
    const card = await shown<CardBody>('carried');
    const { rows } = await sound.client.query(`SELECT sum(passengers) AS n FROM sailings WHERE ${days28}`);
    expect(card.now).toBe(String(rows[0].n));
  });

  test('opens onto exactly the records it counts', async () => {
    for (const id of ['today', 'late-today']) {
      const card = await shown<CardBody>(id);
      const behind = await openBehind({ pane: id, values: [] }, { page: 1 }, at());
      expect(behind.table.total).toBe(card.now);
      expect(behind.value).toBe(card.now);
      const before = await openBehind({ pane: id, values: [], before: true }, { page: 1 }, at());
      expect(before.table.total).toBe(card.before);
    }
  });

  test('of a rate opens onto the records that meet it, and gives the rate again', async () => {
    const card = await shown<CardBody>('punctual');
    const behind = await openBehind({ pane: 'punctual', values: [] }, { page: 1 }, at());
    expect(behind.value).toBe(card.now);
    expect(behind.table.total).toBe(await counted(`${days28} AND delay_minutes <= 10`));
  });
});

describe('a chart', () => {
  test('has bars that count to the records behind each, blanks among them', async () => {
    const { data } = await shown<ChartBody>('causes');
    expect(data.categories.some(({ value }) => value === null)).toBe(true);
    for (const [index, { value }] of data.categories.entries()) {
      const behind = await openBehind({ pane: 'causes', values: [value] }, { page: 1 }, at());
      expect(behind.table.total).toBe(data.series[0]?.values[index]);
    }
  });

  test('shows every day of the scope, also those on which nothing happened', async () => {
    const { data } = await shown<ChartBody>('per-day');
    expect(data.categories).toHaveLength(28);
    const day = data.categories[3]?.value ?? '';
    const behind = await openBehind({ pane: 'per-day', values: [day] }, { page: 1 }, at());
    expect(behind.table.total).toBe(data.series[0]?.values[3]);
    expect(behind.of).toBe('30 Oct');
  });

  test('narrowed by a pick elsewhere counts what is left', async () => {
    const focus = [{ dataSet: 'sailings', field: 'cause', value: 'tide' }];
    const { data } = await shown<ChartBody>('per-day', { focus });
    const total = (data.series[0]?.values ?? []).map(Number).reduce((sum, value) => sum + value, 0);
    expect(String(total)).toBe(await counted(`${days28} AND delay_minutes > 10 AND cause = 'tide'`));
  });
});

describe('a table', () => {
  test('shows the page first and its total after', async () => {
    const partial: PaneResult[] = [];
    const result = await runPane({
      pane: paneOf('late'),
      context: at(),
      onPartial: (each) => partial.push(each),
    });
    const totals = [...partial, result].map((each) =>
      each.state === 'ready' && each.body.kind === 'table' ? each.body.total : 'x',
    );
    expect(totals).toEqual([null, await counted(`${days28} AND delay_minutes > 10`)]);
  });

  test('finds words in any of its columns, whatever their case', async () => {
    const body = await shown<TableBody>('late', { views: { late: { find: ['WEATHER norrick'] } } });
    const route = body.fields.findIndex(({ name }) => name === 'route');
    const cause = body.fields.findIndex(({ name }) => name === 'cause');
    expect(body.records.length).toBeGreaterThan(0);
    for (const record of body.records) {
      expect(record[route]).toContain('Norrick');
      expect(record[cause]).toBe('weather');
    }
  });

  test('sorted by a state goes by the order that the analyst gave its states', async () => {
    const body = await shown<TableBody>('late', {
      clauses: { departing: null },
      views: { late: { order: ['+status'] } },
    });
    const of = body.fields.findIndex(({ name }) => name === 'status');
    const states = dataSets.get(ids.sailings)?.fields.find(({ name }) => name === 'status')?.states ?? [];
    const { rows } = await sound.client.query(
      'SELECT DISTINCT status FROM sailings WHERE delay_minutes > 10',
    );
    const first = states.find(({ value }) => rows.some(({ status }) => status === value));
    expect(states.length).toBeGreaterThan(1);
    expect(body.records[0]?.[of]).toBe(first?.value);
  });

  test('that is empty says which clause to loosen, and what that would bring back', async () => {
    const body = await shown<TableBody>('late', { clauses: { delay: { op: 'atLeast', value: '100000' } } });
    expect(body.total).toBe('0');
    expect(body.loosen).toEqual([
      {
        name: 'delay',
        words: 'with at least 100,000',
        count: await counted(`${days28} AND delay_minutes > 10`),
      },
    ]);
  });

  test('past its last page is empty and still knows its total', async () => {
    const body = await shown<TableBody>('late', { views: { late: { page: ['9999'] } } });
    expect(body.records).toEqual([]);
    expect(body.total).toBe(await counted(`${days28} AND delay_minutes > 10`));
  });
});

describe('following', () => {
  test('a sailing that is picked fills its detail and the incidents that refer to it', async () => {
    const key = await sailing();
    const focus = [{ dataSet: 'sailings', field: 'id', value: key }];
    expect(await runPane({ pane: paneOf('incidents'), context: at() })).toEqual({
      state: 'waiting',
      choose: 'sailing',
      from: ['Late sailings, latest first'],
    });
    const incidents = await shown<TableBody>('incidents', { focus });
    const { rows } = await sound.client.query(
      'SELECT count(*)::text AS n FROM incidents WHERE sailing_id = $1',
      [key],
    );
    expect(incidents.total).toBe(rows[0].n);
    expect(await shown('sailing', { focus })).toMatchObject({ kind: 'detail', title: `SK-${key}` });
  });

  test('a record that has gone is said to be gone', async () => {
    expect(
      await shown('sailing', { focus: [{ dataSet: 'sailings', field: 'id', value: '1' }] }),
    ).toMatchObject({ record: null });
  });

  test('a record opens with all its fields and what refers to it', async () => {
    const key = await sailing();
    const opened = await openRecord({ pane: 'late', key }, at());
    expect(opened.detail.title).toBe(`SK-${key}`);
    expect(opened.related.map(({ noun }) => noun)).toEqual(['incidents']);
    expect(Number(opened.related[0]?.table.total)).toBeGreaterThan(0);
  });
});

describe('choosing', () => {
  test('offers values that exist, with counts under the other clauses', async () => {
    const { values } = await clauseValues(
      'route',
      '',
      at({ clauses: { delay: { op: 'atLeast', value: '11' } } }),
    );
    const { rows } = await sound.client.query(
      `SELECT r.name, count(*)::text AS n FROM sailings s JOIN routes r ON r.id = s.route_id WHERE ${days28} AND delay_minutes >= 11 GROUP BY 1 ORDER BY count(*) DESC, 1`,
    );
    expect(values).toEqual(rows.map(({ name, n }) => ({ value: name, count: n })));
  });

  test('takes values that differ only in case for one, as filters do', async () => {
    await sound.client.query(
      "UPDATE sailings SET cause = 'TIDE' WHERE id IN (SELECT id FROM sailings WHERE cause = 'tide' LIMIT 5)",
    );
    const clause = {
      name: 'cause',
      many: 'causes',
      offer: 'values' as const,
      dataSet: ids.sailings,
      field: 'cause',
    };
    const context = { ...at(), dashboard: { ...dashboard, scope: [clause] } };
    const { values } = await clauseValues('cause', 'ide', context);
    expect(values).toEqual([{ value: 'tide', count: await counted("lower(cause) = 'tide'") }]);
    await sound.client.query("UPDATE sailings SET cause = 'tide' WHERE cause = 'TIDE'");
  });

  test('tells the range of numbers, and how they are spread: every one counted once', async () => {
    const { least, greatest, spread } = await clauseValues('delay', '', at());
    expect(Number(least)).toBeLessThanOrEqual(0);
    expect(Number(greatest)).toBeGreaterThan(20);
    const drawn = spread.reduce((sum, count) => sum + Number(count), 0);
    expect(String(drawn)).toBe(await counted(`${days28} AND delay_minutes IS NOT NULL`));
    expect(spread.length).toBeGreaterThan(5);
  });
});

describe('what goes wrong', () => {
  test('in one pane stays in it, in the source’s own words', async () => {
    await sound.client.query('ALTER TABLE sailings RENAME COLUMN cause TO reason');
    const { signal } = new AbortController();
    // As that of a request, which many panes listen to.
    setMaxListeners(0, signal);
    const results = await firstResults(at(), signal);
    const states = Object.fromEntries(
      await Promise.all(
        Object.entries(results.panes).map(async ([id, result]) => [id, await result] as const),
      ),
    );
    await sound.client.query('ALTER TABLE sailings RENAME COLUMN reason TO cause');
    expect(states.causes).toMatchObject({
      state: 'failed',
      problem: {
        code: 'missing',
        doing: 'reading “Why they were late”',
        why: expect.stringContaining('cause does not exist'),
      },
    });
    expect(states.today).toMatchObject({ state: 'ready' });
    expect(states.late).toMatchObject({ state: 'failed' });
  });

  test('of a source that is slow holds the page up no longer than a moment: what it shows is still to come', async () => {
    const { signal } = new AbortController();
    setMaxListeners(0, signal);
    await sound.client.query('BEGIN');
    await sound.client.query('LOCK TABLE sailings IN ACCESS EXCLUSIVE MODE');
    const { panes, count } = await firstResults(at(), signal);
    expect(panes.today).toBeInstanceOf(Promise);
    expect(count).toBeInstanceOf(Promise);
    await sound.client.query('COMMIT');
    expect(await panes.today).toMatchObject({ state: 'ready' });
    expect(await count).toMatchObject({ noun: { many: 'sailings' } });
  });

  test('is told when a number is asked for that is not on the dashboard', async () => {
    for (const address of [
      { pane: 'nowhere', values: [] },
      { pane: 'late', values: [] },
    ])
      await expect(openBehind(address, { page: 1 }, at())).rejects.toThrow('is not on this dashboard');
    await expect(openRecord({ pane: 'nowhere', key: '1' }, at())).rejects.toThrow('is not on this dashboard');
    await expect(clauseValues('nowhere', '', at())).rejects.toThrow('there is no clause');
  });

  test('with the source gone altogether is a failed pane each, never a broken page', async () => {
    const other = new Map([...dataSets].map(([id, dataSet]) => [id, { ...dataSet, source: randomUUID() }]));
    const result = await runPane({ pane: paneOf('today'), context: { ...at(), dataSets: other } });
    expect(result).toMatchObject({
      state: 'failed',
      problem: { code: 'missing', why: 'the source no longer exists' },
    });
    expect(await countScope({ ...at(), dataSets: other })).toBeNull();
  });
});

test('the scope line counts what is kept, of all there is', async () => {
  expect(await countScope(at())).toEqual({
    kept: await counted(days28),
    all: await counted('true'),
    noun: { one: 'sailing', many: 'sailings' },
  });
});

test('what readers are sent holds no request, origin or sample', async () => {
  const shownNow = {
    id: 'x',
    slug: 'x',
    desk: { id: 'd', slug: 'd', name: 'D', zone, accent: 'green' as const },
    dashboard,
    dataSets,
  };
  const view = await viewOf(
    { shown: shownNow, edition: 'published', draft: null, context: at(), problems: [] },
    null,
  );
  const sent = JSON.stringify(view);
  for (const secret of ['public.sailings', 'lookUps":[{', 'SELECT', '"sample"'])
    expect(sent).not.toContain(secret);
  expect(Object.keys(view.reads)).toContain('scope');
});
