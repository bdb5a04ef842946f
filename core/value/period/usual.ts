import type { Period } from './schema.ts';

/** The relative periods that people ask for most, nearest first. */
export const usualPeriods: readonly Period[] = [
  { kind: 'this', unit: 'day' },
  { kind: 'ago', count: 1, unit: 'day' },
  { kind: 'last', count: 7, unit: 'day' },
  { kind: 'last', count: 28, unit: 'day' },
  { kind: 'this', unit: 'week' },
  { kind: 'ago', count: 1, unit: 'week' },
  { kind: 'this', unit: 'month' },
  { kind: 'ago', count: 1, unit: 'month' },
  { kind: 'last', count: 12, unit: 'month' },
  { kind: 'this', unit: 'quarter' },
  { kind: 'this', unit: 'year' },
  { kind: 'ago', count: 1, unit: 'year' },
];
