import { randomUUID } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import { eq } from 'drizzle-orm';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test, vi } from 'vitest';
import type { Context } from '#core/dashboard/flow/context.ts';
import { plainCall } from '#core/dataset/http/schema.ts';
import { keepProblem } from '#core/dataset/keep-problem.ts';
import { readAsText } from '#core/dataset/read-as-text.ts';
import type { DataSet, Request } from '#core/dataset/schema.ts';
import type { GroupsPlan, RecordsPlan, Relation } from '#core/plan/plan.ts';
import { relationWith } from '#core/plan/relation.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { refresh } from '../kept/refresh.ts';
import { outagesOf } from '../panes/delays.ts';
import { runPlan } from '../records/run.ts';
import { allowanceOf, budgetOf } from '../sources/budget.ts';
import { closeClients } from '../sources/open.ts';
import { addDataSet, saveDataSet } from '../store/data-sets.ts';
import { database } from '../store/database.ts';
import { collectOrphans, currentVersion } from '../store/kept.ts';
import { silentSources } from '../store/outages.ts';
import { refreshHistory } from '../store/refreshes.ts';
import { addSource, noteChanged, wasChangedSince } from '../store/sources.ts';
import { fetched } from '../store/tables/sources.ts';
import { mostWhileWaiting } from './fetched.ts';

vi.mock('../store/sources.ts', async (original) => {
  const actual = await original<typeof import('../store/sources.ts')>();
  return { ...actual, wasChangedSince: vi.fn(actual.wasChangedSince) };
});

let installed: KeptTest;
let service: Server;
let base = '';
let asked: string[] = [];
let answer: (url: URL) => { status?: number; body: unknown };

beforeAll(async () => {
  process.env.SLATE_OUTGOING = '127.0.0.1';
  installed = await keptTest();
  service = createServer((request, response) => {
    const url = new URL(request.url ?? '/', 'http://x');
    asked.push(url.pathname + url.search);
    const { status = 200, body } = answer(url);
    response.writeHead(status, { 'Content-Type': 'application/json' }).end(JSON.stringify(body));
  });
  await new Promise<void>((resolve) => service.listen(0, '127.0.0.1', resolve));
  const address = service.address();
  base = `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`;
});
beforeEach(() => {
  asked = [];
  answer = (url) => ({
    body: Array.from({ length: 10 }, (_, n) => ({
      id: n,
      gate: url.searchParams.get('gate') ?? 'any',
      fare: `${n}.10`,
    })),
  });
});
afterEach(() => closeClients());
afterAll(async () => {
  service.close();
  await installed.close();
});

async function add(allowance?: number): Promise<string> {
  const id = randomUUID();
  await addSource({
    id,
    name: 'Gates service',
    connection: { kind: 'http', base, auth: { kind: 'none' }, ...(allowance ? { allowance } : {}) },
    secret: '',
    report: { facts: [], warnings: [], clockSkewMs: null, tookMs: 0, at: '' },
    madeBy: null,
  });
  return id;
}

const request: Request = {
  kind: 'http',
  call: { ...plainCall('scans'), query: [{ name: 'gate', value: '{gate}' }] },
  format: 'auto',
  records: '$[*]',
  paging: { kind: 'none' },
  columns: [
    { column: '/id', name: 'id', type: 'integer' },
    { column: '/gate', name: 'gate', type: 'text' },
    { column: '/fare', name: 'fare', type: 'decimal' },
  ],
};
const from = (source: string, gate: string | null = null, fresh?: number): Relation => ({
  source,
  request,
  inputs: { gate: { type: 'text', value: gate } },
  fields: request.columns.map(({ name, type }) => ({ name, type })),
  ...(fresh === undefined ? {} : { fresh }),
});
const records = (relation: Relation, more: Partial<RecordsPlan> = {}): RecordsPlan => ({
  kind: 'records',
  from: relation,
  where: { all: [] },
  zone: 'UTC',
  fields: ['id', 'gate', 'fare'],
  order: [{ by: 'id', descending: true }],
  offset: 0,
  limit: 3,
  ...more,
});
const total = (relation: Relation): GroupsPlan => ({
  kind: 'groups',
  from: relation,
  where: { field: 'id', test: { op: 'atLeast', value: '5' } },
  zone: 'UTC',
  by: [],
  measures: [{ name: 'sum', calculation: { kind: 'sum', field: 'fare' } }],
  order: [],
  limit: 1,
});
const why = (work: Promise<unknown>) =>
  work.then(
    () => 'it worked',
    (thrown) => problemOf(thrown, 'x').why,
  );
