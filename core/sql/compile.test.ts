import { describe, expect, test } from 'vitest';
import type { Filter } from '#core/ask/condition/resolve.ts';
import type { GroupsPlan, RecordsPlan, Relation } from '#core/plan/plan.ts';
import { postgres } from '#core/sql/dialect/postgres/dialect.ts';
import { groupsOf, recordsOf } from '#testing/plans.ts';
import { compile, compileCount } from './compile.ts';
import { bind, checkedText, identifier, join, ordinal, type Sql, sql, toQuery } from './fragment.ts';

const relation: Relation = {
  source: 's',
  inputs: {},
  fields: [
    { name: 'id', type: 'integer' },
    { name: 'cause', type: 'text' },
    { name: 'fares', type: 'decimal' },
    { name: 'departs', type: 'instant' },
    { name: 'day', type: 'date' },
    { name: 'route', type: 'text' },
    { name: 'island', type: 'text' },
  ],
  request: {
    kind: 'table',
    schema: 'public',
    table: 'sailings',
    columns: [
      { column: 'id', name: 'id', type: 'integer', filled: true },
      { column: 'cause', name: 'cause', type: 'text', filled: true },
      { column: 'fares', name: 'fares', type: 'decimal' },
      { column: 'departs', name: 'departs', type: 'instant', read: 'utc' },
      { column: 'day', name: 'day', type: 'date' },
    ],
    lookUps: [
      {
        as: 'route_id',
        by: 'route_id',
        schema: 'public',
        table: 'routes',
        key: 'id',
        take: [{ column: 'name', name: 'route', type: 'text' }],
      },
      {
        as: 'island_id',
        from: 'route_id',
        by: 'island_id',
        schema: 'public',
        table: 'islands',
        key: 'id',
        take: [{ column: 'name', name: 'island', type: 'text' }],
      },
    ],
  },
};

const records = (more: Partial<RecordsPlan> = {}): RecordsPlan => recordsOf(relation, more);
const groups = (more: Partial<GroupsPlan> = {}): GroupsPlan => groupsOf(relation, more);
const where = (filter: Filter): { text: string; values: readonly unknown[] } => {
  const { text, values } = compileCount(records({ where: filter }), postgres);
  return { text: text.split(' AS r WHERE ')[1] ?? '', values };
};

describe('blanks', () => {
  test('pass “is not”, which bare SQL would drop', () => {
    const isNot = (...values: string[]): string =>
      where({ field: 'fares', test: { op: 'isNot', values } }).text;
    expect(isNot('1', '2')).toBe('(NOT (r."fares" IS NOT NULL AND r."fares" = ANY($1::numeric[])))');
    expect(isNot('1')).toBe('(r."fares" IS DISTINCT FROM $1::numeric)');
  });

  test('are one of the values where blank is chosen with others', () => {
    expect(where({ field: 'fares', test: { op: 'is', values: ['1', null] } }).text).toBe(
      '(r."fares" IS NULL OR (r."fares" IS NOT NULL AND r."fares" = ANY($1::numeric[])))',
    );
  });

  test('of text are also what is empty', () => {
    expect(where({ field: 'cause', test: { op: 'blank' } }).text).toBe('(nullif(r."cause", \'\') IS NULL)');
  });

  test('come last both ways, and an index is not passed over where there are none', () => {
    const order = (by: string, descending: boolean): string =>
      compile(records({ order: [{ by, descending }], key: by }), postgres).text.replace(
        /^.* ORDER BY (.*) LIMIT.*$/s,
        '$1',
      );
    expect(order('fares', true)).toBe('r."fares" DESC NULLS LAST');
    expect(order('fares', false)).toBe('r."fares" ASC');
    expect(order('id', true)).toBe('r."id" DESC');
    // A text that is never null may still be empty, which counts as blank.
    expect(order('cause', true)).toBe('nullif(r."cause", \'\') DESC NULLS LAST');
  });
});

