import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { emptyScope, type Scope } from '#core/scope/state.ts';
import { context, ids, panes, sailings } from '#core/testing/skerry.ts';
import { arranged, placeByKey } from './arrange.ts';
import { ask } from './ask.ts';
import { differenceOf } from './difference.ts';
import type { Pane } from './schema.ts';
import { Pane as PaneSchema } from './schema.ts';
import { shapeChart } from './shape.ts';
import { freePlace, questions, suggestPane } from './suggest.ts';

const scoped = (clauses: Scope['clauses']) => ({ ...context, scope: { ...emptyScope, clauses } });

describe('a card', () => {
  test('compares the scope’s period with the one before, in one plan', () => {
    const asked = ask(panes.card, context);
    if (asked.state !== 'card') throw new Error('not asked');
    expect(asked.plan.measures.map(({ name }) => name)).toEqual(['now', 'before']);
    expect([asked.spans?.before.fromDay, asked.spans?.before.toDay]).toEqual(['2026-09-29', '2026-10-27']);
  });

  test('at any time has nothing to compare with', () => {
    const asked = ask(panes.card, scoped({ departing: null }));
    expect(asked.state === 'card' && asked.spans).toBeNull();
  });

  test('about today is not narrowed by the scope’s dates, only by its other clauses', () => {
    const today = {
      ...panes.card,
      when: { field: 'departs', period: { kind: 'this' as const, unit: 'day' as const } },
    };
    const asked = ask(
      today,
      scoped({
        departing: { op: 'during', period: { kind: 'ago', count: 3, unit: 'month' } },
        delay: { op: 'atLeast', value: '1' },
      }),
    );
    const where = asked.state === 'card' ? JSON.stringify(asked.plan.where) : '';
    expect(where).toContain('2026-11-23');
    expect(where).not.toContain('2026-08');
    expect(where).toContain('delay');
  });

  test('at the same time of the period before compares equal stretches', () => {
    const soFar = {
      ...panes.card,
      against: 'sameTime' as const,
      when: { field: 'departs', period: { kind: 'this' as const, unit: 'day' as const } },
    };
    const asked = ask(soFar, context);
    if (asked.state !== 'card' || !asked.spans) throw new Error('not asked');
    const length = ({ from, to }: { from: Date | null; to: Date | null }) =>
      (to?.getTime() ?? 0) - (from?.getTime() ?? 0);
    expect(length(asked.spans.now)).toBe(12 * 3_600_000);
    expect(length(asked.spans.before)).toBe(12 * 3_600_000);
  });
});

describe('a chart over time', () => {
  const asked = ask(panes.weeks, context);
  if (asked.state !== 'chart') throw new Error('not asked');

  test('shows the weeks in which nothing happened, as zero', () => {
    const { categories, series } = shapeChart(panes.weeks, asked.plan, [['2026-11-09', '4']], asked.span);
    expect(categories.map(({ value }) => value)).toEqual([
      '2026-10-26',
      '2026-11-02',
      '2026-11-09',
      '2026-11-16',
      '2026-11-23',
    ]);
    expect(series[0]?.values).toEqual(['0', '0', '4', '0', '0']);
  });

  test('shows an average of nothing as blank, not as zero', () => {
    const plan = {
      ...asked.plan,
      measures: [{ name: 'm', calculation: { kind: 'average' as const, field: 'delay' } }],
    };
    expect(shapeChart(panes.weeks, plan, [['2026-11-09', '4']], asked.span).series[0]?.values).toEqual([
      null,
      null,
      '4',
      null,
      null,
    ]);
  });

  test('keeps records without a date apart', () => {
    const { categories } = shapeChart(
      panes.weeks,
      asked.plan,
      [
        ['2026-11-09', '4'],
        [null, '1'],
      ],
      asked.span,
    );
    expect(categories.at(-1)).toEqual({ value: null });
  });
});

test('the rest is a category of its own, never taken for a blank', () => {
  const pane = { ...panes.causes, top: { count: 1, rest: true } };
  const asked = ask(pane, context);
  if (asked.state !== 'chart') throw new Error('not asked');
  const { categories, series } = shapeChart(
    pane,
    asked.plan,
    [
      [false, 'weather', '9'],
      [false, null, '3'],
      [true, null, '5'],
    ],
    null,
  );
  expect(categories).toEqual([{ value: 'weather' }, { value: null }, { value: null, rest: true }]);
  expect(series[0]?.values).toEqual(['9', '3', '5']);
});

describe('a table', () => {
  test('sorts only by fields that there are, whatever the address says', () => {
    const asked = ask(panes.late, {
      ...context,
      scope: {
        ...emptyScope,
        tables: { late: { order: [{ by: 'gone; DROP' }, { by: 'delay', descending: true }], page: 3 } },
      },
    });
    if (asked.state !== 'table') throw new Error('not asked');
    expect(asked.plan.order).toEqual([{ by: 'delay', descending: true }]);
    expect(asked.plan.offset).toBe(20);
  });

  test('asks for the fields it shows and its key, and no others', () => {
    const asked = ask(panes.late, context);
    expect(asked.state === 'table' && asked.plan.fields).toEqual(['cause', 'delay', 'id']);
  });

  test('whose data set is gone says so', () => {
    expect(() => ask(panes.late, { ...context, dataSets: new Map() })).toThrow('its data set is gone');
  });
});

test('a difference is exact, and blank where a side is', () => {
  expect(differenceOf('0.3', '0.1')).toEqual({ by: '0.2', ratio: '2', direction: 'up' });
  expect(differenceOf('5', '0')?.ratio).toBeNull();
  expect(differenceOf(null, '1')).toBeNull();
  expect(differenceOf('1', undefined)).toBeNull();
});

