import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { recordsBehind } from '#core/plan/behind.ts';
import { type GroupsPlan, mostNumbers, type RecordsPlan } from '#core/plan/plan.ts';
import { compile } from '#core/sql/compile.ts';
import { postgres } from '#core/sql/dialect/postgres/dialect.ts';
import type { Cell } from '#core/value/field/value.ts';
import { testDatabase } from '#testing/database.ts';
import {
  createTable,
  fields,
  filter,
  groupsPlan,
  records,
  relation,
  setsPlan,
} from '../../testing/random-plans.ts';
import { countRecords, runPlan } from './engine.ts';
import { endPools } from './pool.ts';

let database: Awaited<ReturnType<typeof testDatabase>>;
const asking = () => ({ address: database.address, doing: 'testing' });
const page = { fields: fields.map(({ name }) => name), order: [], key: 'id', offset: 0, limit: 10_000 };

beforeAll(async () => {
  database = await testDatabase();
  await database.client.query(createTable);
});
afterAll(async () => {
  await endPools();
  await database.client.end();
});

async function fill(rows: readonly (readonly (string | null)[])[]): Promise<void> {
  await database.client.query('TRUNCATE sailing');
  const values = rows.map((row, index) => [String(index + 1), ...row]);
  const columns = fields.map((_, at) => values.map((row) => row[at] ?? null));
  await database.client.query(
    `INSERT INTO sailing SELECT * FROM unnest($1::bigint[], $2::text[], $3::text[], $4::bigint[], $5::numeric[], $6::boolean[], $7::date[], $8::timestamptz[])`,
    columns,
  );
}

/** The measure computed over exactly the records that were found behind the number. */
async function measured(plan: GroupsPlan, behind: RecordsPlan): Promise<Cell> {
  const again = await runPlan(
    { ...plan, by: [], order: [], where: behind.where, ...{ top: undefined, sets: undefined } },
    asking(),
  );
  return again.records[0]?.[0] ?? null;
}

const seed = 20_261_123;

describe('records behind a number', () => {
  test('count to a count, and give every other measure again, for any plan over any records', async () => {
    let numbers = 0;
    await fc.assert(
      fc.asyncProperty(records, groupsPlan, async (rows, plan) => {
        await fill(rows);
        const { records: groups } = await runPlan(plan, asking());
        const lead = plan.top ? 1 : 0;
        const tops = plan.top
          ? groups.filter((each) => each[0] === false && each[1] !== null).map((each) => each[1] ?? null)
          : [];
        for (const record of groups.slice(0, 6)) {
          const values = record.slice(lead, lead + plan.by.length);
          const value = record[lead + plan.by.length] ?? null;
          const [measure] = plan.measures;
          if (!measure) throw new Error('a plan without a measure');
          const cell = { values, ...(plan.top && record[0] === true ? { restOf: [...new Set(tops)] } : {}) };
          // A share is checked over its whole group: the records behind it are only those that meet its condition.
          const whole =
            measure.calculation.kind === 'share'
              ? { ...measure, calculation: { kind: 'count' as const } }
              : measure;
          const behind = recordsBehind(plan, cell, whole, page);
          if (measure.calculation.kind === 'count') expect(await countRecords(behind, asking())).toBe(value);
          expect(await measured(plan, behind)).toBe(value);
          numbers += 1;
        }
      }),
      { numRuns: 250, seed },
    );
    expect(numbers).toBeGreaterThan(300);
  });

  test('of all groups together are all records, each once: groups and the rest never overlap or leave out', async () => {
    await fc.assert(
      fc.asyncProperty(records, groupsPlan, async (rows, random) => {
        await fill(rows);
        const plan: GroupsPlan = {
          ...random,
          measures: [{ name: 'm', calculation: { kind: 'count' } }],
          ...(random.top ? { top: { ...random.top, rest: true } } : {}),
        };
        const { records: groups } = await runPlan(plan, asking());
        const total = groups.reduce((sum, record) => sum + BigInt(String(record.at(-1))), 0n);
        const all = await countRecords(
          { kind: 'records', from: relation, zone: plan.zone, where: plan.where, ...page },
          asking(),
        );
        expect(String(total)).toBe(all);
      }),
      { numRuns: 150, seed },
    );
  });
});

