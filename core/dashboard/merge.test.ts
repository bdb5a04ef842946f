import { describe, expect, test } from 'vitest';
import { dashboard as skerry } from '#testing/skerry.ts';
import { mergeDashboards } from './merge.ts';
import type { Dashboard } from './schema.ts';

const dashboard: Dashboard = {
  ...skerry,
  panes: skerry.panes.map((pane, at) => ({ ...pane, place: { x: 0, y: 5 * at, w: 4, h: 4 } })),
};
const [first, second, ...others] = dashboard.panes;
if (!first || !second) throw new Error('two panes are needed');
type Pane = Dashboard['panes'][number];

/** The dashboard with some of its panes otherwise; null: removed. */
const withPanes = (more: Readonly<Record<string, Partial<Pane> | null>>): Dashboard => ({
  ...dashboard,
  panes: dashboard.panes.flatMap((pane) => {
    const change = more[pane.id];
    return change === null ? [] : [{ ...pane, ...change } as Pane];
  }),
});
const titled = (title: string): Dashboard => ({ ...dashboard, title });
const below = { x: 0, y: 100, w: 4, h: 4 };
const added = (id: string, place = below): Pane => ({ ...first, id, title: id, place }) as Pane;

describe('what two people did to one draft', () => {
  test('is kept where it is of different parts: title, filters, briefs and places, what was added and removed', () => {
    const mine = { ...withPanes({ [first.id]: { title: 'Mine' } }), title: 'Evening' };
    const theirs = withPanes({ [second.id]: { title: 'Theirs' }, [others[0]?.id ?? '']: null });
    const both = mergeDashboards(dashboard, mine, { ...theirs, panes: [...theirs.panes, added('new')] });
    expect(both?.title).toBe('Evening');
    const titles = new Map(both?.panes.map(({ id, title }) => [id, title]));
    expect(titles.get(first.id)).toBe('Mine');
    expect(titles.get(second.id)).toBe('Theirs');
    expect(titles.has('new')).toBe(true);
    expect(titles.has(others[0]?.id ?? '')).toBe(false);
    const scope = dashboard.scope.slice(1);
    expect(mergeDashboards(dashboard, { ...dashboard, scope }, titled('Evening'))).toMatchObject({
      title: 'Evening',
      scope,
    });
  });

  test('is the same whoever saves first, and is what one did where the other did nothing or the very same', () => {
    const mine = withPanes({ [first.id]: { title: 'Mine' } });
    const theirs = withPanes({ [second.id]: { title: 'Theirs' } });
    expect(mergeDashboards(dashboard, mine, theirs)).toEqual(mergeDashboards(dashboard, theirs, mine));
    expect(mergeDashboards(dashboard, mine, dashboard)).toEqual(mine);
    expect(mergeDashboards(dashboard, dashboard, theirs)).toEqual(theirs);
    expect(mergeDashboards(dashboard, mine, mine)).toEqual(mine);
  });

  test('to one pane is both where one moved it and the other gave it another brief', () => {
    const mine = withPanes({ [first.id]: { place: below } });
    const theirs = withPanes({ [first.id]: { title: 'Theirs' } });
    const pane = mergeDashboards(dashboard, mine, theirs)?.panes.find(({ id }) => id === first.id);
    expect(pane).toEqual({ ...first, title: 'Theirs', place: below });
  });

  test('is left to them where both did something else to the same part', () => {
    const conflict = (mine: Dashboard, theirs: Dashboard): void =>
      expect(mergeDashboards(dashboard, mine, theirs)).toBeNull();
    conflict(titled('Mine'), titled('Theirs'));
    conflict(withPanes({ [first.id]: { title: 'Mine' } }), withPanes({ [first.id]: { title: 'Theirs' } }));
    conflict(withPanes({ [first.id]: null }), withPanes({ [first.id]: { title: 'Theirs' } }));
    conflict(withPanes({ [first.id]: { title: 'Mine' } }), withPanes({ [first.id]: null }));
    conflict(
      withPanes({ [first.id]: { place: below } }),
      withPanes({ [first.id]: { place: { ...below, y: 110 } } }),
    );
  });

  test('lies nowhere on each other: two panes that were added to one place make room', () => {
    const mine = { ...dashboard, panes: [...dashboard.panes, added('mine')] };
    const theirs = { ...dashboard, panes: [...dashboard.panes, added('theirs')] };
    const places = (mergeDashboards(dashboard, mine, theirs)?.panes ?? []).map(({ place }) => place);
    for (const [at, a] of places.entries())
      for (const b of places.slice(0, at))
        expect(a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h).toBe(false);
  });
});
