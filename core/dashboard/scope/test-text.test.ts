import { describe, expect, test } from 'vitest';
import type { Test } from '#core/ask/condition/schema.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { testFromTexts, testToTexts } from './test-text.ts';

const read = (texts: string[], type: FieldType = 'text') => {
  const parsed = testFromTexts(texts, type);
  return parsed.ok ? parsed.test : parsed.why;
};

describe('a test in an address', () => {
  const writings: [Test | null, string[], FieldType][] = [
    [null, ['~any'], 'text'],
    [{ op: 'is', values: ['Norrick'] }, ['Norrick'], 'text'],
    [{ op: 'is', values: ['a', 'b'] }, ['a', 'b'], 'text'],
    [{ op: 'is', values: ['~any'] }, ['~~any'], 'text'],
    [{ op: 'is', values: ['a', null] }, ['a', '~blank'], 'text'],
    [{ op: 'isNot', values: ['a', null] }, ['~not.a', '~filled'], 'text'],
    [{ op: 'contains', text: 'fo.g~' }, ['~contains.fo.g~'], 'text'],
    [{ op: 'lacks', text: 'x' }, ['~lacks.x'], 'text'],
    [{ op: 'startsWith', text: 'x' }, ['~starts.x'], 'text'],
    [{ op: 'endsWith', text: 'x' }, ['~ends.x'], 'text'],
    [{ op: 'atLeast', value: '-15' }, ['~atleast.-15'], 'integer'],
    [{ op: 'atMost', value: '0.10' }, ['~atmost.0.10'], 'decimal'],
    [{ op: 'below', value: '9007199254740993' }, ['~below.9007199254740993'], 'integer'],
    [{ op: 'above', value: '1' }, ['~above.1'], 'integer'],
    [{ op: 'between', from: '-1', to: '2' }, ['~between.-1~2'], 'integer'],
    [{ op: 'during', period: { kind: 'last', count: 28, unit: 'day' } }, ['~last.28.day'], 'instant'],
    [{ op: 'during', period: { kind: 'olderThan', count: 2, unit: 'week' } }, ['~older.2.week'], 'date'],
    [{ op: 'during', period: { kind: 'onward', count: 0, unit: 'day' } }, ['~onward.0.day'], 'date'],
    [{ op: 'during', period: { kind: 'this', unit: 'quarter' } }, ['~this.quarter'], 'date'],
    [{ op: 'during', period: { kind: 'future' } }, ['~future'], 'instant'],
    [
      { op: 'during', period: { kind: 'dates', from: '2026-01-01', to: null } },
      ['~dates.2026-01-01~'],
      'date',
    ],
  ];

  test.each(writings)('%j is written and read', (meaning, texts, type) => {
    expect(testToTexts(meaning)).toEqual(texts);
    expect(read(texts, type)).toEqual(meaning);
  });

  test.each([
    [['~spell.x'], 'text', 'not understood'],
    [['~between.1'], 'integer', 'needs two values'],
    [['~between.1~x'], 'integer', '“x” is not a whole number'],
    [['~last.28.fortnight'], 'instant', 'not understood'],
    [['~last.0.day'], 'instant', 'not understood'],
    [['~last.99999.day'], 'instant', 'not understood'],
    [['~last.28.day'], 'text', 'only dates and moments'],
    [['~dates.2026-02-30~'], 'date', 'not understood'],
    [['~dates.2026-01-01'], 'date', 'not understood'],
    [['a', '~not.b'], 'text', 'cannot be mixed'],
    [['a', '~contains.b'], 'text', 'only values can be given several times'],
    [['soon'], 'date', 'not a date'],
    [['x'.repeat(2001)], 'text', 'too long'],
    [['9223372036854775808'], 'integer', 'too large'],
  ] as [string[], FieldType, string][])('%j of a %s field is refused with why', (texts, type, why) => {
    expect(read(texts, type)).toContain(why);
  });
});
