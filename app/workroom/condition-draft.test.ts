import { describe, expect, test } from 'vitest';
import { Condition } from '#core/ask/condition/schema.ts';
import { fieldTypes } from '#core/value/field/types.ts';
import { canonical, conditionOf, firstTest, groupOf, opOf, opsOf, withOp } from './condition-draft.ts';

describe('the tests offered for a field', () => {
  test('suit its type', () => {
    const ops = (type: (typeof fieldTypes)[number]): string[] => opsOf(type).map(([op]) => op);
    expect(ops('text')).toContain('contains');
    expect(ops('text')).not.toContain('atLeast');
    expect(ops('integer')).toContain('atLeast');
    expect(ops('integer')).not.toContain('contains');
    expect(ops('instant')).toContain('olderThan');
    expect(ops('date')).not.toContain('is');
    for (const type of fieldTypes) expect(ops(type)).toEqual(expect.arrayContaining(['blank', 'filled']));
  });

  test('are each valid as they stand, and stay the one that was chosen', () => {
    for (const type of fieldTypes) {
      const field = { name: 'f', type };
      for (const [op] of opsOf(type)) {
        const chosen = withOp(firstTest(field), op);
        expect(Condition.safeParse({ field: 'f', test: chosen }).error).toBeUndefined();
        expect(opOf(chosen)).toBe(op);
      }
    }
  });

  test('keep the value that was typed, where it fits', () => {
    expect(withOp({ op: 'contains', text: 'fog' }, 'is')).toEqual({ op: 'is', values: ['fog'] });
    expect(withOp({ op: 'is', values: ['fog', 'tide'] }, 'isNot')).toEqual({
      op: 'isNot',
      values: ['fog', 'tide'],
    });
    expect(withOp({ op: 'atLeast', value: '15' }, 'below')).toEqual({ op: 'below', value: '15' });
    expect(withOp({ op: 'blank' }, 'atLeast')).toEqual({ op: 'atLeast', value: '' });
  });
});

describe('a condition being edited', () => {
  const one = { field: 'a', test: { op: 'blank' as const } };
  const two = { field: 'b', test: { op: 'filled' as const } };

  test('is a group of tests, and the same condition again', () => {
    expect(groupOf(undefined)).toEqual({ join: 'all', parts: [] });
    expect(groupOf(one)).toEqual({ join: 'all', parts: [one] });
    for (const condition of [one, { all: [one, two] }, { any: [one, { none: [two] }] }, { none: [one] }])
      expect(conditionOf(groupOf(condition))).toEqual(condition);
  });

  test('without a test restricts nothing, but a group inside another stays one', () => {
    expect(conditionOf({ join: 'any', parts: [] })).toBeUndefined();
    expect(conditionOf({ join: 'any', parts: [one] }, true)).toEqual({ any: [one] });
  });

  test('takes typed values only when they are values of the type', () => {
    expect(canonical('integer', ' 15 ')).toEqual(['15']);
    expect(canonical('integer', 'soon')).toEqual([]);
  });
});
