import { expect, test } from 'vitest';
import { dashboard, panes } from '#testing/skerry.ts';
import { withCopyOf } from './copy.ts';
import { Dashboard } from './schema.ts';

test('a copy has a name and a room of its own, on the same dashboard or another', () => {
  const [first] = dashboard.panes;
  if (!first) throw new Error('there are panes');
  const again = withCopyOf(withCopyOf(dashboard, first), first);
  expect(Dashboard.parse(again)).toEqual(again);
  const ids = again.panes.map(({ id }) => id);
  expect(new Set(ids).size).toBe(dashboard.panes.length + 2);
  expect(ids.slice(-2)).toEqual([`${first.id}-2`, `${first.id}-3`]);
  const boxes = again.panes.map(({ place }) => place);
  for (const [at, a] of boxes.entries())
    for (const b of boxes.slice(Math.max(at + 1, dashboard.panes.length)))
      expect(
        a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h,
        `${JSON.stringify(a)} lies over ${JSON.stringify(b)}`,
      ).toBe(false);
});

test('a list that followed another one stands alone where that is not', () => {
  const follower = {
    ...panes.late,
    kind: 'record-cards' as const,
    id: 'cards',
    fields: ['cause'],
    inStepWith: 'late',
  };
  const { columns: _, ...cards } = follower;
  const empty = { ...dashboard, panes: [] };
  expect(withCopyOf(empty, cards).panes[0]).not.toHaveProperty('inStepWith');
  expect(withCopyOf({ ...empty, panes: [panes.late] }, cards).panes[1]).toHaveProperty('inStepWith', 'late');
});
