import { expect, test } from 'vitest';
import { context, ids, panes, sailings } from '#testing/skerry.ts';
import { unlikePanes } from './unlike.ts';

const of = (shown: (typeof context.dashboard)['panes'], more: Partial<typeof context> = {}) => ({
  ...context,
  ...more,
  dashboard: { ...context.dashboard, panes: shown },
});
const idsOf = (...editions: Parameters<typeof unlikePanes>) => unlikePanes(...editions).map(({ id }) => id);
const { card, causes, late } = panes;

test('two editions are unlike in the panes that came, went, or have another brief, and not in those that were moved', () => {
  expect(unlikePanes(of([card, causes]), of([{ ...card, title: 'All' }, late]))).toEqual([
    { id: 'card', before: card, after: { ...card, title: 'All' } },
    { id: 'late', before: null, after: late },
    { id: 'causes', before: causes, after: null },
  ]);
  const moved = { ...card, place: { ...card.place, y: 30 } };
  expect(idsOf(of([card]), of([moved]))).toEqual([]);
});

test('a pane is unlike where its brief is the same and what it asks for is not', () => {
  const delayed = {
    ...sailings,
    keeping: { field: 'delay', test: { op: 'atLeast' as const, value: '15' } },
  };
  const dataSets = new Map([...context.dataSets, [ids.sailings, delayed] as const]);
  expect(idsOf(of([card]), of([card], { dataSets }))).toEqual(['card']);
});
