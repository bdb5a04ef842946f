import { expect, test } from 'vitest';
import { sailings } from '#core/testing/skerry.ts';
import { keepProblem } from './check.ts';
import type { Keep } from './schema.ts';

const byHand = { kind: 'by hand' as const };
const problem = (keep: Keep, more = {}): string | null => keepProblem({ ...sailings, ...more, keep });

test('records can be kept whole, and by what changed where something identifies a record', () => {
  expect(problem({ mode: { kind: 'replace' }, schedule: byHand })).toBeNull();
  expect(problem({ mode: { kind: 'changed', since: 'departs' }, schedule: byHand })).toBeNull();
  expect(
    problem({ mode: { kind: 'changed', since: 'departs' }, schedule: byHand }, { key: undefined }),
  ).toContain('identifies');
  expect(
    problem({ mode: { kind: 'append', since: 'departs' }, schedule: byHand }, { key: undefined }),
  ).toBeNull();
});

test('a field that is not there, or cannot be gone on from, is named', () => {
  expect(problem({ mode: { kind: 'append', since: 'landed' }, schedule: byHand })).toContain('“landed”');
  expect(problem({ mode: { kind: 'append', since: 'cause' }, schedule: byHand })).toContain('“cause”');
  expect(
    problem({ mode: { kind: 'replace' }, schedule: byHand, forget: { field: 'delay', days: 3 } }),
  ).toContain('“delay”');
});

test('records that depend on an input are not kept', () => {
  const inputs = [{ name: 'least', type: 'integer', required: true }];
  expect(problem({ mode: { kind: 'replace' }, schedule: byHand }, { inputs })).toContain('input');
});

test('a schedule that cannot be followed is told why', () => {
  expect(
    problem({ mode: { kind: 'replace' }, schedule: { kind: 'cron', text: 'soon', zone: 'UTC' } }),
  ).toContain('five fields');
});