const doing = { doing: 'reading' };

describe('records that are fetched when somebody asks', () => {
  test('answer every plan from one call, exactly, and say when they were true', async () => {
    const source = await add();
    const [page, sum] = await Promise.all([
      runPlan(records(from(source)), doing),
      runPlan(total(from(source)), doing),
    ]);
    expect(page.records).toEqual([
      ['9', 'any', '9.1'],
      ['8', 'any', '8.1'],
      ['7', 'any', '7.1'],
    ]);
    expect(sum.records).toEqual([['35.5']]);
    expect(asked).toEqual(['/scans']);
    const again = await runPlan(records(from(source)), doing);
    expect(again.trueAt).toBe(page.trueAt);
    expect(asked).toHaveLength(1);
    expect((await allowanceOf(source, new Date())).spent).toBe(1);
  });

  test('are fetched for each value of an input, and again when they are too old', async () => {
    const source = await add();
    const north = await runPlan(records(from(source, 'north')), doing);
    expect(north.records[0]?.[1]).toBe('north');
    await runPlan(records(from(source, 'south')), doing);
    expect(asked).toEqual(['/scans?gate=north', '/scans?gate=south']);
    await runPlan(records(from(source, 'north', 0)), doing);
    expect(asked).toHaveLength(3);
  });

  test('are not taken for fresh since a clock was ahead that has been put back', async () => {
    const source = await add();
    await runPlan(records(from(source)), doing);
    const ahead = new Date(Date.now() + 3_600_000);
    await database().update(fetched).set({ trueAt: ahead }).where(eq(fetched.sourceId, source));
    const { trueAt } = await runPlan(records(from(source)), doing);
    expect(asked).toHaveLength(2);
    expect(Date.parse(trueAt ?? '')).toBeLessThan(ahead.getTime());
  });

  test('are fetched again after a change from here, also by whoever would have waited for what was begun before it', async () => {
    const source = await add();
    const plan = records(from(source));
    await runPlan(plan, doing);
    await noteChanged(source);
    await runPlan(plan, doing);
    await runPlan(plan, doing);
    expect(asked).toHaveLength(2);
    await noteChanged(source);
    // The first of these is under way while the change is made.
    const early = runPlan(plan, doing);
    await expect.poll(() => asked.length).toBe(3);
    await noteChanged(source);
    await Promise.all([early, runPlan(plan, doing)]);
    expect(asked).toHaveLength(4);
  });

  test('are fetched again where the change was made while a fetch that others wait for was being put away', async () => {
    const source = await add();
    const plan = records(from(source));
    let late: Promise<unknown> | undefined;
    vi.mocked(wasChangedSince).mockImplementationOnce(async () => {
      await noteChanged(source);
      late = runPlan(plan, doing);
      // Long enough for it to find the fetch that is under way; had it not, it would fetch for itself.
      await new Promise((resolve) => setTimeout(resolve, 300));
      return false;
    });
    await runPlan(plan, doing);
    await late;
    expect(asked).toHaveLength(2);
  });

  test('that cannot be fetched again are shown as they were', async () => {
    const source = await add();
    const before = await runPlan(records(from(source, 'east', 0)), doing);
    answer = () => ({ status: 404, body: { error: 'gone' } });
    const after = await runPlan(records(from(source, 'east', 0)), doing);
    expect(after.records).toEqual(before.records);
    expect(after.trueAt).toBe(before.trueAt);
    expect(await why(runPlan(records(from(source, 'west')), doing))).toContain('the service answered 404');
  });

  test('of a service that does not answer are told to be old, since when, until it answers again', async () => {
    const source = await add();
    const plan = records(from(source, 'north', 0));
    await runPlan(plan, doing);
    expect(await silentSources([source])).toEqual([]);
    answer = () => ({ status: 503, body: {} });
    await runPlan(plan, doing);
    const [silent] = await silentSources([source]);
    expect(silent).toMatchObject({ id: source, name: 'Gates service' });
    // What is made of such records is old as well.
    const scans = { source, request, noun: { one: 'scan', many: 'scans' }, steps: [], inputs: [] };
    const late = {
      source: '',
      request: { kind: 'of', dataSet: 'scans' },
      noun: { one: 'delay', many: 'delays' },
      steps: [],
      inputs: [],
    };
    const context = {
      dashboard: { scope: [{ dataSet: 'late' }], panes: [] },
      dataSets: new Map(Object.entries({ scans, late })),
    } as unknown as Context;
    expect(await outagesOf(context)).toEqual([
      { source: 'Gates service', since: silent?.since, dataSets: [{ id: 'late', many: 'delays' }] },
    ]);
    // An answer that says no is one.
    answer = () => ({ status: 404, body: {} });
    await runPlan(plan, doing);
    expect(await silentSources([source])).toEqual([]);
  });

  test('are no more than a number that is named', async () => {
    const source = await add();
    answer = () => ({ body: Array.from({ length: mostWhileWaiting + 1 }, (_, id) => ({ id })) });
    expect(await why(runPlan(records(from(source)), doing))).toContain('more than 100,000 records');
    const calls = asked.length;
    expect(await why(runPlan(records(from(source)), doing))).toContain('more than 100,000 records');
    expect(asked.length - calls).toBeLessThanOrEqual(1);
    // A count needs no field, and is told the same.
    const counting = { ...total(from(source)), where: { all: [] } };
    const measures = [{ name: 'n', calculation: { kind: 'count' as const } }];
    expect(await why(runPlan({ ...counting, measures }, doing))).toContain('more than 100,000 records');
  });

  test('stay in the store while they may be asked for', async () => {
    const source = await add();
    await runPlan(records(from(source)), doing);
    await installed.own.query("UPDATE segments SET made_at = now() - interval '2 hours'");
    await collectOrphans();
    const [row] = await database().select().from(fetched).limit(1);
    const [first] = (row?.segments ?? []) as { hash: string }[];
    const { rowCount } = await installed.own.query('SELECT 1 FROM segments WHERE hash = $1', [first?.hash]);
    expect(rowCount).toBe(1);
  });
});

