import { describe, expect, test } from 'vitest';
import { ask } from '#core/dashboard/flow/ask.ts';
import { checkFlow } from '#core/dashboard/flow/check.ts';
import { emptyScope } from '#core/dashboard/scope/state.ts';
import { ids, incidents, sailings } from '#testing/skerry.ts';
import { keptOf, proposeDashboard } from './propose.ts';
import { Dashboard } from './schema.ts';

const now = new Date('2026-11-27T12:00:00Z');
const offered = [
  { id: ids.sailings, name: 'sailings of the sound', dataSet: sailings },
  { id: ids.incidents, name: 'Incidents', dataSet: incidents },
];
const [about] = offered;
const propose = (facts: { different?: Record<string, number>; latest?: string | null } = {}) => {
  if (!about) throw new Error('nothing to propose from');
  return proposeDashboard(about, {
    offered,
    facts: { different: { cause: 5 }, latest: '2026-11-26T12:00:00Z', ...facts },
    now,
  });
};

describe('a first dashboard', () => {
  test('is a dashboard whose every pane can be asked, and none waits for what nothing offers', () => {
    const dashboard = propose();
    expect(Dashboard.safeParse(dashboard).error).toBeUndefined();
    const dataSets = new Map(offered.map(({ id, dataSet }) => [id, dataSet]));
    expect(checkFlow(dashboard, dataSets)).toEqual([]);
    const context = { dashboard, dataSets, scope: emptyScope, clock: { now, zone: 'UTC' } };
    for (const pane of dashboard.panes) expect(['asking', 'waiting']).toContain(ask(pane, context).state);
  });

  test('counts, draws over time and by what sorts records into few kinds, lists, and shows one with what refers to it', () => {
    const kinds = propose().panes.map(({ kind }) => kind);
    for (const kind of ['card', 'chart', 'table', 'detail']) expect(kinds).toContain(kind);
    expect(propose().panes.find(({ title }) => title === 'Its incidents')).toBeDefined();
  });

  test('overlaps nowhere', () => {
    const taken = new Set<string>();
    for (const { place } of propose().panes)
      for (let x = place.x; x < place.x + place.w; x += 1)
        for (let y = place.y; y < place.y + place.h; y += 1) {
          expect(taken).not.toContain(`${x} ${y}`);
          taken.add(`${x} ${y}`);
        }
  });

  test('splits by no field of many values, and begins with the last weeks only where there are such records', () => {
    const by = (different: Record<string, number>) =>
      propose({ different }).scope.map((clause) => 'field' in clause && clause.field);
    expect(by({ cause: 5 })).toContain('cause');
    expect(by({ cause: 900 })).not.toContain('cause');
    const starts = (latest: string | null) =>
      propose({ latest }).scope.find(({ offer }) => offer === 'dates')?.initially;
    expect(starts('2026-11-26T12:00:00Z')).toBeDefined();
    expect(starts('2019-01-01T00:00:00Z')).toBeUndefined();
    expect(starts(null)).toBeUndefined();
  });

  test('keeps what is ticked, under the titles that were given, moved up to where there is room', () => {
    const proposed = propose();
    const [first, , third] = proposed.panes;
    const kept = keptOf(proposed, {
      panes: [third?.id ?? '', 'made-up'],
      clauses: [],
      titles: new Map([[third?.id ?? '', ' Mine ']]),
    });
    expect(kept.panes.map(({ id, title, place }) => [id, title, place.x, place.y])).toEqual([
      [third?.id, 'Mine', 0, 0],
    ]);
    expect(kept.scope).toEqual([]);
    expect(first?.id).not.toBe(third?.id);
  });
});
