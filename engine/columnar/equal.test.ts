import fc from 'fast-check';
import pMap from 'p-map';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { Filter } from '#core/ask/condition/resolve.ts';
import type { Plan, RecordsPlan } from '#core/plan/plan.ts';
import { compile, compileCount } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import type { Cell } from '#core/value/field/value.ts';
import { countRecords, runPlan } from '#engine/postgres/engine.ts';
import { type EnginePair, enginePair, type PairColumn, type PairRows } from '../../testing/engine-pair.ts';
import {
  createTable,
  fields,
  filter,
  groupsPlan,
  records,
  relation,
  setsPlan,
} from '../../testing/random-plans.ts';
import { runColumnar } from './run.ts';

/*
 * Two engines, one meaning: the same plan over the same records gives the same answer in the same order, from
 * PostgreSQL and from Parquet files read by DuckDB.
 */

const columns: PairColumn[] = [
  { name: 'id', postgres: 'bigint', duckdb: 'BIGINT' },
  { name: 'route', postgres: 'text', duckdb: 'VARCHAR' },
  { name: 'cause', postgres: 'text', duckdb: 'VARCHAR' },
  { name: 'passengers', postgres: 'bigint', duckdb: 'BIGINT' },
  { name: 'fares', postgres: 'numeric', duckdb: 'DECIMAL(38,9)' },
  { name: 'cancelled', postgres: 'boolean', duckdb: 'BOOLEAN' },
  { name: 'day', postgres: 'date', duckdb: 'DATE' },
  { name: 'departs', postgres: 'timestamptz', duckdb: 'TIMESTAMP' },
];

let pair: EnginePair;
beforeAll(async () => {
  pair = await enginePair();
  await pair.database.client.query(createTable);
});
afterAll(() => pair.close());

/** Several files, some of them without records, make one version. */
const fill = (rows: PairRows, files: number): Promise<void> => pair.fill('sailing', columns, rows, files);

const kept = <P extends Plan>(plan: P, spans?: Plan['from']['spans']): P => ({
  ...plan,
  from: { ...plan.from, request: { kind: 'kept', name: 'sailing' }, ...(spans ? { spans } : {}) },
});
/** The least and greatest of the instants that records are made of. */
const known = { departs: { least: '2025-12-31T23:30:00Z', greatest: '2026-11-23T06:40:00Z' } };
const ofColumnar = async (plan: Plan, spans?: Plan['from']['spans']): Promise<Cell[][]> =>
  (await runColumnar(pair.columnar, compile(kept(plan, spans), duckdb), { doing: 'testing' })).records;
const ofPostgres = async (plan: Plan): Promise<Cell[][]> =>
  (await runPlan(plan, { address: pair.database.address, doing: 'testing' })).records;

/** A decimal has the same value with or without zeros at its end; an instant with or without those of its second. */
const canonical = (rows: readonly (readonly Cell[])[]): Cell[][] =>
  rows.map((row) =>
    row.map((cell) => {
      if (typeof cell !== 'string') return cell;
      if (/^-?\d+\.\d+$/.test(cell)) return cell.replace(/\.?0+$/, '');
      return cell.replace(/(T\d\d:\d\d:\d\d)\.(\d*?)0*Z$/, (_, time, part) =>
        part ? `${time}.${part}Z` : `${time}Z`,
      );
    }),
  );

const recordsPlan: fc.Arbitrary<RecordsPlan> = fc
  .record({
    where: filter,
    order: fc.uniqueArray(
      fc.record({ by: fc.constantFrom(...fields.map(({ name }) => name)), descending: fc.boolean() }),
      { maxLength: 3, selector: ({ by }) => by },
    ),
    offset: fc.integer({ min: 0, max: 10 }),
    limit: fc.integer({ min: 1, max: 40 }),
  })
  .map((some) => ({
    kind: 'records',
    from: relation,
    zone: 'UTC',
    fields: fields.map(({ name }) => name),
    key: 'id',
    ...some,
  }));

/** Plans that are asked at the same time. */
const atOnce = 4;

const orders = fc.constantFrom([], [{ by: 'm', descending: true }], [{ by: 'm' }]);

