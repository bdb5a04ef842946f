import { expect, test } from 'vitest';
import { dashboard, panes } from '#testing/skerry.ts';
import { dashboardChanges, sameJson } from './compare.ts';

test('two definitions are the same whatever the order of their keys, and an undefined key is no key', () => {
  expect(sameJson({ a: 1, b: [1, { c: null }] }, { b: [1, { c: null }], a: 1, d: undefined })).toBe(true);
});

test.each([
  [1, '1'],
  [null, {}],
  [[], {}],
  [
    [1, 2],
    [2, 1],
  ],
  [{ a: 1 }, { b: 1 }],
  [{ a: undefined, b: 1 }, { a: 1 }],
])('%j and %j differ', (a, b) => {
  expect(sameJson(a, b)).toBe(false);
});

test('every kind of change to a dashboard is told in a sentence of its own', () => {
  const moved = { ...panes.card, place: { ...panes.card.place, x: 6 } };
  const rewritten = { ...panes.causes, measure: 'late' };
  const added = { ...panes.weeks, id: 'new', title: 'Something new' };
  const after = {
    ...dashboard,
    title: 'Evening brief',
    scope: [],
    panes: [moved, rewritten, panes.weeks, panes.late, panes.sailing, added],
  };
  expect(dashboardChanges(dashboard, after)).toEqual([
    'The title is now “Evening brief”.',
    'The reader filters changed.',
    '“Sailings” was moved.',
    'The brief of “By cause” changed.',
    '“Something new” was added.',
    '“Its incidents” was removed.',
  ]);
});

test('nothing changed says nothing', () => {
  expect(dashboardChanges(dashboard, structuredClone(dashboard))).toEqual([]);
});
