import { randomUUID } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import { afterAll, afterEach, beforeAll, expect, test } from 'vitest';
import type { Filter } from '#core/ask/condition/resolve.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import type { Request } from '#core/dataset/schema.ts';
import type { GroupsPlan, Relation } from '#core/plan/plan.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { runPlan } from '../records/run.ts';
import { closeClients } from '../sources/open.ts';
import { addSource } from '../store/sources.ts';

/* A set of a quarter of a million records at an OData service: more than are fetched while somebody waits. */

let installed: KeptTest;
let service: Server;
let relation: Relation;
let calls: string[] = [];

const request: Request = {
  kind: 'table',
  schema: '',
  table: 'Movements',
  columns: [
    { column: 'Id', name: 'id', type: 'integer' },
    { column: 'Gate', name: 'gate', type: 'text' },
  ],
  lookUps: [],
};

beforeAll(async () => {
  process.env.SLATE_OUTGOING = '127.0.0.1';
  installed = await keptTest();
  service = createServer((call, response) => {
    const url = new URL(call.url ?? '/', 'http://x');
    const filter = url.searchParams.get('$filter');
    calls.push(`${url.pathname} ${filter ?? ''}`.trim());
    if (url.pathname.endsWith('/$count'))
      return response
        .writeHead(200, { 'Content-Type': 'text/plain' })
        .end(filter ? '\uFEFF104231' : '250000');
    const isPick = filter?.includes('Id eq');
    const value = [{ Id: 7, Gate: 'north' }];
    response.writeHead(200, { 'Content-Type': 'application/json' });
    response.end(JSON.stringify({ '@odata.count': isPick ? 1 : filter ? 104_231 : 250_000, value }));
  });
  await new Promise<void>((resolve) => service.listen(0, '127.0.0.1', resolve));
  const address = service.address();
  const base = `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`;
  const source = randomUUID();
  await addSource({
    id: source,
    name: 'Movements',
    connection: { kind: 'odata', base, auth: { kind: 'none' } },
    secret: '',
    report: { facts: [], warnings: [], clockSkewMs: null, tookMs: 0, at: '' },
    madeBy: null,
  });
  relation = {
    source,
    request,
    inputs: {},
    fields: request.columns.map(({ name, type }) => ({ name, type })),
  };
});
afterEach(() => {
  calls = [];
});
afterAll(async () => {
  await closeClients();
  service.close();
  await installed.close();
});

const count: PlannedMeasure = { name: 'n', calculation: { kind: 'count' } };
const plan = (measures: PlannedMeasure[], where: Filter = { all: [] }): GroupsPlan => ({
  kind: 'groups',
  from: relation,
  where,
  zone: 'UTC',
  by: [],
  measures,
  order: [],
  limit: 1,
});
const north: Filter = { field: 'gate', test: { op: 'is', values: ['north'] } };
const doing = { doing: 'counting' };

test('what only counts is counted at the service, under all its conditions', async () => {
  const answer = await runPlan(plan([count, { ...count, name: 'north', where: north }]), doing);
  expect(answer.records).toEqual([['250000', '104231']]);
  expect(calls.length).toBeLessThanOrEqual(4);
  expect((await runPlan(plan([count], north), doing)).records).toEqual([['104231']]);
});

test('too many to fetch are refused at the first answer, and what is no count says so', async () => {
  const sum: PlannedMeasure = { name: 's', calculation: { kind: 'sum', field: 'id' } };
  const why = await runPlan(plan([sum]), doing).catch((thrown) => problemOf(thrown, 'x').why);
  expect(why).toContain('more than 100,000 records');
  expect(calls.length).toBeLessThanOrEqual(2);
});

test('a pick is asked of the service, in one call', async () => {
  const pick: Filter = { field: 'id', test: { op: 'same', value: '7' } };
  expect((await runPlan(plan([count], pick), doing)).records).toEqual([['1']]);
  expect(calls).toEqual(['/Movements Id eq 7']);
});
