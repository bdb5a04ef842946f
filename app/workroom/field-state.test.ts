import { expect, test } from 'vitest';
import { Field, mostColours, State } from '#core/value/field/field.ts';
import { coloursFor, statesFor, withPart } from './field-state.ts';

test('the values seen become states with readable words, those that are states already left alone', () => {
  const made = statesFor(
    [{ value: 'sailed', word: 'Sailed', tone: 'settled' }],
    ['sailed', 'under_way', null, 'under_way', ' '],
  );
  expect(made).toEqual([{ value: 'under_way', word: 'Under way', tone: 'moving' }]);
  expect(() => State.array().parse(made)).not.toThrow();
});

test('a field with many different values is not taken for states', () => {
  expect(
    statesFor(
      [],
      Array.from({ length: 25 }, (_, n) => `value ${n}`),
    ),
  ).toEqual([]);
});

test('yes and no can be states', () => {
  expect(statesFor([], [true, false, true]).map(({ value }) => value)).toEqual(['false', 'true']);
});

test('what is emptied is not said at all', () => {
  const field: Field = { name: 'cause', type: 'text', unit: 'min', label: 'Cause' };
  const next = withPart(withPart(field, 'unit', ''), 'states', []);
  expect(next).toEqual({ name: 'cause', type: 'text', label: 'Cause' });
  expect(Field.parse(next)).toEqual(next);
});

test('what is said replaces what was', () => {
  expect(withPart({ name: 'fare', type: 'decimal', unit: 'p' }, 'unit', '£')).toEqual({
    name: 'fare',
    type: 'decimal',
    unit: '£',
  });
});

test('values seen get the next colours of the set, those that have one keep it, and too many get none', () => {
  const known = [{ value: 'weather', colour: 5 }];
  expect(coloursFor(known, ['tide', 'weather', 'crew', null])).toEqual([
    { value: 'crew', colour: 2 },
    { value: 'tide', colour: 3 },
  ]);
  const many = Array.from({ length: mostColours + 1 }, (_, n) => `value ${n}`);
  expect(coloursFor([], many)).toEqual([]);
  const all = coloursFor([], many.slice(0, mostColours));
  expect(Field.parse({ name: 'cause', type: 'text', colours: all }).colours).toHaveLength(mostColours);
});
