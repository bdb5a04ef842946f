import { expect, test } from 'vitest';
import type { Field } from '#core/value/field/field.ts';
import { likelyPair, likeness } from './likeness.ts';

const fields: Field[] = [
  { name: 'gate', type: 'text' },
  { name: 'note', type: 'text' },
  { name: 'ref', type: 'text', refers: 'passage' },
  { name: 'at', type: 'instant' },
  { name: 'vessel_id', type: 'integer' },
];

test('fields are alike by meaning before name, by a whole name before its end, and never across types', () => {
  const reference: Field = { name: 'reference', type: 'text', refers: 'passage' };
  expect(likeness({ name: 'ref', type: 'text', refers: 'passage' }, reference, {})).toBe(4);
  expect(likeness({ name: 'Gate', type: 'text' }, { name: 'gate', type: 'text' }, { key: 'gate' })).toBe(3);
  expect(likeness({ name: 'gate', type: 'text' }, { name: 'gate', type: 'text' }, {})).toBe(2);
  expect(
    likeness({ name: 'vessel_id', type: 'integer' }, { name: 'id', type: 'integer' }, { key: 'id' }),
  ).toBe(1);
  expect(likeness({ name: 'gate', type: 'text' }, { name: 'gate', type: 'integer' }, {})).toBe(0);
  expect(likeness({ name: 'at', type: 'instant' }, { name: 'at', type: 'instant' }, {})).toBe(0);
});

test('two data sets are matched by what is most alike, else by something of the key’s type', () => {
  const passages = [
    { name: 'note', type: 'text' as const },
    { name: 'reference', type: 'text' as const, refers: 'passage' },
  ];
  expect(likelyPair(fields, { fields: passages })).toEqual({ field: 'ref', other: 'reference' });
  const codes = [
    { name: 'label', type: 'text' as const },
    { name: 'number', type: 'integer' as const },
  ];
  expect(likelyPair(fields, { fields: codes, key: 'number' })).toEqual({
    field: 'vessel_id',
    other: 'number',
  });
  expect(likelyPair([], { fields: [] })).toEqual({ field: '', other: '' });
});
