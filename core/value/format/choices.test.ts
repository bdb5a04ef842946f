import { expect, test } from 'vitest';
import { Format } from '#core/value/field/format.ts';
import { fieldTypes } from '#core/value/field/types.ts';
import { chosenFormat, formatChoice, formatChoices } from './choices.ts';

test('every choice offered for a type is a format, and is found again from it', () => {
  for (const type of fieldTypes)
    for (const choice of formatChoices(type)) {
      expect(Format.parse(choice.format)).toEqual(choice.format);
      expect(formatChoice(choice.format)).toBe(choice.value);
      expect(chosenFormat(type, choice.value)).toEqual(choice.format);
    }
});

test('nothing chosen, or a choice that the type does not have, is the usual way', () => {
  expect(formatChoice(undefined)).toBe('');
  expect(chosenFormat('integer', '')).toBeUndefined();
  expect(chosenFormat('text', 'percent')).toBeUndefined();
});

test('decimals stay when a number becomes a percentage, as far as percentages have them', () => {
  expect(chosenFormat('decimal', 'percent', { kind: 'number', decimals: 2 })).toEqual({
    kind: 'percent',
    decimals: 2,
  });
  expect(chosenFormat('decimal', 'percent', { kind: 'number', decimals: 12 })).toEqual({
    kind: 'percent',
    decimals: 6,
  });
  expect(chosenFormat('decimal', 'id', { kind: 'number', decimals: 2 })).toEqual({ kind: 'id' });
});

test('the words of a choice show what it does to the moment they describe', async () => {
  const { formatCell } = await import('./format.ts');
  for (const { words, format } of formatChoices('instant'))
    expect(
      formatCell('2026-11-23T06:40:00Z', { type: 'instant', format }, 'Europe/London').replace(' at ', ', '),
    ).toBe(words);
  for (const { words, format } of formatChoices('date'))
    expect(formatCell('2026-11-23', { type: 'date', format }, 'UTC')).toBe(words);
});
