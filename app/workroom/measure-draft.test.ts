import { describe, expect, test } from 'vitest';
import { Measure } from '#core/ask/measure/schema.ts';
import { sailings } from '#testing/skerry.ts';
import {
  draftOfMeasure,
  emptyMeasure,
  fieldsFor,
  measureFrom,
  measureProblem,
  simpleOf,
} from './measure-draft.ts';

const { fields } = sailings;

describe('a measure being made', () => {
  test('is offered the fields that its calculation suits', () => {
    expect(fieldsFor('sum', fields).map(({ name }) => name)).toEqual(['id', 'delay']);
    expect(fieldsFor('distinct', fields)).toHaveLength(fields.length);
  });

  test('keeps its field when the kind changes, where the new kind can be of it', () => {
    expect(simpleOf('median', fields, 'delay')).toEqual({ kind: 'median', field: 'delay' });
    expect(simpleOf('sum', fields, 'cause')).toEqual({ kind: 'sum', field: 'id' });
    expect(simpleOf('sum', [{ name: 'cause', type: 'text' }], 'cause')).toBeNull();
  });

  test('is called by what it computes when nothing was said, and never takes a name that is taken', () => {
    const made = measureFrom(emptyMeasure, sailings);
    expect(made).toMatchObject({ name: 'how_many_sailings', label: 'how many sailings' });
    expect(measureFrom({ ...emptyMeasure, label: 'Count' }, sailings)?.name).toBe('count_2');
  });

  test('with a label in another script still gets a name', () => {
    expect(measureFrom({ ...emptyMeasure, label: 'رحلات' }, sailings)?.name).toBe('measure');
  });

  test('refuses a target that is not a number, or of what is not a number', () => {
    expect(measureProblem({ ...emptyMeasure, target: 'most' }, fields)).toContain('is not a number');
    const earliest = { ...emptyMeasure, calculation: { kind: 'least' as const, field: 'departs' } };
    expect(measureProblem({ ...earliest, target: '3' }, fields)).toBe('a target is for numbers');
    expect(measureFrom({ ...emptyMeasure, target: 'most' }, sailings)).toBeNull();
  });

  test('edited and not changed is the same measure', () => {
    const measure: Measure = {
      name: 'late_share',
      label: 'late',
      calculation: { kind: 'ratio', of: { kind: 'sum', field: 'delay' }, to: { kind: 'count' } },
      where: { field: 'delay', test: { op: 'atLeast', value: '15' } },
      unit: 'min',
      format: { kind: 'number', decimals: 1 },
      good: 'down',
      target: '2.5',
    };
    expect(Measure.parse(measureFrom(draftOfMeasure(measure), sailings, measure.name))).toEqual(measure);
  });
});
