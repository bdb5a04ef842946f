import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { postgres } from '#core/sql/dialect/postgres/dialect.ts';
import { expressionSql } from '#core/sql/expression.ts';
import { identifier, sql, toQuery } from '#core/sql/fragment.ts';
import type { Field } from '#core/value/field/field.ts';
import { checkExpression, writtenName } from './check.ts';
import { functions } from './functions.ts';

const fields: Field[] = [
  { name: 'route', type: 'text' },
  { name: 'delay_minutes', type: 'integer' },
  { name: 'fares', type: 'decimal' },
  { name: 'late', type: 'boolean' },
  { name: 'day', type: 'date' },
  { name: 'departs', type: 'instant' },
  { name: 'landed', type: 'instant' },
  { name: 'given to', type: 'text' },
  { name: 'order', type: 'integer' },
  { name: 'more', type: 'nested' },
];

const typeOf = (text: string): string => {
  const checked = checkExpression(text, fields);
  return checked.ok ? checked.type : `${checked.why} @${checked.at.from}`;
};

describe('an expression', () => {
  test('has the type that standard SQL gives it', () => {
    expect(typeOf('delay_minutes + 1')).toBe('integer');
    expect(typeOf('delay_minutes * 1.5')).toBe('decimal');
    expect(typeOf('delay_minutes / 2')).toBe('decimal');
    expect(typeOf('route || \' · \' || "given to"')).toBe('text');
    expect(typeOf('CASE WHEN late THEN 1 ELSE 2.5 END')).toBe('decimal');
    expect(typeOf('landed - departs > NULL')).toContain('EXTRACT(EPOCH FROM');
    expect(typeOf('landed - departs')).toContain('EXTRACT(EPOCH FROM');
    expect(typeOf('EXTRACT(EPOCH FROM landed - departs) / 60')).toBe('decimal');
    expect(typeOf("departs + INTERVAL '3' HOUR")).toBe('instant');
    expect(typeOf("day - DATE '2026-11-23'")).toBe('integer');
    expect(typeOf('CURRENT_DATE - CAST(departs AS date)')).toBe('integer');
    expect(typeOf('NOT late AND (delay_minutes BETWEEN 1 AND 5 OR route IS NULL)')).toBe('boolean');
    expect(typeOf("COALESCE(NULLIF(TRIM(route), ''), 'no route')")).toBe('text');
  });

  test('binds as SQL does: products before sums, and before or, not before and', () => {
    const shape = (text: string): unknown => {
      const checked = checkExpression(text, fields);
      return checked.ok
        ? JSON.parse(JSON.stringify(checked.expression, (key, value) => (key === 'at' ? undefined : value)))
        : checked;
    };
    expect(shape('1 + 2 * 3')).toEqual(shape('1 + (2 * 3)'));
    expect(shape('late OR late AND NOT late')).toEqual(shape('late OR (late AND (NOT late))'));
    expect(shape('1 - 2 - 3')).toEqual(shape('(1 - 2) - 3'));
    expect(shape('NOT delay_minutes = 1')).toEqual(shape('NOT (delay_minutes = 1)'));
  });

  test('compares days with moments, and says what a day is taken as', () => {
    const problemWith = (text: string) => {
      const checked = checkExpression(text, fields);
      return checked.ok ? [checked.type, checked.takesDays] : checked.why;
    };
    expect(problemWith('departs >= day')).toEqual(['boolean', true]);
    expect(problemWith("departs BETWEEN DATE '2026-11-01' AND CURRENT_DATE")).toEqual(['boolean', true]);
    expect(problemWith('COALESCE(departs, day)')).toEqual(['instant', true]);
    expect(problemWith("day > DATE '2026-11-01'")).toEqual(['boolean', false]);
    expect(problemWith("departs + INTERVAL '1' DAY")).toEqual(['instant', false]);
    expect(problemWith('departs = route')).toContain('one type');
  });

  test('says what is wrong, and where', () => {
    expect(typeOf('delay_minutes +')).toBe('the end has no meaning here @15');
    expect(typeOf('delay + 1')).toBe('there is no field “delay” @0');
    expect(typeOf('route + 1')).toBe('a number is wanted here, and this is text @0');
    expect(typeOf("'open")).toBe('a text begins here and does not end @0');
    expect(typeOf('ROUND(fares')).toBe('“)” is missing before the end @11');
    expect(typeOf('CASE late WHEN 1 THEN 2 END')).toContain('one type');
    expect(typeOf("DATE '2026-02-30'")).toContain('not a date');
    expect(typeOf('EXTRACT(HOUR FROM day)')).toContain('a date has no hour');
    expect(typeOf('more = more')).toContain('cannot be compared');
    expect(typeOf('')).toBe('there is nothing to work out yet @0');
  });

  test('calls nothing but what is listed: no files, settings, other tables, or anything of the server', () => {
    for (const text of [
      "pg_read_file('/etc/passwd')",
      "read_csv('/etc/passwd')",
      'pg_sleep(1000)',
      "current_setting('data_directory')",
      '(SELECT password FROM users)',
      'EXISTS (SELECT 1)',
      "getenv('HOME')",
      "set_config('a', 'b', false)",
      "query('select 1')",
      'delay_minutes; DROP TABLE sailings',
      'route::regclass',
      '$1',
      ':name',
      '@x',
      "E'\\x41'",
      'a.b',
      'kept."x"',
      'repeat(route, 1000000000)',
      'lpad(route, 1000000000)',
      'generate_series(1, 1000000000)',
    ])
      expect(checkExpression(text, fields).ok, text).toBe(false);
  });

  test('names a field that is no plain word in double quotes', () => {
    for (const { name } of fields) expect(typeOf(writtenName(name)), name).not.toContain('@');
    expect(writtenName('a "b"')).toBe('"a ""b"""');
    expect(writtenName('case')).toBe('"case"');
  });
});