describe('a daily allowance', () => {
  test('is spent once for each call, by however many ask at once, and then nothing is called', async () => {
    const source = await add(3);
    const results = await Promise.allSettled(
      ['a', 'b', 'c', 'd', 'e'].map((gate) => runPlan(records(from(source, gate)), doing)),
    );
    expect(results.filter(({ status }) => status === 'fulfilled')).toHaveLength(3);
    expect(asked).toHaveLength(3);
    expect(await why(runPlan(records(from(source, 'f')), doing))).toContain(
      'allowance of 3 calls is used up',
    );
    // What was fetched before costs nothing.
    const known = results.findIndex(({ status }) => status === 'fulfilled');
    await runPlan(records(from(source, 'abcde'.charAt(known))), doing);
    expect(asked).toHaveLength(3);
  });

  test('begins again the next day, and a service that asks to wait is left alone until then', async () => {
    const source = await add(1);
    let now = new Date('2026-11-23T23:59:00Z');
    const budget = budgetOf(source, 1, () => now);
    await budget.spend('x');
    expect(await why(budget.spend('x'))).toContain('used up');
    now = new Date('2026-11-24T00:01:00Z');
    const other = budgetOf(source, undefined, () => now);
    await other.spend('x');
    await other.told({ left: 4, until: new Date('2026-11-24T01:00:00Z') });
    expect(await why(other.spend('x'))).toContain('asks for no more calls until 2026-11-24T01:00:00Z');
    now = new Date('2026-11-24T01:00:01Z');
    await other.spend('x');
    expect(await allowanceOf(source, now)).toMatchObject({ spent: 2, leftThere: 4 });
  });
});

