import { describe, expect, test } from 'vitest';
import type { Step } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { calledAt, stepWords } from './step.ts';

const before: Field[] = [
  { name: 'route', type: 'text' },
  { name: 'delay_minutes', type: 'integer', label: 'Delay' },
  { name: 'departs_at', type: 'instant', label: 'Departs' },
  { name: 'stops', type: 'nested' },
];
const wordsOf = (step: object): string =>
  stepWords({ id: 's', ...step } as Step, { before, world: new Map(), many: 'sailings' });

describe('a step as a sentence', () => {
  test('names the reader’s things', () => {
    expect(
      wordsOf({ kind: 'where', condition: { field: 'route', test: { op: 'is', values: ['Norrick'] } } }),
    ).toBe('Keep sailings where route is Norrick');
    expect(wordsOf({ kind: 'type', field: 'delay_minutes', to: 'text', misfit: 'stop' })).toBe(
      'Read delay as text, or stop where that fails',
    );
    expect(wordsOf({ kind: 'fields', keep: ['route', 'delay_minutes', 'departs_at'] })).toBe(
      'Leave out stops',
    );
    expect(wordsOf({ kind: 'fields', keep: ['route'] })).toBe('Keep only route');
    expect(
      wordsOf({ kind: 'derive', name: 'late', making: { kind: 'expression', text: 'delay_minutes\n > 5' } }),
    ).toBe('Make “late”: delay_minutes > 5');
    expect(
      wordsOf({
        kind: 'derive',
        name: 'departs_at',
        making: { kind: 'shift', field: 'departs_at', minutes: -180 },
      }),
    ).toBe('Change departs to departs 3 hours earlier');
    expect(
      wordsOf({
        kind: 'rank',
        as: 'place',
        order: [{ by: 'delay_minutes', descending: true }],
        within: ['route'],
        keep: 3,
      }),
    ).toBe('Keep the first 3 by delay, greatest first, for each route');
    expect(
      wordsOf({
        kind: 'summarise',
        by: [{ field: 'departs_at', unit: 'month', as: 'month' }],
        measures: [{ name: 'how many', calculation: { kind: 'count' } }],
      }),
    ).toBe('Summarise by month of departs: how many');
    expect(wordsOf({ kind: 'unfold', field: 'stops', as: 'stop', keepEmpty: true })).toBe(
      'Make a record of each item in stops',
    );
  });

  test('calls records by their name only once they are what the data set has', () => {
    const where: Step = { kind: 'where', id: 'a', condition: { all: [] } };
    const summarise: Step = { kind: 'summarise', id: 'b', by: [], measures: [] };
    const called = (steps: Step[]): string[] =>
      [...steps, where].map((_, at) => calledAt(steps, at, 'months of routes'));
    expect(called([where, summarise])).toEqual(['records', 'records', 'months of routes']);
    expect(called([where, { ...summarise, off: true }])).toEqual(Array(3).fill('months of routes'));
  });

  test('says that what it refers to is gone', () => {
    const from = { dataSet: '00000000-0000-4000-8000-000000000001' };
    expect(
      wordsOf({
        kind: 'lookUp',
        from,
        on: [{ field: 'route', other: 'name' }],
        mode: 'count',
        take: [],
        order: [],
        as: 'n',
      }),
    ).toBe('Count a data set that no longer exists with this route');
  });
});
