import { describe, expect, test } from 'vitest';
import { diskProblem, ProblemError, problemOf, stepReason } from './problem.ts';

const coded = (code: string, message = 'it went wrong'): Error => Object.assign(new Error(message), { code });

describe('what was not foreseen', () => {
  test('never tells the query that failed, but what the database said of it', () => {
    const failed = new Error('Failed query: select "secret" from "sources"', {
      cause: new Error('relation “sources” does not exist'),
    });
    expect(problemOf(failed, 'reading')).toMatchObject({
      code: 'internal',
      doing: 'reading',
      why: 'relation “sources” does not exist',
    });
  });

  test.each([
    ['a refused connection', coded('ECONNREFUSED')],
    ['a server that ends', new Error('Failed query: select 1', { cause: coded('57P01') })],
    ['a server that starts', coded('57P03')],
    ['a connection that ended', new Error('Connection terminated unexpectedly')],
    ['a client after that', new Error('Client has encountered a connection error and is not queryable')],
  ])('is our own database being away: %s', (_, thrown) => {
    expect(problemOf(thrown, 'reading')).toMatchObject({
      code: 'unreachable',
      why: 'Slate Glass cannot reach its own database just now',
    });
  });

  test('is our own database being full, whose disk is another than that of the cache', () => {
    const said = 'could not extend file "base/16384/2619": No space left on device';
    for (const thrown of [
      coded('53100', said),
      new Error('Failed query: insert', { cause: coded('53100', said) }),
    ])
      expect(problemOf(thrown, 'saving')).toMatchObject({
        code: 'too-much',
        why: 'the disk of Slate Glass’s own database is full',
      });
  });

  test.each([
    coded('ENOSPC'),
    coded('EDQUOT'),
    new Error('IO Error: Could not write file "/a/b": No space left on device'),
  ])('is a full disk, without the folder: %s', (thrown) => {
    expect(problemOf(thrown, 'writing').why).toBe('the disk of the segment cache is full');
    expect(diskProblem(thrown, 'writing')?.problem.doing).toBe('writing');
  });

  test('stays what it is when it was foreseen, or is no error at all', () => {
    const known = new ProblemError({ code: 'missing', doing: 'a', why: 'b', mend: 'c' });
    expect(problemOf(known, 'reading')).toBe(known.problem);
    expect(problemOf('words', 'reading')).toMatchObject({ code: 'internal', why: 'words' });
    for (const other of [new Error('syntax error'), 'words', null, undefined])
      expect(diskProblem(other, 'writing')).toBeNull();
  });
});

test('a step’s own reason is found in what a database said, and nothing else is', () => {
  expect(stepReason('invalid input syntax for type numeric: "stopped: 2 in one"')).toBe('2 in one');
  expect(stepReason('division by zero')).toBeNull();
});
