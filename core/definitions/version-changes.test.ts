import { expect, test } from 'vitest';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { dashboard, ids, incidents, place, sailings } from '#testing/skerry.ts';
import { type Definitions, versionChanges } from './version-changes.ts';

const clock = { now: new Date('2026-11-23T12:00:00Z'), zone: 'UTC' };
const base: Definitions = {
  dashboard,
  dataSets: new Map([
    [ids.sailings, sailings],
    [ids.incidents, incidents],
  ]),
};
const withSailings = (more: Partial<DataSet>): Definitions => ({
  ...base,
  dataSets: new Map([...base.dataSets, [ids.sailings, { ...sailings, ...more }]]),
});
const withPanes = (panes: readonly Pane[]): Definitions => ({
  ...base,
  dashboard: { ...dashboard, panes: [...panes] },
});
const late = (minutes: string) => ({
  name: 'late',
  label: 'late sailings',
  calculation: { kind: 'count' as const },
  where: { field: 'delay', test: { op: 'above' as const, value: minutes } },
});
const changes = (after: Definitions, before = base) => versionChanges(before, after, clock);

test('what is the same has no difference', () => {
  expect(changes(base)).toEqual([]);
  expect(changes({ dashboard: structuredClone(dashboard), dataSets: base.dataSets })).toEqual([]);
});

test('a measure that means something else is said with what it means and meant', () => {
  const [was, is] = [withSailings({ measures: [late('10')] }), withSailings({ measures: [late('15')] })];
  expect(changes(is, was)).toEqual([
    '“late sailings” means how many sailings, keeping delay is above 15 now, and was how many sailings, keeping delay is above 10.',
  ]);
  expect(changes(is, withSailings({ measures: [] }))).toEqual([
    'Added the measure “late sailings”: how many sailings, keeping delay is above 15.',
  ]);
  expect(changes(withSailings({ measures: [] }), is)).toEqual(['Removed the measure “late sailings”.']);
});

test('panes that came, went, moved, are called or say something else', () => {
  const [first, ...rest] = dashboard.panes;
  if (!first) throw new Error('the dashboard has no pane');
  const card: Extract<Pane, { kind: 'card' }> = {
    id: 'new',
    kind: 'card',
    title: 'Overdue',
    place,
    dataSet: ids.sailings,
    measure: 'count',
    against: 'none',
  };
  expect(changes(withPanes([...dashboard.panes, card]))).toEqual([
    expect.stringMatching(/^Added “Overdue”: .*sailings.*\.$/),
  ]);
  expect(changes(withPanes(rest))).toEqual([`Removed “${first.title}”.`]);
  expect(changes(withPanes([{ ...first, title: 'Other' }, ...rest]))).toEqual([
    `“${first.title}” is called “Other” now.`,
  ]);
  expect(
    changes(withPanes([{ ...first, place: { ...first.place, x: first.place.x + 1 } }, ...rest])),
  ).toEqual([`“${first.title}” stands elsewhere.`]);
  const kept = { field: 'route', test: { op: 'is' as const, values: ['Outer ring'] } };
  const [change] = changes(
    withPanes([...dashboard.panes, { ...card, keeping: kept }]),
    withPanes([...dashboard.panes, card]),
  );
  expect(change).toMatch(/^“Overdue” says now: .*Outer ring.* It said: .*\.$/);
});

test('fields, subsets and everything else of the records', () => {
  const fields = [...sailings.fields, { name: 'tide_height', type: 'decimal' as const }];
  const subset = (value: string) => ({
    name: 'open',
    label: 'open sailings',
    where: { field: 'route', test: { op: 'is' as const, values: [value] } },
  });
  expect(changes(withSailings({ fields }))).toEqual(['Sailings have “Tide height” now.']);
  expect(changes(base, withSailings({ fields }))).toEqual(['Sailings no longer have “Tide height”.']);
  expect(
    changes(
      withSailings({ subsets: [subset('Outer ring')] }),
      withSailings({ subsets: [subset('Inner ring')] }),
    ),
  ).toEqual(['“open sailings” are those where route is Outer ring now, and were where route is Inner ring.']);
  expect(changes(withSailings({ keeping: subset('x').where }))).toEqual([
    'Sailings are always kept by another condition.',
  ]);
});

test('reader filters', () => {
  const without = { ...base, dashboard: { ...dashboard, scope: [] } };
  for (const sentence of changes(without))
    expect(sentence).toMatch(/^Readers can no longer narrow by “.*”\.$/);
  expect(changes(without)).toHaveLength(dashboard.scope.length);
  for (const sentence of changes(base, without))
    expect(sentence).toMatch(/^Readers can narrow by “.*”, at first .*\.$/);
});
