import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Filter } from '#core/ask/condition/resolve.ts';
import { allOf, type GroupsPlan, type Plan, type RecordsPlan, totals } from '#core/plan/plan.ts';
import { compile, compileCount } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { runColumnar } from '#engine/columnar/run.ts';
import { columnarRecords } from '#testing/columnar-records.ts';
import { askTogether, commonFilter } from './scope-extract.ts';

const is = (field: string, ...values: (string | null)[]): Filter => ({ field, test: { op: 'is', values } });
const within = (from: string | null, to: string | null, field = 'at'): Filter => ({
  field,
  test: { op: 'within', from, to },
});
const day = (n: number): string => `2026-11-${String(n).padStart(2, '0')}T00:00:00.000Z`;

describe('what all filters let through', () => {
  test('has what all of them have, and lies around their stretches', () => {
    expect(
      commonFilter([
        allOf([is('gate', 'A'), within(day(10), day(20))]),
        { all: [within(day(3), day(15)), { all: [is('outcome', 'refused')] }, is('gate', 'A')] },
      ]),
    ).toEqual(allOf([is('gate', 'A'), within(day(3), day(20))]));
  });

  test.each<[string, Filter[]]>([
    ['one asks for others', [is('gate', 'A'), is('gate', 'B')]],
    ['one asks for all', [is('gate', 'A'), { all: [] }]],
    ['one has no stretch', [within(day(1), day(2)), is('gate', 'A')]],
    ['their stretches are of different fields', [within(day(1), day(2)), within(day(1), day(2), 'booked')]],
    ['one may be anything of several', [is('gate', 'A'), { any: [is('gate', 'A'), is('gate', 'B')] }]],
    ['both ends are open', [within(null, day(2)), within(day(1), null)]],
    [
      'their years are not in the order of their texts',
      [within('+010000-01-01', null), within(day(1), null)],
    ],
  ])('has nothing where %s', (_, filters) => {
    expect(commonFilter(filters)).toEqual({ all: [] });
  });

  test('is open where one is', () => {
    expect(commonFilter([within(null, day(2)), within(day(1), day(5))])).toEqual(within(null, day(5)));
  });
});

