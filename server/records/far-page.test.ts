import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { RecordsPlan } from '#core/plan/plan.ts';
import { compile, compileCount, type Query } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { runColumnar } from '#engine/columnar/run.ts';
import { columnarRecords } from '#testing/columnar-records.ts';
import { nearerPage } from './far-page.ts';

const folder = mkdtempSync(path.join(tmpdir(), 'slate-far-'));
const fields = [
  { name: 'id', type: 'integer' as const },
  { name: 'many', type: 'integer' as const },
  { name: 'on', type: 'date' as const },
  { name: 'at', type: 'instant' as const },
  { name: 'gate', type: 'text' as const },
];
const count = 4000;
let database: ColumnarDatabase;
const ask = async (query: Query) => (await runColumnar(database, query, { doing: 'testing' })).records;

beforeAll(async () => {
  database = await columnarRecords(
    folder,
    fields,
    Array.from({ length: count }, (_, n) => [
      // Beyond what a double holds exactly, and next to each other.
      String(9_007_199_254_740_993n + BigInt((n * 7919) % count)),
      n % 9 === 0 ? null : String((n * 31) % 12),
      n % 5 === 0 ? null : new Date(1_600_000_000_000 + (n % 700) * 86_400_000).toISOString().slice(0, 10),
      `2026-11-23T06:40:${String(n % 60).padStart(2, '0')}.${String((n * 101) % 1_000_000).padStart(6, '0')}Z`,
      `Gate ${n % 4}`,
    ]),
  );
});
afterAll(async () => {
  await database.close();
  rmSync(folder, { recursive: true, force: true });
});

const plan = (by: string, descending: boolean, offset: number, gate: string | null): RecordsPlan => ({
  kind: 'records',
  from: { source: 's', request: { kind: 'kept', name: 'v1' }, inputs: {}, fields },
  where: gate === null ? { all: [] } : { field: 'gate', test: { op: 'is', values: [gate] } },
  zone: 'UTC',
  fields: ['gate', 'id', 'at', 'on', 'many'],
  order: [{ by, descending }, { by: 'gate' }],
  key: 'id',
  offset,
  limit: 50,
});

test('a far page is the page that sorting everything gives, with ties, blanks and conditions', async () => {
  const orders = fc.constantFrom('id', 'many', 'on', 'at');
  const gates = fc.constantFrom(null, 'Gate 1');
  await fc.assert(
    fc.asyncProperty(
      orders,
      fc.boolean(),
      fc.nat({ max: count + 50 }),
      gates,
      async (by, descending, offset, gate) => {
        const far = plan(by, descending, offset, gate);
        const nearer = await nearerPage(far, ask);
        if (nearer === null) return;
        expect(await ask(compile(nearer, duckdb))).toEqual(await ask(compile(far, duckdb)));
      },
    ),
    { numRuns: 60 },
  );
});

test('what it is found among is a small part of the records', async () => {
  const nearer = await nearerPage(plan('at', true, 2000, null), ask);
  expect(nearer?.offset).toBeLessThan(5);
  const [[among] = []] = nearer ? await ask(compileCount(nearer, duckdb)) : [];
  expect(Number(among)).toBeLessThan(60);
});

test('there is none where it reaches into the blanks, or is ordered by a text or by states', async () => {
  const blanks = Math.ceil(count / 9);
  expect(await nearerPage(plan('many', false, count - blanks - 49, null), ask)).toBeNull();
  expect(await nearerPage(plan('many', false, count - blanks - 50, null), ask)).not.toBeNull();
  expect(await nearerPage(plan('gate', false, 2000, null), ask)).toBeNull();
  const staged = plan('many', false, 2000, null);
  const states = [{ value: '3', word: 'Three', tone: 'settled' as const }];
  const from = {
    ...staged.from,
    fields: fields.map((field) => (field.name === 'many' ? { ...field, states } : field)),
  };
  expect(await nearerPage({ ...staged, from }, ask)).toBeNull();
});
