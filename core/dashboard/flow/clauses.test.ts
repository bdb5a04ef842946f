import { describe, expect, test } from 'vitest';
import type { Test } from '#core/ask/condition/schema.ts';
import type { Clause } from '#core/dashboard/schema.ts';
import { readScope } from '#core/dashboard/scope/address.ts';
import { emptyScope } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { context, dashboard, ids, incidents, onlyUse, panes, sailings } from '#testing/skerry.ts';
import { appliedTo, relationOf } from './applies.ts';
import { mineTest } from './clauses.ts';
import { readsOf } from './reads-of.ts';
import { vocabularyOf } from './vocabulary.ts';
import { notNarrowedWords } from './words/not-narrowed.ts';
import { clauseWords } from './words/scope.ts';

const mine: Clause = {
  name: 'mine',
  many: 'sailings',
  offer: 'mine',
  person: 'email',
  dataSet: ids.sailings,
  field: 'cause',
};
const day: Clause = { name: 'tide-day', many: 'day', offer: 'input', dataSet: ids.sailings, input: 'day' };
const query = {
  ...sailings,
  inputs: [{ name: 'day', type: 'date' as const, required: false, label: 'Day' }],
};
const person = { name: 'Runa Tait', email: 'runa@skerry.example' };
const at = (clause: Clause, test?: Test | null) => ({
  ...context,
  person,
  dashboard: { ...dashboard, scope: [clause] },
  dataSets: new Map([
    [ids.sailings, query],
    [ids.incidents, incidents],
  ]),
  scope: { ...emptyScope, clauses: test === undefined ? {} : { [clause.name]: test } },
});
const dayGiven = (
  clause: Clause,
  dataSet: DataSet = query,
  test: Test | null = { op: 'is', values: ['2026-11-23'] },
) => relationOf(dataSet, at(clause, test)).relation.inputs.day?.value;

describe('a clause of one’s own records', () => {
  test('keeps those whose field says who asks, and without a choice all', () => {
    expect(appliedTo(onlyUse(panes.late), query, at(mine))).toEqual([]);
    const [one] = appliedTo(onlyUse(panes.late), query, at(mine, mineTest('email')));
    expect(one?.filter).toEqual({
      field: 'cause',
      test: { op: 'against', is: 'same', to: { value: 'runa@skerry.example' } },
    });
  });

  test('keeps nothing of anybody where nobody is signed in', () => {
    const nobody = { ...at(mine, mineTest('email')), person: undefined };
    const [one] = appliedTo(onlyUse(panes.late), query, nobody);
    expect(one?.filter).toMatchObject({ test: { to: { value: '' } } });
  });

  test('is said as a reader would say it', () => {
    const { clock } = context;
    expect(clauseWords(mine, null, query, clock)).toBe('all sailings');
    expect(clauseWords(mine, mineTest('email'), query, clock)).toBe('my sailings');
  });
});

describe('a clause that gives an input', () => {
  test('gives its value to every request that asks for one of that name and type', () => {
    expect(dayGiven(day)).toBe('2026-11-23');
    expect(dayGiven(day, { ...query })).toBe('2026-11-23');
    expect(dayGiven(day, query, null)).toBeNull();
    const other = { ...query, inputs: [{ name: 'day', type: 'text' as const, required: false }] };
    expect(dayGiven(day, other)).toBeNull();
  });

  test('narrows nothing by itself, not even a field of the same name', () => {
    const withField = { ...query, fields: [...query.fields, { name: 'day', type: 'date' as const }] };
    const here = at(day, { op: 'is', values: ['2026-11-23'] });
    expect(
      appliedTo(onlyUse(panes.late), withField, { ...here, dataSets: new Map([[ids.sailings, withField]]) }),
    ).toEqual([]);
  });

  test('is read from an address by the input’s type', () => {
    const vocabulary = vocabularyOf(at(day));
    const read = (search: string) => readScope(new URLSearchParams(search), vocabulary);
    expect(read('tide-day=2026-11-23').scope.clauses['tide-day']).toEqual({
      op: 'is',
      values: ['2026-11-23'],
    });
    expect(read('tide-day=soon').problems).toHaveLength(1);
  });

  test('is named at panes whose requests do not ask for it, and at no other', () => {
    const here = at(day, { op: 'is', values: ['2026-11-23'] });
    const { late, incidents: others } = readsOf(here);
    expect(late && notNarrowedWords(late, here)).toBe('');
    expect(others && notNarrowedWords(others, here)).toBe('not narrowed by day');
    expect(clauseWords(day, { op: 'is', values: ['2026-11-23'] }, query, context.clock)).toBe('23 Nov');
  });
});
