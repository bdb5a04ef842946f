import { afterEach, expect, test, vi } from 'vitest';
import type { Change } from '#core/change/change.ts';
import type { Column } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { ChangeResult, EachOutcome } from './change.ts';
import { makeEach, type RecordService } from './change-each.ts';

const columns: Column[] = [{ column: 'state', name: 'state', type: 'text' }];
const set = (key: string): Change => ({ way: 'update', key, expected: {}, values: { state: 'done' } });

/** A service in memory, which does something of its own at each change. */
function service(at: (key: string) => void): RecordService & { readonly states: Map<string, string> } {
  const states = new Map(['1', '2', '3'].map((key) => [key, 'open']));
  return {
    states,
    read: async (key) => {
      const state = states.get(key);
      return state === undefined ? null : { values: { state }, tag: null };
    },
    update: async (key) => {
      at(key);
      states.set(key, 'done');
    },
    insert: async () => ({ key: null }),
    remove: async () => undefined,
  };
}
const make = (of: RecordService): Promise<ChangeResult> =>
  makeEach(of, {
    place: {
      kind: 'one-table',
      schema: '',
      table: 'orders',
      key: { column: 'id', name: 'id', type: 'text' },
    },
    columns,
    changes: ['1', '2', '3'].map(set),
    once: 'once',
    doing: 'changing orders',
    beforeEnd: async () => undefined,
  });
const outcomes = (result: ChangeResult): EachOutcome['outcome'][] =>
  result.state === 'each' ? result.each.map(({ outcome }) => outcome) : [];

afterEach(() => vi.restoreAllMocks());

test('what would keep a person waiting for minutes is not sent any more, and said to be so', async () => {
  let now = performance.now();
  vi.spyOn(performance, 'now').mockImplementation(() => now);
  const slow = service(() => {
    now += 40_000;
  });
  const result = await make(slow);
  expect(outcomes(result)).toEqual(['done', 'done', 'refused']);
  expect(result.state === 'each' && result.each[2]?.problem?.why).toContain('those before it took so long');
  expect(slow.states.get('3')).toBe('open');
});

test('what is refused by a service that has gone ends the rest', async () => {
  const gone = service((key) => {
    if (key === '2')
      throw new ProblemError({
        code: 'refused',
        doing: 'changing',
        why: 'nothing listens there',
        mend: 'Wait.',
      });
  });
  const result = await make(gone);
  expect(outcomes(result)).toEqual(['done', 'refused', 'refused']);
  expect(result.state === 'each' && result.each[2]?.problem?.why).toContain('it was not sent');
  expect(gone.states.get('3')).toBe('open');
});
