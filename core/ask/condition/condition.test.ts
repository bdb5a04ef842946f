import { describe, expect, test } from 'vitest';
import { compile } from '#core/sql/compile.ts';
import { postgres } from '#core/sql/dialect/postgres/dialect.ts';
import { fieldsOf, isUnset, resolveCondition } from './resolve.ts';
import { Condition } from './schema.ts';

const nested = (levels: number): unknown =>
  levels === 0 ? { field: 'cause', test: { op: 'blank' } } : { all: [nested(levels - 1)] };

describe('a condition', () => {
  test('nested eight levels deep is accepted, one of forty is refused with a message', () => {
    expect(Condition.safeParse(nested(8)).success).toBe(true);
    const refused = Condition.safeParse(nested(40));
    expect(refused.success).toBe(false);
    expect(refused.error?.issues[0]?.message).toContain('8 levels');
  });

  test('with ten thousand values is refused', () => {
    expect(
      Condition.safeParse({ field: 'a', test: { op: 'is', values: Array(10_000).fill('x') } }).success,
    ).toBe(false);
  });

  test.each([
    null,
    7,
    'x',
    [],
    {},
    { field: 1, test: { op: 'blank' } },
    { field: 'a', test: { op: 'drop' } },
    { all: 'x' },
  ])('that is %j is refused', (raw) => {
    expect(Condition.safeParse(raw).success).toBe(false);
  });

  test('reads each of its fields once', () => {
    expect(
      fieldsOf({
        all: [
          { field: 'a', test: { op: 'blank' } },
          {
            none: [
              { field: 'b', test: { op: 'blank' } },
              { field: 'a', test: { op: 'filled' } },
            ],
          },
        ],
      }),
    ).toEqual(['a', 'b']);
  });

  test('on a date field has days as bounds, on an instant field moments', () => {
    const clock = { now: new Date('2026-06-15T12:00:00Z'), zone: 'Europe/London' };
    const condition = {
      field: 'd',
      test: { op: 'during' as const, period: { kind: 'this' as const, unit: 'day' as const } },
    };
    expect(resolveCondition(condition, [{ name: 'd', type: 'date' }], clock)).toEqual({
      field: 'd',
      test: { op: 'within', from: '2026-06-15', to: '2026-06-16' },
    });
    expect(resolveCondition(condition, [{ name: 'd', type: 'instant' }], clock)).toEqual({
      field: 'd',
      test: { op: 'within', from: '2026-06-14T23:00:00.000Z', to: '2026-06-15T23:00:00.000Z' },
    });
  });
});

describe('unset is unrestricted:', () => {
  const fields = [{ name: 'a', type: 'text' as const }];
  const whereOf = (where: Parameters<typeof compile>[0]['where']): string =>
    compile(
      {
        kind: 'records',
        from: {
          source: 's',
          inputs: {},
          fields,
          request: {
            kind: 'table',
            schema: 'p',
            table: 't',
            lookUps: [],
            columns: [{ column: 'a', name: 'a', type: 'text' }],
          },
        },
        where,
        zone: 'UTC',
        fields: ['a'],
        order: [],
        offset: 0,
        limit: 1,
      },
      postgres,
    ).text;

  test.each([
    { op: 'is', values: [] },
    { op: 'isNot', values: [] },
    { op: 'contains', text: '' },
    { op: 'startsWith', text: '' },
    { op: 'within', from: null, to: null },
  ] as const)('%j adds no condition', (unset) => {
    expect(isUnset(unset as never)).toBe(true);
    expect(whereOf({ field: 'a', test: unset as never })).toContain('WHERE TRUE');
  });

  test.each([{ all: [] }, { any: [] }, { none: [] }])('an empty group %j keeps everything', (where) => {
    expect(whereOf(where as never)).toMatch(/AS r( WHERE TRUE)? LIMIT/);
  });
});
