import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { fieldTypes } from './types.ts';
import { labelOf, parseValue } from './value.ts';

const value = (type: Parameters<typeof parseValue>[0], text: string) => {
  const read = parseValue(type, text);
  return read.ok ? read.value : null;
};

describe('a value', () => {
  test('of a 64-bit integer keeps every digit, and one beyond its range is refused', () => {
    expect(value('integer', '9007199254740993')).toBe('9007199254740993');
    expect(value('integer', '9223372036854775807')).toBe('9223372036854775807');
    expect(value('integer', '9223372036854775808')).toBeNull();
    expect(value('integer', '1.5')).toBeNull();
  });

  test('of a decimal keeps every digit', () => {
    expect(value('decimal', '12345678901234567890.123456789')).toBe('12345678901234567890.123456789');
    expect(value('decimal', '0.10')).toBe('0.10');
    expect(value('decimal', '1e5')).toBeNull();
    expect(value('decimal', '12,5')).toBeNull();
  });

  test('of a date must be on the calendar', () => {
    expect(value('date', '2028-02-29')).toBe('2028-02-29');
    expect(value('date', '2026-02-29')).toBeNull();
    expect(value('date', '23/11/2026')).toBeNull();
  });

  test('of an instant must say that it is UTC', () => {
    expect(value('instant', '2026-11-23T06:40:00Z')).toBe('2026-11-23T06:40:00Z');
    expect(value('instant', '2026-11-23T06:40:00')).toBeNull();
    expect(value('instant', '2026-11-23T24:40:00Z')).toBeNull();
  });

  test('of text may be anything but a NUL character', () => {
    expect(value('text', ' O’Brien 🚢 مرسى ')).toBe(' O’Brien 🚢 مرسى ');
    expect(value('text', 'a\0b')).toBeNull();
  });

  test('that was read reads the same again, and nothing typed makes reading throw', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...fieldTypes),
        fc.string({ unit: 'binary', maxLength: 60 }),
        (type, text) => {
          const read = parseValue(type, text);
          if (read.ok) expect(parseValue(type, read.value)).toEqual(read);
        },
      ),
      { numRuns: 2000 },
    );
  });
});

test('a label is the given one, else the name made readable', () => {
  expect(labelOf({ name: 'departs_at' })).toBe('Departs at');
  expect(labelOf({ name: 'departs_at', label: 'Leaves' })).toBe('Leaves');
});
