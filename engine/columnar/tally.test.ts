import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { fieldsOf } from '#core/ask/condition/resolve.ts';
import { allOf, type GroupsPlan } from '#core/plan/plan.ts';
import { compile } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { tallyOf } from '#core/sql/tally.ts';
import type { Cell } from '#core/value/field/value.ts';
import { columnarRecords } from '#testing/columnar-records.ts';
import { fields, filter, groupsPlan, records, setsPlan } from '#testing/random-plans.ts';
import type { ColumnarDatabase } from './database.ts';
import { runColumnar } from './run.ts';

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'slate-tally-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const orders = fc.constantFrom([], [{ by: 'm', descending: true }], [{ by: 'm' }]);
const kept = (plan: GroupsPlan): GroupsPlan => ({
  ...plan,
  from: { ...plan.from, request: { kind: 'kept', name: 'v1' } },
});

async function ask(engine: ColumnarDatabase, query: ReturnType<typeof compile>): Promise<Cell[][]> {
  return (await runColumnar(engine, query, { doing: 'testing' })).records;
}

test('any plan is answered by its tally as by its records, whatever is asked of the fields it is kept by', async () => {
  let tallied = 0;
  await fc.assert(
    fc.asyncProperty(
      records,
      fc.array(fc.tuple(fc.oneof(groupsPlan, setsPlan), orders), { minLength: 24, maxLength: 30 }),
      fc.array(filter, { minLength: 2, maxLength: 3 }),
      async (rows, plans, filters) => {
        const engine = await columnarRecords(
          mkdtempSync(path.join(folder, 'records-')),
          fields,
          rows.map((row, at) => [String(at + 1), ...row]),
        );
        const by = [...new Set(filters.flatMap(fieldsOf))];
        for (const [given, order] of plans) {
          const plan = { ...kept(given), order };
          const tally = tallyOf(plan, by, 100_000, duckdb);
          if (!tally) continue;
          await engine.copyToTable('tally', tally.made);
          for (const where of filters) {
            const answer = await ask(engine, tally.answer('tally', where));
            const alone = { ...plan, where: allOf([plan.where, where]) };
            expect(answer).toEqual(await ask(engine, compile(alone, duckdb)));
            tallied += 1;
          }
        }
        await engine.close();
      },
    ),
    { numRuns: 4, seed: 20_261_130, endOnFailure: true },
  );
  expect(tallied).toBeGreaterThan(80);
});
