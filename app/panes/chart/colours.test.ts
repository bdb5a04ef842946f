import { expect, test } from 'vitest';
import { colourOf } from './colours.ts';

const cause = { name: 'cause', type: 'text' as const, label: 'Cause' };

test('a value has the colour of its state, else the one that its field gives it, whatever its place; else its place’s', () => {
  const coloured = { ...cause, colours: [{ value: 'tide', colour: 6 }] };
  const stated = { ...coloured, states: [{ value: 'tide', word: 'Tide', tone: 'broken' as const }] };
  expect([0, 3, 11].map((place) => colourOf(coloured, 'tide', place))).toEqual(
    Array.from({ length: 3 }, () => 'var(--series-6)'),
  );
  expect(colourOf(stated, 'tide', 0)).toBe('var(--tone-broken)');
  expect(colourOf(coloured, 'fog', 9)).toBe('var(--series-2)');
  expect(colourOf(undefined, null, 0)).toBe('var(--series-1)');
});
