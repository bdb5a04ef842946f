import { DuckDBInstance } from '@duckdb/node-api';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { bind, sql, toQuery } from '#core/sql/fragment.ts';
import { quotientMacros } from './quotient.ts';

/* Quotients to the last of their 12 decimals, against whole numbers of any length. */

/** a ÷ b with 12 decimals, half away from zero; both are whole numbers. */
function quotient(a: bigint, b: bigint): string | null {
  if (b === 0n) return null;
  const [dividend, divisor] = [a < 0n ? -a : a, b < 0n ? -b : b];
  const units = (dividend * 2n * 10n ** 12n + divisor) / (2n * divisor);
  const text = String(units).padStart(13, '0');
  return `${a < 0n !== b < 0n && units !== 0n ? '-' : ''}${text.slice(0, -12)}.${text.slice(-12)}`;
}

/** Numbers where the quick way ends, and where carries and halves are, are as likely as any. */
const whole = (most: bigint): fc.Arbitrary<bigint> =>
  fc.oneof(
    fc.bigInt({ min: -most, max: most }),
    fc.bigInt({ min: -1000n, max: 1000n }),
    fc
      .tuple(
        fc.constantFrom(4n * 10n ** 12n, 10n ** 12n, 10n ** 6n, 2n ** 31n, 10n ** 12n / 3n, most),
        fc.bigInt({ min: -2n, max: 2n }),
        fc.constantFrom(1n, -1n),
      )
      .map(([about, by, sign]) => {
        const value = sign * (about + by);
        return value > most || value < -most ? sign * most : value;
      }),
  );

async function quotientOf(
  rows: readonly (readonly [string, string])[],
  macro: string,
): Promise<(string | null)[]> {
  const values = rows.map(([a, b], at) => `(${at}, ${a}, ${b})`).join(', ');
  const read = await connection.runAndReadAll(
    `SELECT CAST(${macro}(a, b) AS VARCHAR) FROM (VALUES ${values}) AS t(n, a, b) ORDER BY n`,
  );
  return read.getRows().map(([value]) => (value === null || value === undefined ? null : String(value)));
}

const instance = await DuckDBInstance.create(':memory:', { threads: '1' });
const connection = await instance.connect();
for (const macro of quotientMacros) await connection.run(macro);

const int64 = 2n ** 63n - 1n;

test('of whole numbers of 64 bits, the least and the greatest too', async () => {
  const pair = fc.tuple(whole(int64), whole(int64));
  await fc.assert(
    fc.asyncProperty(fc.array(pair, { minLength: 100, maxLength: 100 }), async (pairs) => {
      const texts = pairs.map(([a, b]) => [`${a}::BIGINT`, `${b}::BIGINT`] as const);
      expect(await quotientOf(texts, 'whole_quotient')).toEqual(pairs.map(([a, b]) => quotient(a, b)));
    }),
    { numRuns: 40 },
  );
  expect(await quotientOf([['(-9223372036854775808)::BIGINT', '(-1)::BIGINT']], 'whole_quotient')).toEqual([
    '9223372036854775808.000000000000',
  ]);
});

test('of whole numbers by one that is written out: by way of its inverse where that is exact, and only there', async () => {
  const by = fc.oneof(
    fc.constantFrom(...[1n, 2n, 4n, 5n, 8n, 10n, 60n, 64n, 1000n, 1024n, 3600n, 4096n, 8192n]),
    fc.constantFrom(10n ** 6n, 10n ** 12n, 10n ** 12n + 1n, 10n ** 13n, 5n ** 12n, 5n ** 13n, int64),
    fc.bigInt({ min: 0n, max: 100n }),
  );
  const dividends = fc.array(whole(int64), { minLength: 50, maxLength: 50 });
  await fc.assert(
    fc.asyncProperty(dividends, by, async (all, divisor) => {
      const divided = duckdb.quotient(sql`a`, bind('integer', String(divisor)), { by: String(divisor) });
      const { text, values } = toQuery(divided, duckdb.placeholder);
      const rows = all.map((a, at) => `(${at}, ${a}::BIGINT)`).join(', ');
      const read = await connection.runAndReadAll(
        `SELECT CAST(${text} AS VARCHAR) FROM (VALUES ${rows}) AS t(n, a) ORDER BY n`,
        values as string[],
      );
      expect(read.getRows().map(([value]) => value)).toEqual(all.map((a) => quotient(a, divisor)));
    }),
    { numRuns: 60 },
  );
});

/** A whole number of units of a decimal as text: 1234 with 2 decimals is 12.34. */
function decimal(units: bigint, decimals: number): string {
  const text = String(units < 0n ? -units : units).padStart(decimals + 1, '0');
  const point = text.length - decimals;
  return `${units < 0n ? '-' : ''}${text.slice(0, point)}${decimals > 0 ? `.${text.slice(point)}` : ''}`;
}

test('of decimals, those of few digits and those of many', async () => {
  // Beyond this a divisor with 12 decimals has too many digits, which is an error and never another number.
  const most = 10n ** 13n;
  const decimals = fc.constantFrom(0, 2, 6, 7, 12);
  const pair = fc.tuple(whole(most), decimals, whole(most), decimals);
  await fc.assert(
    fc.asyncProperty(fc.array(pair, { minLength: 60, maxLength: 60 }), async (pairs) => {
      const texts = pairs.map(
        ([a, ofA, b, ofB]) =>
          [`${decimal(a, ofA)}::DECIMAL(38, 12)`, `${decimal(b, ofB)}::DECIMAL(38, 12)`] as const,
      );
      const expected = pairs.map(([a, ofA, b, ofB]) =>
        quotient(a * 10n ** BigInt(12 - ofA), b * 10n ** BigInt(12 - ofB)),
      );
      expect(await quotientOf(texts, 'exact_quotient')).toEqual(expected);
    }),
    { numRuns: 40 },
  );
});

test('a blank, and a divisor of zero, give a blank', async () => {
  const rows = [
    ['NULL::DECIMAL(18, 2)', '2::DECIMAL(18, 2)'],
    ['2::DECIMAL(18, 2)', 'NULL'],
    ['2::DECIMAL(18, 2)', '0.00'],
  ] as const;
  expect(await quotientOf(rows, 'exact_quotient')).toEqual([null, null, null]);
  expect(
    await quotientOf(
      rows.map(([a, b]) => [`CAST(${a} AS BIGINT)`, `CAST(${b} AS BIGINT)`] as const),
      'whole_quotient',
    ),
  ).toEqual([null, null, null]);
});