describe('questions that are asked together', () => {
  const folder = mkdtempSync(path.join(tmpdir(), 'slate-extract-'));
  const fields = [
    { name: 'id', type: 'integer' as const },
    { name: 'gate', type: 'text' as const },
    { name: 'fare', type: 'decimal' as const },
    { name: 'at', type: 'instant' as const },
  ];
  /** As if there were this many, so that it is worth it. */
  const asIf = 3_000_000;
  let engine: ColumnarDatabase;
  beforeAll(async () => {
    engine = await columnarRecords(
      folder,
      fields,
      Array.from({ length: 6000 }, (_, n) => [
        String(n),
        n % 11 === 0 ? '' : `Gate ${'aBÄc'.charAt(n % 4)}`,
        n % 13 === 0 ? null : `${n % 70}.${n % 10}`,
        n % 17 === 0 ? null : `2026-11-${String(1 + (n % 28)).padStart(2, '0')}T06:40:00Z`,
      ]),
    );
  });
  afterAll(async () => {
    await engine.close();
    rmSync(folder, { recursive: true, force: true });
  });

  const from = { source: 's', request: { kind: 'kept' as const, name: 'v1' }, inputs: {}, fields };
  const scope = [is('gate', 'gate a', 'GATE B', null), within(day(5), day(25))];
  const groups = (more: Partial<GroupsPlan>): GroupsPlan => ({
    ...totals(from, 'UTC', [
      { name: 'count', calculation: { kind: 'count' } },
      { name: 'sum', calculation: { kind: 'sum', field: 'fare' } },
    ]),
    where: allOf(scope),
    limit: 1000,
    ...more,
  });
  const page = (more: Partial<RecordsPlan> = {}): RecordsPlan => ({
    kind: 'records',
    from,
    where: allOf(scope),
    zone: 'UTC',
    fields: ['id', 'gate', 'fare', 'at'],
    order: [{ by: 'at', descending: true }],
    key: 'id',
    offset: 0,
    limit: 40,
    ...more,
  });
  const plans: Plan[] = [
    groups({}),
    groups({ by: [{ field: 'gate' }], order: [{ by: 'group:0' }] }),
    groups({ by: [{ field: 'at', unit: 'day' }], order: [{ by: 'group:0' }] }),
    // Of a stretch that begins before.
    groups({ where: allOf([scope[0], within(day(1), day(25))]) }),
    groups({ where: allOf([...scope, { field: 'fare', test: { op: 'atLeast', value: '20' } }]) }),
    page(),
    page({ order: [{ by: 'fare' }], offset: 100 }),
  ];
  const placeOf = ({ from: { request } }: Plan): string => (request.kind === 'kept' ? request.name : '');
  const run = async (plan: Plan): Promise<unknown> =>
    (await runColumnar(engine, compile(plan, duckdb), { doing: 'testing' })).records;
  /** What they answer, and of which records each was asked. */
  async function together(
    asked: readonly Plan[],
    records = asIf,
  ): Promise<{ answers: unknown[]; places: string[] }> {
    const places: string[] = [];
    const answers = await Promise.all(
      asked.map((plan) =>
        askTogether(plan, records, engine, (each) => {
          places.push(placeOf(each));
          return run(each);
        }),
      ),
    );
    return { answers, places: [...new Set(places)] };
  }
  const left = async (): Promise<unknown[]> => {
    const query = { text: "SELECT table_name FROM duckdb_tables() WHERE schema_name = 'kept'", values: [] };
    return (await runColumnar(engine, query, { doing: 'testing' })).records;
  };

  test('are answered as each by itself, from the records that all of them are about, of which none are left', async () => {
    const alone = await Promise.all(plans.map(run));
    for (let turn = 0; turn < 5; turn += 1) {
      const { answers, places } = await together(plans);
      expect(answers).toEqual(alone);
      expect(places).toEqual([expect.stringContaining('extract')]);
      await expect.poll(left).toEqual([]);
    }
  });

  test('several pages at once have each their own, or all records where there is no room for one more', async () => {
    const gates = ['Gate a', 'Gate B', 'Gate c'];
    const pages = gates.map((gate) =>
      plans.map((plan) => ({ ...plan, where: allOf([plan.where, is('gate', gate)]) })),
    );
    const alone = await Promise.all(pages.map((of) => Promise.all(of.map(run))));
    const found: unknown[] = [];
    for (const of of pages) {
      found.push(together(of).then(({ answers }) => answers));
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
    expect(await Promise.all(found)).toEqual(alone);
    await expect.poll(left).toEqual([]);
  });

  test('how many there are is asked with them', async () => {
    const counts = Array.from({ length: 5 }, (_, at) =>
      page({ fields: [], order: [], limit: 0, offset: at }),
    );
    const answers = await Promise.all(
      counts.map((plan) =>
        askTogether(plan, asIf, engine, async (each) => {
          expect(placeOf(each)).toContain('extract');
          return (await runColumnar(engine, compileCount(each, duckdb), { doing: 'testing' })).records;
        }),
      ),
    );
    const [alone] = (await runColumnar(engine, compileCount(page(), duckdb), { doing: 'testing' })).records;
    expect(answers).toEqual(counts.map(() => [alone]));
  });

  test.each<[string, readonly Plan[], number]>([
    ['they are few', plans.slice(0, 4), asIf],
    ['there are not very many records', plans, 6000],
    ['they have nothing in common', plans.map((plan) => ({ ...plan, where: { all: [] } })), asIf],
    ['they ask for what is not there', plans.map((plan) => ({ ...plan, where: is('gone', 'x') })), asIf],
  ])('ask all records where %s', async (_, asked, records) => {
    const places: string[] = [];
    const answers = asked.map((plan) =>
      askTogether(plan, records, engine, async (each) => {
        places.push(placeOf(each));
        return run(each).catch(() => 'refused');
      }),
    );
    expect(await Promise.all(answers)).toEqual(
      await Promise.all(asked.map((plan) => run(plan).catch(() => 'refused'))),
    );
    expect(new Set(places)).toEqual(new Set(['v1']));
  });

  test('what has no order of its own is asked of all records, where it has one', async () => {
    const { places } = await together([...plans, page({ order: [] })]);
    expect(places.toSorted()).toEqual([expect.stringContaining('extract'), 'v1']);
  });
});
