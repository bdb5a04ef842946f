import { expect, it } from 'vitest';
import { type Edition, readEdition, setEdition, watchedAs } from './edition.ts';

it.each<[Edition, string]>([
  ['published', 'route=1'],
  ['draft', 'route=1&_edition=draft'],
  [12, 'route=1&_edition=12'],
])('stands in an address and is read from it: %s', (edition, text) => {
  const params = new URLSearchParams('route=1');
  setEdition(params, edition);
  expect(params.toString()).toBe(text);
  expect(readEdition(params)).toBe(edition);
});

it.each(['', '0', '-1', '1.5', '1e3', '01', 'Draft', '9999999999', 'draft '])(
  'is not taken from what is none: “%s”',
  (text) => {
    expect(readEdition(new URLSearchParams({ _edition: text }))).toBeNull();
  },
);

it('is watched by a name of its own', () => {
  expect(['published', 'draft', 3].map((edition) => watchedAs('id', edition as Edition))).toEqual([
    'id',
    'id.draft',
    'id.3',
  ]);
});