describe('text', () => {
  test('typed by a person matches its % and _ literally and ignores case', () => {
    const { text, values } = where({ field: 'cause', test: { op: 'contains', text: '50%_\\' } });
    expect(text).toContain('ILIKE $1::text');
    expect(values).toEqual(['%50\\%\\_\\\\%']);
  });

  test('values are compared without case on both sides', () => {
    const { text, values } = where({ field: 'cause', test: { op: 'is', values: ['WeAther'] } });
    // As the column is: only so does PostgreSQL look for it in the table that it comes from, before that is joined.
    expect(text).toContain('lower(r."cause") = ANY($1::text[])');
    expect(values).toEqual([['weather']]);
    const { text: blank } = where({ field: 'cause', test: { op: 'is', values: ['WeAther', null] } });
    expect(blank).toContain('nullif(r."cause", \'\') IS NULL');
  });

  test('that was picked is compared letter for letter', () => {
    expect(where({ field: 'cause', test: { op: 'same', value: 'WeAther' } })).toEqual({
      text: '(nullif(r."cause", \'\') IS NOT NULL AND nullif(r."cause", \'\') = $1::text)',
      values: ['WeAther'],
    });
  });
});

describe('numbers', () => {
  test('cross as text with a cast: no digit passes through a float', () => {
    const { text, values } = where({
      field: 'fares',
      test: { op: 'between', from: '0.10', to: '12345678901234567890.12' },
    });
    expect(text).toContain('>= $1::numeric AND r."fares" <= $2::numeric');
    expect(values).toEqual(['0.10', '12345678901234567890.12']);
  });

  test('have an exact median, the mean of the two in the middle', () => {
    const { text } = compile(
      groups({ measures: [{ name: 'm', calculation: { kind: 'median', field: 'fares' } }] }),
      postgres,
    );
    expect(text).toContain('percentile_disc(0.5)');
    expect(text).not.toContain('percentile_cont');
  });

  test('divided by none are blank, not an error', () => {
    const ratio = {
      kind: 'ratio' as const,
      of: { kind: 'sum' as const, field: 'fares' },
      to: { kind: 'count' as const },
    };
    expect(compile(groups({ measures: [{ name: 'm', calculation: ratio }] }), postgres).text).toContain(
      'nullif((count(*))::numeric, 0)',
    );
  });
});

describe('time', () => {
  test('is grouped by the days of the desk’s zone', () => {
    const { text, values } = compile(groups({ by: [{ field: 'departs', unit: 'week' }] }), postgres);
    expect(text).toContain('date_trunc(\'week\', r."departs" AT TIME ZONE $1::text)::date');
    expect(values[0]).toBe('Europe/London');
  });

  test('of a date field has no zone', () => {
    expect(compile(groups({ by: [{ field: 'day', unit: 'month' }] }), postgres).text).toContain(
      'date_trunc(\'month\', r."day"::timestamp)::date',
    );
  });

  test('by the hour keeps the two hours of a clock change apart', () => {
    expect(compile(groups({ by: [{ field: 'departs', unit: 'hour' }] }), postgres).text).toContain(
      'date_trunc(\'hour\', r."departs", $1::text)',
    );
  });

  test('without a zone in the source is taken as UTC', () => {
    expect(compile(records({ fields: ['departs'] }), postgres).text).toContain(
      '(t."departs" AT TIME ZONE \'UTC\') AS "departs"',
    );
  });

  test('spans are half-open', () => {
    expect(where({ field: 'day', test: { op: 'within', from: '2026-01-01', to: '2026-02-01' } }).text).toBe(
      '(r."day" IS NOT NULL AND r."day" >= $1::date AND r."day" < $2::date)',
    );
    expect(where({ field: 'day', test: { op: 'within', from: null, to: '2026-02-01' } }).text).toBe(
      '(r."day" IS NOT NULL AND r."day" < $1::date)',
    );
  });
});

