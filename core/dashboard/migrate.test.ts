import { describe, expect, test } from 'vitest';
import { dashboard, ids, sailings } from '#testing/skerry.ts';
import { migrateDashboard, migrateDataSet } from './migrate.ts';

describe('a definition of version 1', () => {
  const ref = { dataSet: ids.incidents, cut: 'open' };
  const old = {
    ...sailings,
    version: 1,
    request: { kind: 'of', dataSet: ids.incidents, cut: 'open', columns: [] },
    cuts: [{ name: 'late', label: 'late sailings', where: { field: 'delay', test: { op: 'filled' } } }],
    meant: ['alike'],
    steps: [
      { kind: 'stack', id: 'step-1', with: [{ ref, word: 'incidents' }] },
      {
        kind: 'lookUp',
        id: 'step-2',
        from: ref,
        on: [{ field: 'id', other: 'sailing_id' }],
        mode: 'count',
        take: [],
        order: [],
        as: 'incidents',
      },
    ],
  };

  test('of a data set opens, with its subsets, references and accepted warnings', () => {
    const now = migrateDataSet(old);
    expect(now.version).toBe(2);
    expect(now.subsets?.map(({ label }) => label)).toEqual(['late sailings']);
    expect(now.acceptedWarnings).toEqual(['alike']);
    expect(now.request).toMatchObject({ kind: 'of', subset: 'open' });
    const text = JSON.stringify(now.steps);
    expect(text.match(/"subset":"open"/g)).toHaveLength(2);
    expect(text).not.toContain('"cut"');
  });

  test('of a dashboard opens, and its panes keep the subset that they are about', () => {
    const [pane] = dashboard.panes;
    const now = migrateDashboard({ ...dashboard, version: 1, panes: [{ ...pane, cut: 'late' }] });
    expect(now.panes[0]).toHaveProperty('subset', 'late');
  });

  test('of a dashboard with a form that adds opens with it', () => {
    const [pane] = dashboard.panes;
    const { id, title, place } = pane ?? {};
    const adds = { kind: 'new-record', id, title, place, dataSet: ids.incidents, action: 'add' };
    const now = migrateDashboard({ ...dashboard, version: 2, panes: [adds] });
    expect(now.panes[0]).toEqual({ ...adds, kind: 'form', about: 'new' });
  });

  test('of a dashboard with a table that is grouped opens with its group', () => {
    const pane = dashboard.panes.find(({ kind }) => kind === 'table');
    const at = (more: object) =>
      migrateDashboard({ ...dashboard, version: 3, panes: [{ ...pane, ...more }] }).panes[0];
    const grouped = at({ groupedBy: 'departs', groupUnit: 'week' });
    expect(grouped).toHaveProperty('groups', [{ field: 'departs', unit: 'week' }]);
    expect(grouped).not.toHaveProperty('groupedBy');
    expect(at({ groupedBy: 'route' })).toHaveProperty('groups', [{ field: 'route' }]);
    expect(at({})).not.toHaveProperty('groups');
  });

  test('without anything that was renamed stays as it is', () => {
    expect(migrateDataSet({ ...sailings, version: 1 })).toEqual(migrateDataSet(sailings));
  });
});

test('a definition of a later version is refused with both numbers', () => {
  expect(() => migrateDataSet({ ...sailings, version: 9 })).toThrow(
    'version 9; this installation reads up to 2',
  );
});
