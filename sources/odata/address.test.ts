import { expect, test } from 'vitest';
import type { FilterTest } from '#core/ask/condition/resolve.ts';
import { columnsOf, filterText, type SetRequest } from './address.ts';

const request: SetRequest = {
  kind: 'table',
  schema: '',
  table: 'Requisitions',
  columns: [
    { column: 'Id', name: 'id', type: 'integer' },
    { column: 'Depot', name: 'depot', type: 'text' },
    { column: 'NeededOn', name: 'needed_on', type: 'date' },
  ],
  lookUps: [],
};
const textOf = (field: string, filter: FilterTest): string | null =>
  filterText({ field, test: filter }, columnsOf(request));

test('a pick is asked of the service, not filtered out of everything that it has', () => {
  expect(textOf('id', { op: 'same', value: '7404' })).toBe('Id eq 7404');
  expect(textOf('depot', { op: 'same', value: "O'Hare" })).toBe("Depot eq 'O''Hare'");
  expect(textOf('needed_on', { op: 'same', value: '2026-11-27' })).toBe('NeededOn eq 2026-11-27');
});

test('what is blank, or not, is asked of the service', () => {
  expect(textOf('needed_on', { op: 'blank' })).toBe('NeededOn eq null');
  expect(textOf('depot', { op: 'blank' })).toBe("(Depot eq null or Depot eq '')");
  expect(textOf('depot', { op: 'filled' })).toBe("(Depot ne null and Depot ne '')");
});

test('a pick of what is blank finds empty texts too, and nobody is no empty text', () => {
  expect(textOf('depot', { op: 'same', value: null })).toBe("(Depot eq null or Depot eq '')");
  expect(textOf('depot', { op: 'against', is: 'same', to: { value: '' } })).toBeNull();
  expect(textOf('depot', { op: 'against', is: 'same', to: { value: 'Norrick' } })).toBe(
    "tolower(Depot) eq tolower('Norrick')",
  );
});

test('a value that is none of its type is not sent', () => {
  expect(textOf('id', { op: 'same', value: '1 or 1 eq 1' })).toBeNull();
});