describe('what is asked of the source', () => {
  test('is only the fields that are needed', () => {
    const { text } = compile(records({ fields: ['id'] }), postgres);
    expect(text).toContain('(SELECT t."id" AS "id" FROM "public"."sailings" AS t) AS r');
  });

  test('joins only the look-ups that are needed, and those they start from', () => {
    expect(compile(records({ fields: ['route'] }), postgres).text.match(/LEFT JOIN/g)).toHaveLength(1);
    const both = compile(records({ fields: ['island'] }), postgres).text;
    expect(both.match(/LEFT JOIN/g)).toHaveLength(2);
    expect(both).toContain('"look island_id"."id" = "look route_id"."island_id"');
    expect(compileCount(records({ fields: ['island'] }), postgres).text).not.toContain('JOIN');
  });

  test('is refused by name when a field has gone', () => {
    expect(() => compile(records({ fields: ['gone'] }), postgres)).toThrow(
      'there is no field “gone” in this data set',
    );
    expect(() => compile(groups({ by: [{ field: 'gone' }] }), postgres)).toThrow('“gone”');
  });

  test('pages by key where the order has ties', () => {
    expect(compile(records({ key: 'id', order: [{ by: 'fares' }] }), postgres).text).toContain(
      'ORDER BY r."fares" ASC, r."id" ASC LIMIT $1::bigint OFFSET $2::bigint',
    );
    expect(compile(records({ key: 'id', order: [{ by: 'id', descending: true }] }), postgres).text).toContain(
      'ORDER BY r."id" DESC LIMIT',
    );
  });

  test('for the top values ranks first and then computes the rest from its records', () => {
    const { text } = compile(groups({ by: [{ field: 'cause' }], top: { count: 3, rest: true } }), postgres);
    expect(text).toContain('WITH top AS MATERIALIZED (SELECT');
    expect(text).toContain('NOT IN (SELECT v FROM top)) AS rest');
    const without = compile(
      groups({ by: [{ field: 'cause' }], top: { count: 3, rest: false } }),
      postgres,
    ).text;
    expect(without).toContain('WHERE NOT (');
  });

  test('binds each input of SQL text where it stands, every time it stands there', () => {
    const from: Relation = {
      ...relation,
      inputs: { least: { type: 'integer', value: '5' } },
      request: {
        kind: 'sql',
        text: "SELECT id FROM s WHERE a > :least OR b > :least OR c = ':least' -- :least",
        columns: [{ column: 'id', name: 'id', type: 'integer' }],
      },
    };
    const { text, values } = compile(records({ from }), postgres);
    expect(text).toContain("WHERE a > $1::bigint OR b > $2::bigint OR c = ':least' -- :least\n) AS q");
    expect(values.slice(0, 2)).toEqual(['5', '5']);
  });
});

describe('pieces of SQL', () => {
  test('quote names, whatever they hold', () => {
    expect(toQuery(identifier('a"; DROP TABLE x; --'), () => '?').text).toBe('"a""; DROP TABLE x; --"');
    expect(() => identifier('a\0b')).toThrow('NUL');
  });

  test('can only be put together from pieces: a text that slipped in is refused', () => {
    const forged = { text: ["'; DROP TABLE x; --"], values: [] } as unknown as Sql;
    expect(() => sql`SELECT ${forged}`).toThrow('SQL can only be put together from SQL');
    expect(() => sql`SELECT ${'text' as unknown as Sql}`).toThrow(TypeError);
    expect(() => join([forged], sql`, `)).toThrow(TypeError);
  });

  test('keep values in order, however deep they are nested', () => {
    const inner = sql`a = ${bind('integer', '1')} AND b = ${bind('text', 'x')}`;
    const { text, values } = toQuery(sql`(${inner}) OR ${bind('date', null)}`, (index) => `$${index}`);
    expect([text, values]).toEqual(['(a = $1 AND b = $2) OR $3', ['1', 'x', null]]);
  });

  test('refuse ordinals that are no whole numbers, and text without room for its values', () => {
    expect(() => ordinal(1.5)).toThrow(TypeError);
    expect(() => checkedText(['a'], [{ type: 'text', value: 'x' }])).toThrow(TypeError);
  });
});
