import { describe, expect, test } from 'vitest';
import type { Filter } from '#core/ask/condition/resolve.ts';
import type { Condition } from '#core/ask/condition/schema.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import { extend, type GroupsPlan, type RecordsPlan, type Relation } from '#core/plan/plan.ts';
import { planSteps } from '#core/plan/relation.ts';
import { compile, compileCount } from '#core/sql/compile.ts';
import { groupsOf, recordsOf } from '#testing/plans.ts';
import { postgres } from '../postgres/dialect.ts';
import { duckdb } from './dialect.ts';

const kept: Relation = {
  source: 's',
  inputs: {},
  request: { kind: 'kept', name: 'v1' },
  fields: [
    { name: 'id', type: 'integer' },
    { name: 'cause', type: 'text' },
    { name: 'fares', type: 'decimal' },
    { name: 'speed', type: 'float' },
    { name: 'late', type: 'boolean' },
    { name: 'departs', type: 'instant' },
    { name: 'day', type: 'date' },
  ],
};
const records = (more: Partial<RecordsPlan> = {}): RecordsPlan => recordsOf(kept, more);
const groups = (more: Partial<GroupsPlan> = {}): GroupsPlan => groupsOf(kept, more);
const where = (filter: Filter): { text: string; values: readonly unknown[] } => {
  const { text, values } = compileCount(records({ where: filter }), duckdb);
  return { text: text.split(' AS r WHERE ')[1] ?? '', values };
};
const shaped = (steps: readonly object[]): Relation =>
  extend(
    kept,
    planSteps(
      kept.fields,
      steps.map((step, at) => ({ ...step, id: `step-${at}` }) as Step),
      {},
      { world: new Map(), clock: { now: new Date(0), zone: 'UTC' }, person: { name: '', email: '' } },
    ),
  );
const expression = (name: string, text: string) => ({
  kind: 'derive',
  name,
  making: { kind: 'expression', text },
});
const keeping = (condition: Condition) => ({ kind: 'where', condition });
const measured = (calculation: GroupsPlan['measures'][number]['calculation']): string =>
  compile(groups({ measures: [{ name: 'm', calculation }] }), duckdb).text;

