import { describe, expect, test } from 'vitest';
import { ProblemError, problemOf } from '#core/value/problem/problem.ts';
import { fieldTypeOf, readOf } from './pool.ts';
import { sourceProblem } from './problem.ts';

const thrown = (code: string, message = 'as the source says it') =>
  Object.assign(new Error(message), { code });

describe('an error of a source', () => {
  test.each([
    ['ENOTFOUND', 'unreachable'],
    ['ECONNREFUSED', 'refused'],
    ['ETIMEDOUT', 'time-out'],
    ['ECONNRESET', 'unreachable'],
    ['08006', 'unreachable'],
    ['57P01', 'unreachable'],
    ['55000', 'unreachable'],
    ['28P01', 'credential'],
    ['28000', 'credential'],
    ['3D000', 'database'],
    ['42P01', 'missing'],
    ['42703', 'missing'],
    ['57014', 'time-out'],
    ['25006', 'forbidden'],
    ['42501', 'forbidden'],
    ['53300', 'too-much'],
    ['22P02', 'bad-request'],
    ['42601', 'bad-request'],
    ['XX000', 'internal'],
  ])('%s is told as %s, with what was being done and what to do', (code, expected) => {
    const { problem } = sourceProblem(thrown(code), 'reading sailings');
    expect(problem.code).toBe(expected);
    expect(problem.doing).toBe('reading sailings');
    expect(problem.mend.length).toBeGreaterThan(10);
  });

  test('keeps the source’s own words where it has some worth keeping', () => {
    expect(sourceProblem(thrown('42703', 'column "cause" does not exist'), 'x').problem.why).toBe(
      'column "cause" does not exist',
    );
  });

  test.each([
    ['The server does not support SSL connections', 'tls'],
    ['self-signed certificate', 'tls'],
    ['timeout expired', 'time-out'],
    ['Connection terminated unexpectedly', 'unreachable'],
    ['Client has encountered a connection error and is not queryable', 'unreachable'],
    ['something else', 'internal'],
  ])('without a code, “%s” is told as %s', (message, expected) => {
    expect(sourceProblem(new Error(message), 'x').problem.code).toBe(expected);
  });

  test('that is a problem already stays the one it is', () => {
    const first = sourceProblem(thrown('28P01'), 'connecting');
    expect(sourceProblem(first, 'something else')).toBe(first);
    expect(problemOf(first, 'something else')).toBe(first.problem);
  });

  test('says that it is tried again only where it is', () => {
    for (const code of ['ECONNRESET', '53300'])
      expect(sourceProblem(thrown(code), 'x').problem.mend).toContain('tried again by itself');
    expect(sourceProblem(thrown('XX000'), 'x').problem.mend).not.toContain('by itself');
  });

  test('is never without words, whatever was thrown', () => {
    for (const odd of [null, undefined, 7, 'text', {}, { message: 3 }]) {
      expect(sourceProblem(odd, 'x')).toBeInstanceOf(ProblemError);
      expect(problemOf(odd, 'x').why.length).toBeGreaterThan(0);
    }
  });
});

test('a column of a type that is not known is read as text', () => {
  expect([fieldTypeOf(2950), readOf(2950)]).toEqual(['text', 'text']);
  expect([fieldTypeOf(20), readOf(20)]).toEqual(['integer', undefined]);
  expect([fieldTypeOf(1114), readOf(1114)]).toEqual(['instant', 'utc']);
  expect([fieldTypeOf(3802), readOf(3802)]).toEqual(['nested', 'text']);
});