test('a service that can be told where to go on from is asked only for what is new, and nothing is lost or doubled', async () => {
  const source = await add();
  const told: Request = {
    ...request,
    call: { ...plainCall('scans'), query: [{ name: 'since', value: '{since}' }] },
    columns: [
      { column: '/id', name: 'id', type: 'integer' },
      { column: '/at', name: 'at', type: 'instant' },
      { column: '/fare', name: 'fare', type: 'decimal' },
    ],
  };
  const scan = (id: number, minute: number, fare: string) => ({
    id,
    at: `2026-11-25T06:${minute}:00Z`,
    fare,
  });
  let all = [scan(1, 10, '1.10'), scan(2, 20, '2.20')];
  answer = (url) => ({ body: all.filter(({ at }) => at >= (url.searchParams.get('since') ?? '')) });
  const id = randomUUID();
  const fields = told.columns.map(({ name, type }) => ({ name, type }));
  const definition: DataSet = {
    version: 2,
    source,
    request: told,
    inputs: [{ name: 'since', type: 'instant', required: false, sample: '2026-11-25T06:15:00Z' }],
    fields,
    key: 'id',
    noun: { one: 'scan', many: 'scans' },
    measures: [],
    keep: { mode: { kind: 'changed', since: 'at', tell: 'since' }, schedule: { kind: 'by hand' } },
  };
  expect(keepProblem(definition)).toBeNull();
  await addDataSet({ id, name: 'Scans of the service', by: installed.author, definition });
  expect(await refresh(id)).toMatchObject({ state: 'done', fetched: 2, kept: 2 });
  // The latest came again, an earlier one changed, and one is new.
  all = [scan(1, 30, '1.15'), scan(2, 20, '2.20'), scan(3, 25, '3.30')];
  expect(await refresh(id)).toMatchObject({ state: 'done', fetched: 3, kept: 3 });
  all = [...all, scan(4, 40, '4.40')];
  expect(await refresh(id)).toMatchObject({ state: 'done', fetched: 2, kept: 4 });
  // The first time there is nothing to go on from; the sample is for designing only.
  expect(asked).toEqual([
    '/scans',
    '/scans?since=2026-11-25T06%3A20%3A00Z',
    '/scans?since=2026-11-25T06%3A30%3A00Z',
  ]);
  const kept: Relation = { source, request: { kind: 'kept', name: id }, inputs: {}, fields };
  const { records: rows } = await runPlan(
    records(kept, { fields: ['id', 'fare'], order: [{ by: 'id' }], limit: 9 }),
    doing,
  );
  expect(rows).toEqual([
    ['1', '1.15'],
    ['2', '2.2'],
    ['3', '3.3'],
    ['4', '4.4'],
  ]);
  // A refresh that fails has spent its calls all the same, and its source does not answer.
  answer = () => ({ status: 503, body: {} });
  const before = asked.length;
  expect(await refresh(id)).toMatchObject({ state: 'failed' });
  const [failed] = await refreshHistory(id);
  expect(failed?.calls).toBe(asked.length - before);
  expect(failed?.calls).toBeGreaterThan(0);
  expect(await silentSources([source])).toHaveLength(1);
});

test('a field whose type changes half-way is named with how many and which; taken as text, nothing of it is lost', async () => {
  const source = await add();
  const id = randomUUID();
  const plain: Request = { ...request, call: plainCall('scans') };
  const fields = request.columns.map(({ name, type }) => ({ name, type }));
  const sum = { name: 'fares', label: 'fares', calculation: { kind: 'sum' as const, field: 'fare' } };
  const definition: DataSet = {
    version: 2,
    source,
    request: plain,
    inputs: [],
    fields,
    key: 'id',
    noun: { one: 'scan', many: 'scans' },
    measures: [sum],
    keep: { mode: { kind: 'replace' }, schedule: { kind: 'by hand' } },
  };
  await addDataSet({ id, name: 'Scans that change', by: installed.author, definition });
  expect(await refresh(id)).toMatchObject({ state: 'done', kept: 10 });
  answer = () => ({
    body: Array.from({ length: 12 }, (_, n) => ({ id: n, gate: 'a', fare: n < 9 ? `${n}.10` : 'free' })),
  });
  expect(await refresh(id)).toMatchObject({
    state: 'failed',
    problem: { why: '3 values of “fare” cannot be read as decimal, such as “free”', misfit: 'fare' },
  });
  expect((await currentVersion(id))?.records).toBe(10);
  // On demand it says the same.
  expect(await why(runPlan(records({ ...from(source), request: plain }), doing))).toContain(
    '3 values of “fare”',
  );

  const next = readAsText(definition, 'fare', new Map());
  if (!next) throw new Error('the field is there');
  expect(next.fields.map(({ name, type }) => [name, type])).toEqual([
    ['id', 'integer'],
    ['gate', 'text'],
    ['fare', 'decimal'],
    ['fare as written', 'text'],
  ]);
  expect(readAsText(next, 'fare', new Map())).toBeNull();
  await saveDataSet({ id, name: 'Scans that change', definition: next, revision: 1, by: installed.author });
  expect(await refresh(id)).toMatchObject({ state: 'done', kept: 12 });
  const clock = { now: new Date(), zone: 'UTC' };
  const relation = relationWith(next, id, {}, { world: new Map(), clock });
  const { records: rows } = await runPlan(
    records(relation, { fields: ['id', 'fare', 'fare as written'], limit: 4 }),
    doing,
  );
  expect(rows).toEqual([
    ['11', null, 'free'],
    ['10', null, 'free'],
    ['9', null, 'free'],
    ['8', '8.1', null],
  ]);
});