describe('panes on the sheet', () => {
  const overlapping = (all: readonly Pane[]): boolean =>
    all.some((a, i) =>
      all.some(
        ({ place: b }, j) =>
          i < j &&
          a.place.x < b.x + b.w &&
          b.x < a.place.x + a.place.w &&
          a.place.y < b.y + b.h &&
          b.y < a.place.y + a.place.h,
      ),
    );
  const size = fc.record({
    x: fc.integer({ min: -3, max: 14 }),
    y: fc.integer({ min: -2, max: 30 }),
    w: fc.integer({ min: 0, max: 15 }),
    h: fc.integer({ min: 0, max: 9 }),
  });

  test('never lie on each other nor leave the sheet, however they are moved', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom('card', 'causes', 'weeks', 'late'), size), { maxLength: 12 }),
        (moves) => {
          let all: Pane[] = [panes.card, panes.causes, panes.weeks, panes.late];
          for (const [id, place] of moves) all = arranged(all, id, place);
          if (moves.length > 0) expect(overlapping(all)).toBe(false);
          for (const pane of all) expect(PaneSchema.safeParse(pane).success).toBe(true);
        },
      ),
      { numRuns: 500 },
    );
  });

  test('move by arrow keys and resize with Shift, and stop at the edges', () => {
    const one = (place: Pane['place']): Pane[] => [{ ...panes.card, id: 'one', place }];
    const left = { x: 0, y: 0, w: 6, h: 4 };
    const right = { ...left, x: 6 };
    expect(placeByKey(one(left), 'one', 'ArrowLeft', false)).toEqual(left);
    expect(placeByKey(one(left), 'one', 'ArrowRight', false)).toEqual({ ...left, x: 1 });
    expect(placeByKey(one(right), 'one', 'ArrowRight', true)).toEqual(right);
    expect(placeByKey(one(left), 'one', 'x', false)).toBeNull();
  });

  test('that are stacked change places with Up and Down', () => {
    const stack: Pane[] = ['a', 'b', 'c'].map((id, index) => ({
      ...panes.card,
      id,
      place: { x: 0, y: index * 4, w: 6, h: 4 },
    }));
    const order = (all: readonly Pane[]): string =>
      [...all]
        .sort((a, b) => a.place.y - b.place.y)
        .map(({ id }) => id)
        .join('');
    const moved = (all: readonly Pane[], id: string, key: string): Pane[] => {
      const place = placeByKey(all, id, key, false);
      return place ? arranged(all, id, place) : [...all];
    };
    const once = moved(stack, 'a', 'ArrowDown');
    expect(order(once)).toBe('bac');
    expect(order(moved(once, 'a', 'ArrowDown'))).toBe('bca');
    expect(order(moved(moved(once, 'a', 'ArrowDown'), 'a', 'ArrowDown'))).toBe('bca');
    expect(order(moved(stack, 'c', 'ArrowUp'))).toBe('acb');
    expect(order(moved(stack, 'a', 'ArrowUp'))).toBe('abc');
  });

  test('that are added take the first free place', () => {
    expect(freePlace([panes.card], { w: 6, h: 4 })).toEqual({ x: 6, y: 0, w: 6, h: 4 });
    expect(freePlace([], { w: 3, h: 3 })).toEqual({ x: 0, y: 0, w: 3, h: 3 });
  });
});

test.each(questions.map(({ ask: each }) => each))(
  'the question “%s” leads to a brief that is valid and can be asked',
  (question) => {
    const pane = suggestPane(question, ids.sailings, sailings, []);
    expect(PaneSchema.safeParse(pane).error).toBeUndefined();
    expect(['card', 'chart', 'table', 'waiting']).toContain(ask(pane, context).state);
  },
);

test('a comparison as far as now goes by the clock on the wall, also over a change of the clocks', () => {
  const now = new Date('2026-11-27T19:53:00Z');
  const clock = { now, zone: 'Europe/London' };
  const pane = {
    ...panes.card,
    against: 'sameTime' as const,
    when: { field: 'departs_at', period: { kind: 'this' as const, unit: 'month' as const } },
  };
  const field = sailings.fields.find(({ type }) => type === 'instant')?.name ?? '';
  const asked = ask({ ...pane, when: { ...pane.when, field } } as Pane, { ...context, clock });
  // Clocks went back on 25 Oct: 19:53 by the wall is 19:53 UTC on both days.
  expect(asked.state === 'card' && asked.spans?.before.to?.toISOString()).toBe('2026-10-27T19:53:00.000Z');
  expect(asked.state === 'card' && asked.spans?.isPartial).toBe(true);
});

test('units of time that are not whole are marked: the one that goes on, and those cut by the period', () => {
  const chart = { ...panes.weeks, by: { field: 'departs', unit: 'month' as const } } as const;
  const plan = {
    by: [{ field: 'departs', unit: 'month' }],
    measures: [{ name: 'n', calculation: { kind: 'count' } }],
    zone: 'UTC',
  } as never;
  const records = [
    ['2026-09-01', '3'],
    ['2026-10-01', '4'],
    ['2026-11-01', '1'],
  ];
  const span = {
    from: new Date('2026-09-10T00:00:00Z'),
    to: new Date('2026-12-01T00:00:00Z'),
    fromDay: '2026-09-10',
    toDay: '2026-12-01',
  };
  const { categories } = shapeChart(chart, plan, records, span, { now: new Date('2026-11-27T00:00:00Z') });
  expect(categories.map(({ partial }) => partial ?? 'whole')).toEqual(['in part', 'whole', 'so far']);
});