test('any plan over any records gives the same answer, to the last digit and in the same order', async () => {
  let cases = 0;
  await fc.assert(
    fc.asyncProperty(
      records,
      fc.integer({ min: 1, max: 3 }),
      fc.array(
        fc.tuple(fc.oneof({ weight: 3, arbitrary: groupsPlan }, { weight: 1, arbitrary: setsPlan }), orders),
        {
          minLength: 30,
          maxLength: 40,
        },
      ),
      fc.array(recordsPlan, { minLength: 12, maxLength: 20 }),
      async (rows, files, groups, pages) => {
        await fill(rows, files);
        const plans: Plan[] = [...groups.map(([plan, order]) => ({ ...plan, order })), ...pages];
        await pMap(
          plans,
          async (plan) => {
            const [here, there] = await Promise.all([ofColumnar(plan, known), ofPostgres(plan)]);
            expect(canonical(here)).toEqual(canonical(there));
            cases += 1;
          },
          { concurrency: atOnce },
        );
        await pMap(
          pages.slice(0, 4),
          async (plan) => {
            const doing = { doing: 'testing' };
            const [{ records: counted }, count] = await Promise.all([
              runColumnar(pair.columnar, compileCount(kept(plan), duckdb), doing),
              countRecords(plan, { address: pair.database.address, ...doing }),
            ]);
            expect(counted[0]?.[0]).toBe(count);
          },
          { concurrency: atOnce },
        );
      },
    ),
    { numRuns: 42, seed: 20_261_123, endOnFailure: true },
  );
  expect(cases).toBeGreaterThan(2000);
});

test('days around a change of clocks are those of the zone, whatever is known of the span of the instants', async () => {
  const instants = [
    '2026-03-28T23:59:59.999999Z',
    '2026-03-29T00:59:59Z',
    '2026-03-29T23:00:00Z',
    '2026-10-25T00:30:00Z',
    '2026-10-25T01:30:00Z',
  ];
  await fill(
    instants.map((at) => [null, null, null, null, null, null, at]),
    1,
  );
  for (const unit of ['hour', 'day', 'week'] as const)
    for (const zone of ['Europe/London', 'America/St_Johns', 'Pacific/Apia', 'Africa/Casablanca']) {
      const plan: Plan = {
        kind: 'groups',
        from: relation,
        where: { all: [] },
        zone,
        by: [{ field: 'departs', unit }],
        measures: [{ name: 'm', calculation: { kind: 'count' } }],
        order: [],
        limit: 100,
      };
      const spans = { departs: { least: instants[0] ?? '', greatest: instants.at(-1) ?? '' } };
      // Bounds that are asked for say what the span is too.
      const bounded = instants.flatMap((from, at) =>
        instants.slice(at + 1).map((to): Filter => ({ field: 'departs', test: { op: 'within', from, to } })),
      );
      for (const where of [plan.where, ...bounded]) {
        const wanted = canonical(await ofPostgres({ ...plan, where }));
        expect(canonical(await ofColumnar({ ...plan, where }))).toEqual(wanted);
        expect(canonical(await ofColumnar({ ...plan, where }, spans))).toEqual(wanted);
      }
    }
});

test('records stand in the order of the states that a field has, the others after them and blanks last', async () => {
  const causes = ['tide', 'weather', null, 'crew', 'weather', 'loading'];
  await fill(
    causes.map((cause) => [null, cause, null, null, null, null, null]),
    2,
  );
  const tone = 'moving' as const;
  const states = ['weather', 'crew', 'never'].map((value) => ({ value, word: value, tone }));
  const from = {
    ...relation,
    fields: fields.map((field) => (field.name === 'cause' ? { ...field, states } : field)),
  };
  const page = (descending: boolean): RecordsPlan => ({
    kind: 'records',
    from,
    zone: 'UTC',
    where: { all: [] },
    fields: ['cause'],
    key: 'id',
    order: [{ by: 'cause', descending }],
    offset: 0,
    limit: 10,
  });
  for (const [descending, expected] of [
    [false, ['weather', 'weather', 'crew', 'loading', 'tide', null]],
    [true, ['tide', 'loading', 'crew', 'weather', 'weather', null]],
  ] as const) {
    const [one, other] = [await ofPostgres(page(descending)), await ofColumnar(page(descending))];
    expect(other).toEqual(one);
    expect(one.map(([cause]) => cause)).toEqual(expected);
  }
});
