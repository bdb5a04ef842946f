import { describe, expect, test } from 'vitest';
import { cardSpans } from '#core/dashboard/pane/kinds/card/spans.ts';
import type { ChartBody } from '#core/dashboard/pane/kinds/chart/kind.ts';
import type { ChartData } from '#core/dashboard/pane/kinds/chart/shape.ts';
import type { PaneBody } from '#core/dashboard/pane/kinds.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { Pane as PaneSchema } from '#core/dashboard/pane/schema.ts';
import { questions, suggestPane } from '#core/dashboard/pane/suggest.ts';
import { emptyScope, type Scope } from '#core/dashboard/scope/state.ts';
import type { GroupsPlan, Plan, RecordsPlan } from '#core/plan/plan.ts';
import type { Cell } from '#core/value/field/value.ts';
import { context, ids, panes, sailings } from '#testing/skerry.ts';
import { ask, type PaneQuery } from './ask.ts';

/* What each kind of pane asks for in a scope, and what becomes of the answers. */

const scoped = (clauses: Scope['clauses']) => ({ ...context, scope: { ...emptyScope, clauses } });

type Asking = Exclude<PaneQuery, { state: 'waiting' }>;
function asking(pane: Pane, of = context): Asking {
  const question = ask(pane, of);
  if (question.state === 'waiting') throw new Error('it waits');
  return question;
}
/** The plan of the one thing that is asked first, and its name. */
function firstOf({ first }: Asking): [string, Plan] {
  for (const [name, question] of Object.entries(first)) if ('plan' in question) return [name, question.plan];
  throw new Error('nothing is asked');
}
const groupsOf = (question: Asking): GroupsPlan => firstOf(question)[1] as GroupsPlan;
const listOf = (question: Asking): RecordsPlan => firstOf(question)[1] as RecordsPlan;
const bodyOf = (question: Asking, records: Cell[][]): PaneBody =>
  question.shape({ records: { [firstOf(question)[0]]: records }, counts: {} });

describe('a card', () => {
  test('compares the scope’s period with the one before, in one plan', () => {
    const question = asking(panes.card);
    expect(groupsOf(question).measures.map(({ name }) => name)).toEqual(['now', 'before']);
    expect(bodyOf(question, [['5', '4']])).toMatchObject({
      now: '5',
      before: '4',
      beforeWords: '29 Sep – 26 Oct',
    });
  });

  test('at any time has nothing to compare with', () => {
    const asked = asking(panes.card, scoped({ departing: null }));
    expect(groupsOf(asked).measures).toHaveLength(1);
    expect(bodyOf(asked, [['5']])).not.toHaveProperty('before');
  });

  test('about today is not narrowed by the scope’s dates, only by its other clauses', () => {
    const today = {
      ...panes.card,
      when: { field: 'departs', period: { kind: 'this' as const, unit: 'day' as const } },
    };
    const asked = asking(
      today,
      scoped({
        departing: { op: 'during', period: { kind: 'ago', count: 3, unit: 'month' } },
        delay: { op: 'atLeast', value: '1' },
      }),
    );
    const where = JSON.stringify(groupsOf(asked).where);
    expect(where).toContain('"from":"2026-11-22T00:00:00.000Z","to":"2026-11-24T00:00:00.000Z"');
    expect(where).not.toContain('2026-08');
    expect(where).toContain('delay');
  });

  test('at the same time of the period before compares equal stretches', () => {
    const soFar = {
      ...panes.card,
      against: 'sameTime' as const,
      when: { field: 'departs', period: { kind: 'this' as const, unit: 'day' as const } },
    };
    const spans = cardSpans(soFar, soFar.when.period, context.clock);
    const length = ({ from, to }: { from: Date | null; to: Date | null }) =>
      (to?.getTime() ?? 0) - (from?.getTime() ?? 0);
    expect(spans && length(spans.now)).toBe(12 * 3_600_000);
    expect(spans && length(spans.before)).toBe(12 * 3_600_000);
  });
});

describe('a chart over time', () => {
  const drawn = (records: Cell[][], of = context): ChartData =>
    (bodyOf(asking(panes.weeks, of), records) as ChartBody).data;

  test('shows the weeks in which nothing happened, as zero', () => {
    const { categories, series } = drawn([['2026-11-09', '4']]);
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
    const measures = [
      { name: 'count', label: 'delay', calculation: { kind: 'average' as const, field: 'delay' } },
    ];
    const dataSets = new Map(context.dataSets).set(ids.sailings, { ...sailings, measures });
    expect(drawn([['2026-11-09', '4']], { ...context, dataSets }).series[0]?.values).toEqual([
      null,
      null,
      '4',
      null,
      null,
    ]);
  });

  test('keeps records without a date apart', () => {
    const { categories } = drawn([
      ['2026-11-09', '4'],
      [null, '1'],
    ]);
    expect(categories.at(-1)).toEqual({ value: null });
  });
});

test('the rest is a category of its own, never taken for a blank', () => {
  const pane = { ...panes.causes, top: { count: 1, rest: true } };
  const { categories, series } = (
    bodyOf(asking(pane), [
      [false, 'weather', '9'],
      [false, null, '3'],
      [true, null, '5'],
    ]) as ChartBody
  ).data;
  expect(categories).toEqual([{ value: 'weather' }, { value: null }, { value: null, rest: true }]);
  expect(series[0]?.values).toEqual(['9', '3', '5']);
});

describe('a table', () => {
  test('sorts only by fields that there are, whatever the address says', () => {
    const plan = listOf(
      asking(panes.late, {
        ...context,
        scope: {
          ...emptyScope,
          views: { late: { order: ['+gone; DROP', '-delay'], page: ['3'] } },
        },
      }),
    );
    expect(plan.order).toEqual([{ by: 'delay', descending: true }]);
    expect(plan.offset).toBe(20);
  });

  test('asks for the fields it shows and its key, and no others', () => {
    expect(listOf(asking(panes.late)).fields).toEqual(['cause', 'delay', 'id']);
  });

  test('whose data set is gone says so', () => {
    expect(() => ask(panes.late, { ...context, dataSets: new Map() })).toThrow(
      'its data set no longer exists',
    );
  });
});

test.each(questions.map((question) => [question.ask, question] as const))(
  'the question “%s” leads to a brief that is valid and can be asked',
  (_, question) => {
    const pane = suggestPane(question, ids.sailings, sailings, { panes: [], offered: [] });
    expect(PaneSchema.safeParse(pane).error).toBeUndefined();
    expect(['asking', 'waiting']).toContain(ask(pane, context).state);
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
  const spans = cardSpans({ ...pane, when: { ...pane.when, field } }, pane.when.period, clock);
  // Clocks went back on 25 Oct: 19:53 by the wall is 19:53 UTC on both days.
  expect(spans?.before.to?.toISOString()).toBe('2026-10-27T19:53:00.000Z');
  expect(spans?.isPartial).toBe(true);
});
