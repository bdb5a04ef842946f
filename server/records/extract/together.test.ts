import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { Filter } from '#core/ask/condition/resolve.ts';
import { allOf, type GroupsPlan, type Plan, type RecordsPlan, totals } from '#core/plan/plan.ts';
import { compile, compileCount, type Query } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { runColumnar } from '#engine/columnar/run.ts';
import { columnarRecords } from '#testing/columnar-records.ts';
import { askTogether } from './together.ts';

const is = (field: string, ...values: (string | null)[]): Filter => ({ field, test: { op: 'is', values } });
const within = (from: string | null, to: string | null, field = 'at'): Filter => ({
  field,
  test: { op: 'within', from, to },
});
const day = (n: number): string => `2026-11-${String(n).padStart(2, '0')}T00:00:00.000Z`;

describe('questions that are asked together', () => {
  let folder: string;
  const fields = [
    { name: 'id', type: 'integer' as const },
    { name: 'gate', type: 'text' as const },
    { name: 'fare', type: 'decimal' as const },
    { name: 'at', type: 'instant' as const },
  ];
  /** As if there were this many, so that it is worth it. */
  const asIf = 3_000_000;
  let engine: ColumnarDatabase;
  // What stays in memory stays with its engine.
  beforeEach(async () => {
    folder = mkdtempSync(path.join(tmpdir(), 'slate-extract-'));
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
  afterEach(async () => {
    vi.useRealTimers();
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
  const placeOf = ({ text }: Query): string => /"kept"\."(.*?)"/.exec(text)?.[1] ?? '';
  const ask = async (query: Query): Promise<unknown> =>
    (await runColumnar(engine, query, { doing: 'testing' })).records;
  const run = async (plan: Plan): Promise<unknown> => ask(compile(plan, duckdb));
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
          return ask(each);
        }),
      ),
    );
    return { answers, places: [...new Set(places)] };
  }
  const left = async (): Promise<unknown[]> => {
    const query = { text: "SELECT table_name FROM duckdb_tables() WHERE schema_name = 'kept'", values: [] };
    return (await runColumnar(engine, query, { doing: 'testing' })).records;
  };

  test('are answered as each by itself, from the records that all of them are about', async () => {
    const alone = await Promise.all(plans.map(run));
    const { answers, places } = await together(plans);
    expect(answers).toEqual(alone);
    expect(places).toEqual([expect.stringContaining('extract')]);
    await expect.poll(left).toEqual([[expect.stringContaining('stretch')]]);
    for (let turn = 0; turn < 4; turn += 1) expect((await together(plans)).answers).toEqual(alone);
  });

  const at = (from: number, to: number): Plan[] =>
    plans.map((plan) => ({ ...plan, where: allOf([scope[0], within(day(from), day(to))]) }));

  test('leave their stretch of time in memory, which few questions are asked of too, until nobody has asked for a while', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
    await together(at(3, 9));
    const [one] = at(4, 8);
    if (!one) throw new Error('no plan');
    const { answers, places } = await together([one]);
    expect(places).toEqual([expect.stringContaining('stretch')]);
    expect(answers).toEqual([await run(one)]);
    const [other] = at(2, 9);
    if (!other) throw new Error('no plan');
    expect((await together([other])).places).toEqual(['v1']);
    vi.advanceTimersByTime(31_000);
    vi.useRealTimers();
    expect((await together([one])).places).toEqual(['v1']);
  });

  test('of one stretch after the other leave two of them', async () => {
    for (const [from, to] of [
      [3, 9],
      [10, 14],
      [12, 20],
      [3, 9],
    ] as const) {
      const asked = at(from, to);
      expect((await together(asked)).answers).toEqual(await Promise.all(asked.map(run)));
    }
    await expect
      .poll(left)
      .toEqual([[expect.stringContaining('stretch')], [expect.stringContaining('stretch')]]);
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
    await expect
      .poll(async () => (await left()).flat())
      .not.toContainEqual(expect.stringContaining('extract'));
  });

  test('how many there are is asked with them', async () => {
    const count = (more: readonly Filter[]): Plan =>
      totals(from, 'UTC', [{ name: 'n', calculation: { kind: 'count' } }], allOf([...scope, ...more]));
    const own = [[], [is('fare', '20.0')], [is('fare', '30.0')], [is('id', '3')], [is('id', '4')]];
    const counts = own.map(count);
    const { answers, places } = await together(counts);
    expect(places).toEqual([expect.stringContaining('extract')]);
    const alone = counts.map(({ where }) => ask(compileCount(page({ where }), duckdb)));
    expect(answers).toEqual(await Promise.all(alone));
  });

  const asked = (filter: Filter): Plan[] =>
    plans.map((plan) => ({ ...plan, where: allOf([filter, within(day(3), day(9))]) }));
  const alone = (of: readonly Plan[]): Promise<unknown[]> => Promise.all(of.map(run));

  const talliesLeft = async (): Promise<number> =>
    (await left()).flat().filter((name) => String(name).includes('tally')).length;
  const kindsOf = (places: readonly string[]): string[] =>
    [...new Set(places.map((place) => place.replace(/ \d+$/, '')))].toSorted();

  test('what adds up is kept by the fields that are asked of again and again, for all their values', async () => {
    const values = [['gate a'], ['gate b', null], ['gate c'], ['no such gate'], ['gate ä', 'gate a', null]];
    for (const [at, of] of values.entries()) {
      const some = asked(is('gate', ...of));
      const { answers, places } = await together(some);
      expect(answers).toEqual(await alone(some));
      expect(kindsOf(places)).toEqual(at < 2 ? ['extract'] : ['stretch', 'tally']);
      // Once it is seen that only the gates differ: which gates there are, and the three things that are added up by them.
      await expect.poll(talliesLeft).toBe(at === 0 ? 0 : 4);
    }
  });

  test('what has almost as many groups as records is not kept added up', async () => {
    for (const id of ['3', '4', '31']) {
      const some = asked(is('id', id));
      const { answers, places } = await together(some);
      expect(answers).toEqual(await alone(some));
      expect(kindsOf(places)).toEqual(['extract']);
    }
    await expect.poll(async () => kindsOf((await left()).flat().map(String))).toEqual(['stretch']);
  });

  test('what was added up goes with the stretch that it is of', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
    await together(asked(is('gate', 'gate a')));
    await together(asked(is('gate', 'gate c')));
    vi.useRealTimers();
    await expect.poll(talliesLeft).toBe(4);
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
    await together(asked(is('gate', 'gate c')));
    // It is left a moment after the last answer.
    for (let turn = 0; turn < 20; turn += 1) await new Promise(setImmediate);
    vi.advanceTimersByTime(31_000);
    vi.useRealTimers();
    await expect.poll(left).toEqual([]);
  });

  test('of more questions than are kept, those that were asked last are', async () => {
    for (let n = 0; n < 8; n += 1) {
      const some = asked(is('gate', 'gate a')).map((plan) => ({
        ...plan,
        where: allOf([plan.where, { field: 'fare', test: { op: 'atLeast' as const, value: String(n) } }]),
      }));
      for (const gate of ['gate b', 'gate c', 'gate ä']) {
        const of = some.map((plan) => ({ ...plan, where: allOf([plan.where, is('gate', gate, 'gate a')]) }));
        expect((await together(of)).answers).toEqual(await alone(of));
      }
      expect(await talliesLeft()).toBeLessThan(30);
    }
  });

  test.each<[string, readonly Plan[], number]>([
    ['they are few, and of a stretch that nobody asked for', at(1, 27).slice(0, 4), asIf],
    ['there are not very many records', plans, 6000],
    ['they have nothing in common', plans.map((plan) => ({ ...plan, where: { all: [] } })), asIf],
  ])('ask all records where %s', async (_, asked, records) => {
    const { answers, places } = await together(asked, records);
    expect(answers).toEqual(await alone(asked));
    expect(places).toEqual(['v1']);
  });

  test('are told what is not there, as each by itself', async () => {
    const some = plans.map((plan) => ({ ...plan, where: is('gone', 'x') }));
    for (const plan of some) await expect(run(plan)).rejects.toThrow('there is no field “gone”');
    const answers = await Promise.allSettled(some.map((plan) => askTogether(plan, asIf, engine, ask)));
    for (const answer of answers)
      expect(answer).toMatchObject({ reason: { message: expect.stringContaining('no field “gone”') } });
  });

  test('what has no order of its own is asked of all records, where it has one', async () => {
    const { places } = await together([...plans, page({ order: [] })]);
    expect(places.toSorted()).toEqual([expect.stringContaining('extract'), 'v1']);
  });
});
