import { afterEach, expect, test } from 'vitest';
import { ProblemError } from '#core/value/problem/problem.ts';
import { answerCounts, answerOnce, forgetAnswers, type Records } from './answers.ts';

afterEach(forgetAnswers);

const asking = { doing: 'testing' };
let runs = 0;
const answer = (records: Records) => async (): Promise<Records> => {
  runs += 1;
  return records;
};

test('equal questions are worked out once, at once and later; others each by themselves', async () => {
  runs = 0;
  const before = answerCounts().engineRuns;
  const question = { from: 'version 1', where: { field: 'gate', test: { op: 'filled' } } };
  const fifty = await Promise.all(
    Array.from({ length: 50 }, () => answerOnce(structuredClone(question), asking, answer([['7']]))),
  );
  expect(new Set(fifty)).toHaveLength(1);
  expect(await answerOnce(question, asking, answer([['8']]))).toEqual([['7']]);
  expect(await answerOnce({ ...question, from: 'version 2' }, asking, answer([['9']]))).toEqual([['9']]);
  expect(runs).toBe(2);
  expect(answerCounts().engineRuns - before).toBe(2);
});

test('nobody can change what the others are given', async () => {
  const records = await answerOnce('a', asking, answer([['b'], ['a']]));
  expect(() => (records as string[][]).sort()).toThrow(TypeError);
  expect(() => (records[0] as string[]).push('c')).toThrow(TypeError);
});

test('what fails is not held, and each asker is told of what they were doing', async () => {
  const problem = {
    code: 'time-out',
    doing: 'reading “Late ones”',
    why: 'it took too long',
    mend: 'Ask for less.',
  } as const;
  const fail = async (): Promise<Records> => {
    throw new ProblemError(problem);
  };
  const both = await Promise.allSettled([
    answerOnce('a', { doing: 'reading “Late ones”' }, fail),
    answerOnce('a', { doing: 'reading “On time”' }, fail),
  ]);
  expect(both.map((each) => each.status === 'rejected' && each.reason.problem.doing)).toEqual([
    'reading “Late ones”',
    'reading “On time”',
  ]);
  expect(await answerOnce('a', asking, answer([['7']]))).toEqual([['7']]);
});

test('one who leaves takes nothing from the others', async () => {
  const leaving = new AbortController();
  let finish = (): void => undefined;
  const slow = (signal: AbortSignal): Promise<Records> =>
    new Promise((resolve, reject) => {
      finish = () => resolve([['7']]);
      signal.addEventListener('abort', () => reject(new Error('stopped')));
    });
  const first = answerOnce('a', { ...asking, signal: leaving.signal }, slow);
  const second = answerOnce('a', asking, slow);
  leaving.abort();
  finish();
  await first.catch(() => undefined);
  expect(await second).toEqual([['7']]);
});

test('what is held is bounded: the answers that were used longest ago make room, and a very large one is not held', async () => {
  const large = [Array.from({ length: 100 }, () => 'x'.repeat(15_000))];
  for (let at = 0; at < 40; at += 1) await answerOnce(at, asking, answer(large));
  expect(answerCounts().bytes).toBeLessThanOrEqual(64_000_000);
  expect(answerCounts().held).toBeLessThan(40);
  runs = 0;
  await answerOnce(39, asking, answer(large));
  expect(runs).toBe(0);
  await answerOnce(0, asking, answer(large));
  expect(runs).toBe(1);
  const held = answerCounts().held;
  await answerOnce('larger', asking, answer([['x'.repeat(3_000_000)]]));
  expect(answerCounts().held).toBe(held);
});
