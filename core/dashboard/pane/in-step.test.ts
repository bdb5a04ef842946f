import { describe, expect, test } from 'vitest';
import { ask } from '#core/dashboard/flow/ask.ts';
import { readsOf } from '#core/dashboard/flow/reads-of.ts';
import { context, ids, panes } from '#testing/skerry.ts';
import { inStep, leadersFor } from './in-step.ts';
import type { Pane } from './schema.ts';

const cards = {
  kind: 'record-cards',
  id: 'cards',
  title: 'Cards',
  dataSet: ids.sailings,
  fields: ['route'],
  order: [],
  pageSize: 48,
  inStepWith: panes.late.id,
  place: { x: 0, y: 0, w: 12, h: 9 },
} as const satisfies Pane;
const dashboard = { ...context.dashboard, panes: [panes.late, cards as Pane, panes.incidents] };
const follower = (): Pane => inStep(dashboard).panes[1] as Pane;
const planOf = (pane: Pane, view: Record<string, string[]> = {}) => {
  const scope = { ...context.scope, views: { [panes.late.id]: view } };
  const question = ask(pane, { ...context, dashboard: inStep(dashboard), scope });
  const first = question.state === 'asking' ? question.first.page : undefined;
  if (!first || !('plan' in first) || first.plan.kind !== 'records') throw new Error('asks no list');
  return first.plan;
};

describe('a list in step with another', () => {
  test('has its records, its order, its page and what is searched in it, and fields of its own', () => {
    const views: Record<string, string[]>[] = [{}, { page: ['2'] }, { find: ['fog'] }, { order: ['-delay'] }];
    for (const view of views) {
      const [own, other] = [planOf(panes.late, view), planOf(follower(), view)];
      for (const part of ['where', 'order', 'offset', 'limit'] as const)
        expect([part, other[part]]).toEqual([part, own[part]]);
    }
    expect(planOf(follower()).fields).toContain('route');
  });

  test('is asked again when the other is looked at otherwise, and not for which columns that shows', () => {
    const reads = readsOf({ dashboard: inStep(dashboard), dataSets: context.dataSets }).cards;
    expect(reads?.viewedAs).toBe(panes.late.id);
    expect(reads?.shownOnly).toEqual(['show', 'widths']);
  });

  test('whose other one is gone stands by itself, and one list can only follow one of its own records', () => {
    const alone = inStep({ panes: [cards as Pane] }).panes[0];
    expect(alone).not.toHaveProperty('inStepWith');
    expect(leadersFor(cards, dashboard.panes).map(({ id }) => id)).toEqual([panes.late.id]);
  });

  test('is the same dashboard for the same one', () => {
    expect(inStep(dashboard)).toBe(inStep(dashboard));
    const plain = { panes: [panes.late] };
    expect(inStep(plain)).toBe(plain);
  });
});