describe('kept records', () => {
  test('are read by the name of their version, only in the fields that are needed', () => {
    expect(compile(records({ fields: ['cause'] }), duckdb).text).toContain(
      'SELECT r."cause" AS "cause" FROM "kept"."v1" AS r LIMIT',
    );
  });

  test('are joined on as they are where each value is known to find one of them; else they are grouped, to refuse several', () => {
    const looked = (other: Partial<Relation>, more: readonly object[] = []): string => {
      const lookUp = {
        kind: 'lookUp',
        from: { dataSet: 'd' },
        on: [{ field: 'cause', other: 'cause' }],
        mode: 'one',
        take: [{ field: 'day', as: 'taken' }],
        order: [],
      };
      const found: Relation = {
        ...kept,
        ...other,
        ...(more.length > 0 ? { steps: shaped(more).steps, start: kept.fields } : {}),
      };
      const step = {
        step: { ...lookUp, id: 'l' } as Step,
        before: kept.fields,
        filters: [],
        others: [found],
      };
      const from = extend(kept, {
        fields: [...kept.fields, { name: 'taken', type: 'date' }],
        steps: [step],
      });
      return compile(records({ from, fields: ['taken'] }), duckdb).text;
    };
    const isGrouped = expect.stringContaining('GROUP BY');
    expect(looked({})).toEqual(isGrouped);
    expect(looked({ unique: ['id'] })).toEqual(isGrouped);
    expect(looked({ unique: ['cause'] })).not.toEqual(isGrouped);
    const onTime = keeping({ field: 'late', test: { op: 'is', values: ['false'] } });
    expect(looked({ unique: ['cause'] }, [onTime])).not.toEqual(isGrouped);
    // A value that a step makes may stand in several records, though each stood in one before.
    expect(looked({ unique: ['cause'] }, [expression('cause', 'upper(cause)')])).toEqual(isGrouped);
  });

  test('hold no empty texts; what steps make of them may, and is blank then', () => {
    const blank: Filter = { field: 'cause', test: { op: 'blank' } };
    const sqlOf = (from: Relation): string => compileCount(records({ from, where: blank }), duckdb).text;
    expect(sqlOf(kept)).toContain('WHERE (r."cause" IS NULL)');
    const made = (text: string): string => sqlOf(shaped([expression('cause', text)]));
    expect(made("replace(cause, 'x', '')")).toContain(`WHERE (nullif(r."cause", '') IS NULL)`);
  });

  test('take steps that look at one record at a time in one SELECT', () => {
    const from = shaped([
      keeping({ field: 'late', test: { op: 'is', values: ['true'] } }),
      expression('twice', 'fares * 2'),
      { kind: 'rename', field: 'departs', as: 'at' },
      keeping({ field: 'at', test: { op: 'filled' } }),
      expression('word', "coalesce(cause, 'none')"),
    ]);
    const { text } = compileCount(records({ from, where: { field: 'day', test: { op: 'filled' } } }), duckdb);
    expect(text.match(/SELECT/g)).toHaveLength(1);
    expect(text).toContain('AND (r."departs" IS NOT NULL) AND (r."day" IS NOT NULL)');
  });

  test('are read through a SELECT of its own where a step reads what another has made: it is written once', () => {
    const longer = Array.from({ length: 8 }, (_, at) =>
      expression(`x${at + 1}`, `x${at} || x${at} || cause`),
    );
    const from = shaped([expression('x0', "cause || 'a'"), ...longer]);
    const { text } = compile(records({ from, fields: ['x8'] }), duckdb);
    expect(text.match(/"x0"/g)).toHaveLength(3);
    expect(text.length).toBeLessThan(2_500);
  });

  test('are never asked of PostgreSQL', () => {
    expect(() => compile(records(), postgres)).toThrow('not in PostgreSQL');
  });

  test('of a name that tries to be more than a name stay a name', () => {
    const hostile = { ...kept, request: { kind: 'kept' as const, name: 'v"; DROP VIEW x; --' } };
    expect(compile(records({ from: hostile }), duckdb).text).toContain('"kept"."v""; DROP VIEW x; --"');
  });
});

