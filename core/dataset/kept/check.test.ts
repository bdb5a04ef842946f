import { expect, test } from 'vitest';
import { keepProblem } from '#core/dataset/keep-problem.ts';
import { sailings } from '#testing/skerry.ts';
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

test('a service can be told where to go on from, by an optional input of the right type', () => {
  const request = {
    kind: 'http' as const,
    call: {
      method: 'GET' as const,
      path: 'sailings',
      query: [{ name: 'since', value: '{since}' }],
      headers: [],
    },
    format: 'auto' as const,
    records: '$',
    paging: { kind: 'none' as const },
    columns: [],
  };
  const keep: Keep = { mode: { kind: 'changed', since: 'departs', tell: 'since' }, schedule: byHand };
  const since = { name: 'since', type: 'instant', required: false };
  const told = (more: object) => problem(keep, { request, inputs: [since], ...more });
  expect(told({})).toBeNull();
  expect(told({ inputs: [{ ...since, type: 'text' }] })).toBeNull();
  expect(told({ inputs: [{ ...since, type: 'integer' }] })).toContain('no instant');
  expect(told({ inputs: [{ ...since, required: true }] })).toContain('optional');
  expect(told({ inputs: [] })).toContain('no input “since”');
  expect(told({ inputs: [since, { ...since, name: 'least' }] })).toContain('depend on an input');
  expect(told({ request: sailings.request })).toContain('only a service');
});