const pieces = [
  ...functions.map(({ name }) => name),
  ...fields.map(({ name }) => writtenName(name)),
  ...'( ) , + - * / % || = <> < <= > >= and or not is null true case when then else end cast as integer text numeric date timestamp extract hour epoch from between in like interval day distinct current_date current_timestamp substring for position'.split(
    ' ',
  ),
  "'fog'",
  "'%'",
  "'3'",
  '12',
  '0.5',
  '"',
  "'",
  ';',
  '--',
  '/*',
  '$$',
  '\\',
  '\0',
  '🚢',
];

const allowed = new Set(
  'nullif coalesce greatest least abs round floor ceil upper lower trim char_length length strpos substr replace extract trim_scale case when then else end and or not is null in like escape from as distinct between at time zone interval bigint numeric text date timestamptz boolean double precision int true false to_char date_trunc decimal cast varchar timestamp hugeint try_cast contains rtrim plain_decimal regexp_full_match exact_quotient to_seconds to_minutes to_hours to_days to_weeks to_months to_quarters to_years epoch epoch_us timezone year quarter month week day isodow hour minute second strftime starts_with make_date to_number collate c r integer json json_valid doubles'.split(
    ' ',
  ),
);

describe('any text at all', () => {
  const anything = fc.oneof(
    {
      weight: 4,
      arbitrary: fc.array(fc.constantFrom(...pieces), { maxLength: 24 }).map((parts) => parts.join(' ')),
    },
    { weight: 1, arbitrary: fc.string({ unit: 'binary', maxLength: 200 }) },
    { weight: 1, arbitrary: fc.nat(3000).map((depth) => `${'('.repeat(depth)}1${')'.repeat(depth)}`) },
    {
      weight: 1,
      arbitrary: fc.nat(3000).map((depth) => `${'NOT '.repeat(depth / 4)}late${' + -1'.repeat(depth / 8)}`),
    },
  );

  test('is read or refused, never anything else, and its SQL has only what is listed', () => {
    let read = 0;
    fc.assert(
      fc.property(anything, (text) => {
        const checked = checkExpression(text, fields);
        if (!checked.ok) {
          expect(checked.why.length).toBeGreaterThan(3);
          return;
        }
        read += 1;
        for (const dialect of [postgres, duckdb]) {
          const query = toQuery(
            expressionSql(checked.expression, {
              fields,
              fieldSql: (name) => {
                const field = fields.find((each) => each.name === name);
                if (!field) throw new RangeError(name);
                const value = sql`r.${identifier(name)}`;
                return { field, value, asItIs: value };
              },
              dialect,
              zone: 'Europe/London',
              now: '2026-11-23T06:40:00Z',
            }),
            dialect.placeholder,
          );
          // What is left without quoted names, SQL's own constants and placeholders is words that are listed.
          const bare = query.text
            .replace(/"(?:[^"]|"")*"/g, ' ')
            .replace(/'(?:[^']|'')*'/g, ' ')
            .replace(/\$\d+/g, ' ');
          expect(bare).not.toMatch(/;|--|\/\*/);
          for (const word of bare.match(/[A-Za-z_]\w*/g) ?? [])
            expect(allowed.has(word.toLowerCase()), `${word} of ${query.text}`).toBe(true);
        }
      }),
      { numRuns: 2500 },
    );
    expect(read).toBeGreaterThan(100);
  });
});