describe('values', () => {
  test('are bound as texts with a cast to their type, a decimal with the digits that it has', () => {
    expect(
      where({ field: 'fares', test: { op: 'between', from: '0.10', to: '12345678901234567890.123' } }),
    ).toEqual({
      text: '(r."fares" IS NOT NULL AND r."fares" >= CAST($1 AS DECIMAL(3, 2)) AND r."fares" <= CAST($2 AS DECIMAL(23, 3)))',
      values: ['0.10', '12345678901234567890.123'],
    });
    expect(
      where({ field: 'departs', test: { op: 'atLeast', value: '2026-11-23T06:40:00Z' } }).text,
    ).toContain('CAST($1 AS TIMESTAMP)');
  });

  test('several are bound one by one, text without case', () => {
    expect(where({ field: 'cause', test: { op: 'is', values: ['Tide', 'Fog', null] } })).toEqual({
      text: `(r."cause" IS NULL OR (r."cause" IS NOT NULL AND list_contains(CAST($1 AS VARCHAR[]), lower(r."cause"))))`,
      values: [['tide', 'fog']],
    });
  });

  test('among others are compared letter by letter', () => {
    const among = (...values: (string | null)[]) => where({ field: 'cause', test: { op: 'among', values } });
    expect(among('Tide', null)).toEqual({
      text: `(r."cause" IS NULL OR (r."cause" IS NOT NULL AND list_contains(CAST($1 AS VARCHAR[]), r."cause")))`,
      values: [['Tide']],
    });
    expect(among()).toEqual({ text: 'FALSE', values: [] });
  });

  test('typed by a person match literally: there is no pattern to escape from', () => {
    const { text, values } = where({ field: 'cause', test: { op: 'contains', text: '50%_' } });
    expect(text).toContain('contains(lower(');
    expect(text).not.toContain('LIKE');
    expect(values).toEqual(['50%_']);
  });

  test('have as many placeholders as there are values, in order', () => {
    const { text, values } = compile(
      groups({
        by: [{ field: 'departs', unit: 'week' }],
        where: { field: 'cause', test: { op: 'is', values: ['a', 'b'] } },
      }),
      duckdb,
    );
    const found = [...text.matchAll(/CAST\(\$(\d+) AS/g)].map((match) => Number(match[1]));
    expect(found).toEqual(values.map((_, index) => index + 1));
  });
});

describe('order', () => {
  test('puts blanks last both ways, and text by the root collation and then by code point', () => {
    const by = (field: string, descending: boolean): string =>
      compile(records({ order: [{ by: field, descending }], key: field }), duckdb).text.replace(
        /^.* ORDER BY (.*) LIMIT.*$/s,
        '$1',
      );
    expect(by('fares', true)).toBe('r."fares" DESC NULLS LAST');
    expect(by('fares', false)).toBe('r."fares" ASC NULLS LAST');
    expect(by('cause', true)).toBe(
      `icu_sort_key(r."cause", 'root') DESC NULLS LAST, r."cause" DESC NULLS LAST`,
    );
  });

  test('decides which text is the least and the greatest', () => {
    expect(measured({ kind: 'least', field: 'cause' })).toContain('arg_min(');
    expect(measured({ kind: 'greatest', field: 'fares' })).toContain('max(r."fares")');
    expect(measured({ kind: 'greatest', field: 'late' })).toContain('max(CAST(r."late" AS INTEGER))');
  });
});

describe('numbers', () => {
  test('are divided exactly, except for those that are approximate anyway', () => {
    expect(measured({ kind: 'average', field: 'fares' })).toContain(
      'exact_quotient(sum(r."fares"), count(r."fares"))',
    );
    expect(measured({ kind: 'average', field: 'speed' })).toContain('avg(r."speed")');
    expect(measured({ kind: 'median', field: 'id' })).toContain('AS HUGEINT');
    expect(measured({ kind: 'ratio', of: { kind: 'sum', field: 'fares' }, to: { kind: 'count' } })).toContain(
      'exact_quotient(sum(r."fares"), count(*))',
    );
  });
});

describe('time', () => {
  const by = (
    unit: 'hour' | 'day' | 'week',
    spans?: Relation['spans'],
  ): { text: string; values: readonly unknown[] } =>
    compile(
      groups({ from: { ...kept, ...(spans ? { spans } : {}) }, by: [{ field: 'departs', unit }] }),
      duckdb,
    );

  test('within one offset is shifted by it, without a ladder', () => {
    const summer = { departs: { least: '2026-06-01T00:00:00Z', greatest: '2026-07-01T00:00:00Z' } };
    const { text } = by('day', summer);
    expect(text).toContain('CAST((r."departs" + to_seconds(3600)) AS DATE)');
    expect(text).not.toContain('CASE');
    const winter = { departs: { least: '2026-11-01T00:00:00Z', greatest: '2026-12-01T00:00:00Z' } };
    expect(by('day', winter).text).toContain('CAST(r."departs" AS DATE)');
    expect(by('hour', winter).text).toContain('date_trunc(\'hour\', r."departs") AS');
  });

  test('across a change of clocks is shifted by a ladder of the changes there are, the latest first', () => {
    const year = { departs: { least: '2026-01-01T00:00:00Z', greatest: '2026-12-31T00:00:00Z' } };
    const { text, values } = by('week', year);
    expect(text.match(/WHEN/g)).toHaveLength(2);
    expect(values.slice(0, 2)).toEqual(['2026-10-25T01:00:00.000Z', '2026-03-29T01:00:00.000Z']);
  });

  test('by the hour is shifted back, so that the two hours of a change stay apart', () => {
    expect(by('hour').text).toMatch(/date_trunc\('hour', .*\) - to_seconds\(/);
  });

  test('of a date field has no zone', () => {
    expect(compile(groups({ by: [{ field: 'day', unit: 'month' }] }), duckdb).text).toContain(
      `CAST(date_trunc('month', r."day") AS DATE)`,
    );
  });
});
