import { afterEach, describe, expect, test } from 'vitest';
import { parseValue, typingOf } from './field/value.ts';
import { formatNumber, formatPercent, sharedDecimals, withUnit } from './format/format.ts';
import { fromSpreadsheet, type NumberStyle, writeNumbersIn } from './number-style.ts';

const reading = (style: NumberStyle): void => writeNumbersIn(() => style);
afterEach(() => reading('point'));

describe('numbers in the style of whoever reads', () => {
  test.each<[NumberStyle, string, string, string]>([
    ['point', '−1,234,567.89', '86.3%', '0.0042'],
    ['comma', '−1.234.567,89', '86,3%', '0,0042'],
    ['space', '−1\u202F234\u202F567,89', '86,3%', '0,0042'],
  ])('%s', (style, large, share, small) => {
    reading(style);
    expect(formatNumber('-1234567.89')).toBe(large);
    expect(formatPercent('0.8634', 1)).toBe(share);
    expect(formatNumber('0.0042')).toBe(small);
    expect(sharedDecimals(['2.96', '0.6'])).toBe(2);
  });

  test('money keeps its sign before it', () => {
    reading('comma');
    expect(withUnit(formatNumber('-5162.75', 2), '£')).toBe('−£5.162,75');
  });
});

describe('numbers that are typed', () => {
  test('are read behind the mark of whoever types, and shown again as they were typed', () => {
    reading('comma');
    const [toShown, toValue] = typingOf('decimal');
    expect(parseValue('decimal', toValue('12,5'))).toEqual({ ok: true, value: '12.5' });
    expect(toShown('12.5')).toBe('12,5');
    // Typed letter by letter, each state is shown as it is.
    for (const typed of ['1', '12', '12,', '12,5']) expect(toShown(toValue(typed))).toBe(typed);
  });

  test('never become another number behind the other mark, and are named as they were typed', () => {
    reading('comma');
    const [, toValue] = typingOf('decimal');
    expect(parseValue('decimal', toValue('1.234'))).toEqual({ ok: false, why: '“1.234” is not a number' });
    reading('point');
    expect(parseValue('decimal', toValue('1,234'))).toEqual({ ok: false, why: '“1,234” is not a number' });
  });

  test('texts are nobody’s numbers', () => {
    reading('comma');
    const [toShown, toValue] = typingOf('text');
    expect([toShown('a.b,c'), toValue('a.b,c')]).toEqual(['a.b,c', 'a.b,c']);
  });
});

describe('numbers of a spreadsheet', () => {
  const read = (text: string): string | null => {
    const parsed = parseValue('decimal', fromSpreadsheet(text));
    return parsed.ok ? parsed.value : null;
  };

  test('are read with the marks of whoever pastes', () => {
    reading('point');
    expect(['1,234.5', '12.5', '1,234'].map(read)).toEqual(['1234.5', '12.5', '1234']);
    expect(read('12,5')).toBeNull();
    reading('comma');
    expect(['1.234,5', '12,5', '1.234.567,0'].map(read)).toEqual(['1234.5', '12.5', '1234567.0']);
    reading('space');
    expect(['1 234,5', '1\u00A0234', '12,5'].map(read)).toEqual(['1234.5', '1234', '12.5']);
  });

  test('that a program wrote are read too, unless they could be two numbers', () => {
    reading('comma');
    expect(read('12.5')).toBe('12.5');
    expect(read('0.1234')).toBe('0.1234');
    expect(read('1.234')).toBeNull();
    reading('space');
    expect(read('1.234')).toBe('1.234');
  });
});
