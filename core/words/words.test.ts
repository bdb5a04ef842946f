import { describe, expect, test } from 'vitest';
import { briefParts } from '#core/dashboard/flow/words/brief.ts';
import { scopeSegments } from '#core/dashboard/flow/words/scope.ts';
import { emptyScope, type Scope } from '#core/dashboard/scope/state.ts';
import type { Period } from '#core/value/period/schema.ts';
import { context, panes, sailings } from '#testing/skerry.ts';
import { conditionWords, listWords } from './condition.ts';
import { periodSentence } from './period.ts';

const say = (scope: Partial<Scope>): string =>
  scopeSegments({ ...context, scope: { ...emptyScope, ...scope } })
    .map(({ text }) => text)
    .join('');
const { clock } = context;

describe('the scope sentence', () => {
  test('says every clause, set or not, with the dates that a relative one means now', () => {
    expect(say({})).toBe('All routes, departing in the last 28 days (27 Oct – 23 Nov), with any delay');
  });

  test('says what is chosen, and blanks by name', () => {
    expect(
      say({
        clauses: {
          route: { op: 'is', values: ['Norrick', null] },
          departing: null,
          delay: { op: 'atLeast', value: '15' },
        },
      }),
    ).toBe('Norrick or no routes, departing at any time, with at least 15');
  });

  test('shortens a long list and never a short one', () => {
    expect(listWords(['a', 'b', 'c', 'd'])).toBe('a, b, c and d');
    expect(listWords(['a', 'b', 'c', 'd', 'e'])).toBe('a, b, c and 2 more');
  });

  test('says what is being looked at', () => {
    expect(say({ focus: [{ dataSet: 'sailings', field: 'id', value: '20418' }] })).toContain(
      '· looking at sailing 20418',
    );
    expect(
      say({ focus: [{ dataSet: 'sailings', field: 'departs', unit: 'week', value: '2026-11-16' }] }),
    ).toContain('looking at the week of 16 Nov');
  });

  test('says the reader’s own groups', () => {
    const fog = { dataSet: 'sailings', field: 'cause', test: { op: 'contains' as const, text: 'fog' } };
    const prompt = { dataSet: 'sailings', field: 'delay', test: { op: 'atMost' as const, value: '5' } };
    const either = 'and where cause contains “fog” or delay is at most 5';
    expect(say({ own: [[[fog], [prompt]]] })).toContain(either);
    expect(say({ own: [[[fog, prompt], [prompt]], [[fog]]] })).toContain(
      'and where cause contains “fog” and delay is at most 5, or delay is at most 5 and where cause contains “fog”',
    );
  });

  test('survives names with quotes, emoji, right-to-left text and 500 characters', () => {
    const long = `"${'x'.repeat(498)}"`;
    expect(
      say({ clauses: { route: { op: 'is', values: ['🚢 "O’Brien"', 'مرسى', long] } } }).length,
    ).toBeLessThan(400);
  });
});

test('a period says its dates, so that the last 7 days and this week are told apart', () => {
  expect(periodSentence({ kind: 'last', count: 7, unit: 'day' }, clock)).toBe('the last 7 days (17–23 Nov)');
  expect(periodSentence({ kind: 'this', unit: 'week' }, clock)).toBe('this week (23–29 Nov)');
  expect(periodSentence({ kind: 'ago', count: 1, unit: 'day' }, clock)).toBe('yesterday (22 Nov)');
  expect(periodSentence({ kind: 'onward', count: 1, unit: 'day' }, clock)).toBe('yesterday on');
});

test('a nested condition keeps its meaning in words', () => {
  const condition = {
    all: [
      { field: 'cause', test: { op: 'is' as const, values: ['weather'] } },
      {
        any: [
          { field: 'delay', test: { op: 'above' as const, value: '10' } },
          { field: 'route', test: { op: 'blank' as const } },
        ],
      },
    ],
  };
  expect(conditionWords(condition, sailings.fields, clock)).toBe(
    'cause is weather and (delay is above 10 or route is blank)',
  );
});

test('a brief is a sentence whose slots can be chosen', () => {
  const parts = briefParts(panes.causes, { ...context, clock }) ?? [];
  expect(parts.map(({ text }) => text).join('')).toBe(
    'Draw bars of sailings by cause, split by nothing, highest first, showing all, once for all, for the period that readers choose, for all sailings with no condition. The records behind it show what its panes show.',
  );
  expect(parts.flatMap(({ slot }) => slot ?? [])).toEqual([
    'mark',
    'measure',
    'by',
    'split',
    'order',
    'top',
    'each',
    'when',
    'keeping',
    'behind',
  ]);
});

test('what holds whenever it is looked at says its periods without dates, and its moments with their year', () => {
  const during = (period: Period) =>
    conditionWords({ field: 'departs', test: { op: 'during', period } }, sailings.fields, 'UTC');
  expect(during({ kind: 'this', unit: 'week' })).toBe('departs is in this week');
  expect(during({ kind: 'olderThan', count: 2, unit: 'day' })).toBe('departs is more than 2 days ago');
  expect(during({ kind: 'dates', from: '1970-01-02', to: null })).toBe('departs is 2 Jan 1970 or later');
});