describe('totals and subtotals', () => {
  test('are each worked out from the records behind them, for any plan over any records', async () => {
    let numbers = 0;
    await fc.assert(
      fc.asyncProperty(records, setsPlan, fc.nat(30), async (rows, plan, from) => {
        await fill(rows);
        const { records: found } = await runPlan(plan, asking());
        const { sets = [], by, measures } = plan;
        const lead = plan.top ? 2 : 1;
        const tops = found
          .filter((each) => plan.top && each[1] === false && each[2] !== null)
          .map((each) => each[2] ?? null);
        // The grand total is there whatever the records, and no set comes after a finer one.
        expect(found[0]?.[0]).toBe(String(sets.findIndex((set) => set.length === 0)));
        for (const record of [...found.slice(0, 1), ...found.slice(from, from + 4)]) {
          const of = sets[Number(record[0])] ?? [];
          expect(
            by.flatMap((_, index) => (of.includes(index) || record[lead + index] === null ? [] : [index])),
          ).toEqual([]);
          const cell = {
            of,
            values: of.map((index) => record[lead + index] ?? null),
            ...(plan.top && of.includes(0) && record[1] === true ? { restOf: [...new Set(tops)] } : {}),
          };
          for (const [at, measure] of measures.entries()) {
            const whole =
              measure.calculation.kind === 'share'
                ? { ...measure, calculation: { kind: 'count' as const } }
                : measure;
            const behind = recordsBehind(plan, cell, whole, page);
            expect(await measured({ ...plan, measures: [measure] }, behind)).toBe(
              record[lead + by.length + at] ?? null,
            );
            numbers += 1;
          }
        }
      }),
      { numRuns: 200, seed },
    );
    expect(numbers).toBeGreaterThan(500);
  });
});

test('of many totals none is left out unsaid', async () => {
  const count = 12_000;
  await fill(Array.from({ length: count }, (_, at) => [null, null, String(at), null, null, null, null]));
  const { records: found } = await runPlan(
    {
      kind: 'groups',
      from: relation,
      zone: 'UTC',
      where: { all: [] },
      by: [{ field: 'passengers' }],
      measures: [{ name: 'm', calculation: { kind: 'count' } }],
      order: [],
      limit: mostNumbers + 1,
      sets: [[], [0]],
    },
    asking(),
  );
  expect(found).toHaveLength(count + 1);
});

describe('filters', () => {
  test('and their negation share out the records between them: no blank falls through', async () => {
    await fc.assert(
      fc.asyncProperty(records, filter, async (rows, where) => {
        await fill(rows);
        const count = async (kept: typeof where) =>
          Number(
            await countRecords(
              { kind: 'records', from: relation, zone: 'UTC', where: kept, ...page },
              asking(),
            ),
          );
        const kept = await count(where);
        const others = await count({ none: [{ all: [where] }] });
        expect(kept + others).toBe(rows.length);
      }),
      { numRuns: 200, seed },
    );
  });
});

describe('pages', () => {
  test('of an order full of ties hold every record once', async () => {
    await fc.assert(
      fc.asyncProperty(records, fc.integer({ min: 1, max: 7 }), async (rows, limit) => {
        await fill(rows);
        const seen: Cell[] = [];
        for (let offset = 0; offset < rows.length; offset += limit) {
          const { records: found } = await runPlan(
            {
              kind: 'records',
              from: relation,
              zone: 'UTC',
              where: { all: [] },
              ...page,
              order: [{ by: 'cause', descending: true }],
              offset,
              limit,
            },
            asking(),
          );
          seen.push(...found.map((record) => record[0] ?? null));
        }
        expect(new Set(seen).size).toBe(rows.length);
        expect(seen.length).toBe(rows.length);
      }),
      { numRuns: 30, seed },
    );
  });
});

describe('SQL text', () => {
  test('never holds a value, whatever the value', () => {
    const marker = fc.string({ minLength: 3, maxLength: 30, unit: 'grapheme' }).map((text) => `⁂${text}⁂`);
    fc.assert(
      fc.property(marker, marker, groupsPlan, (one, two, plan) => {
        const where = {
          all: [
            { field: 'cause', test: { op: 'is' as const, values: [one, null] } },
            { field: 'route', test: { op: 'contains' as const, text: two } },
            { any: [{ field: 'route', test: { op: 'same' as const, value: one } }, plan.where] },
          ],
        };
        const { text, values } = compile({ ...plan, where, zone: two }, postgres);
        expect(text).not.toContain('⁂');
        expect(JSON.stringify(values)).toContain(JSON.stringify(one.toLowerCase()).slice(1, -1));
      }),
      { numRuns: 2000, seed },
    );
  });

  test('has as many placeholders as there are values, in order', () => {
    fc.assert(
      fc.property(groupsPlan, (plan) => {
        const { text, values } = compile(plan, postgres);
        const found = [...text.matchAll(/\$(\d+)::/g)].map((match) => Number(match[1]));
        expect(found).toEqual(values.map((_, index) => index + 1));
      }),
      { numRuns: 1000, seed },
    );
  });
});
