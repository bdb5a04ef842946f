import { expect, test } from 'vitest';
import { valuesAt } from './json-path.ts';

const body = { calls: [{ quay: 'Holm' }, { quay: 'Skerry' }, { quay: 'Holm pier' }] };

test('match holds for the whole text, search for a part of it', () => {
  expect(valuesAt("$.calls[?match(@.quay, 'Holm')].quay", body)).toEqual(['Holm']);
  expect(valuesAt("$.calls[?search(@.quay, 'Hol[m]')].quay", body)).toEqual(['Holm', 'Holm pier']);
  expect(valuesAt("$.calls[?match(@.quay, '\\\\p{Lu}.*y')].quay", body)).toEqual(['Skerry']);
});

test('what is no pattern, or no text, matches nothing', () => {
  expect(valuesAt("$.calls[?match(@.quay, '(')]", body)).toEqual([]);
  expect(valuesAt("$.calls[?search(@.berth, 'x')]", body)).toEqual([]);
  expect(valuesAt(`$.calls[?search(@.quay, '${'a'.repeat(1001)}')]`, body)).toEqual([]);
});

test('a pattern that would take ages elsewhere is done with a long text at once', () => {
  const long = { calls: [{ quay: `${'a'.repeat(5000)}!` }] };
  // (a+)+ on a back-tracking engine would still be running when the universe ends; here the test merely ends.
  expect(valuesAt("$.calls[?match(@.quay, '(a+)+')]", long)).toEqual([]);
  expect(valuesAt("$.calls[?search(@.quay, '(a|a)*b')]", long)).toEqual([]);
});
