import { expect, test } from 'vitest';
import { sharing } from './share.ts';

function counted() {
  const share = sharing<string>();
  const runs: AbortSignal[] = [];
  let finish: (value: string) => void = () => undefined;
  const run = (signal: AbortSignal): Promise<string> => {
    runs.push(signal);
    return new Promise((resolve, reject) => {
      finish = resolve;
      signal.addEventListener('abort', () => reject(new Error('stopped')));
    });
  };
  return { share, runs, run, finish: (value: string) => finish(value) };
}

test('equal questions in flight share one run', async () => {
  const { share, runs, run, finish } = counted();
  const both = [share('a', undefined, run), share('a', new AbortController().signal, run)];
  finish('x');
  expect(await Promise.all(both)).toEqual(['x', 'x']);
  expect(runs).toHaveLength(1);
});

test('a question asked after the answer came is run again', async () => {
  const { share, runs, run, finish } = counted();
  const first = share('a', undefined, run);
  finish('x');
  await first;
  const second = share('a', undefined, run);
  finish('y');
  expect(await second).toBe('y');
  expect(runs).toHaveLength(2);
});

test('the run goes on while anybody waits, and stops when the last has left', async () => {
  const { share, runs, run } = counted();
  const [one, two] = [new AbortController(), new AbortController()];
  const first = share('a', one.signal, run);
  const second = share('a', two.signal, run).catch(() => 'gone');
  first.catch(() => undefined);
  one.abort();
  expect(runs[0]?.aborted).toBe(false);
  two.abort();
  expect(runs[0]?.aborted).toBe(true);
  expect(await second).toBe('gone');
});

test('a run that fails fails for all who share it, and the next one is asked again', async () => {
  const share = sharing<string>();
  const failing = () => Promise.reject(new Error('no'));
  await expect(Promise.all([share('a', undefined, failing), share('a', undefined, failing)])).rejects.toThrow(
    'no',
  );
  await expect(share('a', undefined, () => Promise.resolve('yes'))).resolves.toBe('yes');
});

test('once something has changed nobody joins a run that began before, and that one ends by itself', async () => {
  const share = sharing<string>();
  const finish: ((value: string) => void)[] = [];
  const run = (): Promise<string> => new Promise((resolve) => finish.push(resolve));
  const before = share('a', undefined, run);
  share.forget();
  const after = share('a', undefined, run);
  const joined = share('a', undefined, run);
  finish[0]?.('old');
  expect(await before).toBe('old');
  // The one that ended took nothing from the one that goes on.
  const late = share('a', undefined, run);
  finish[1]?.('new');
  expect(await Promise.all([after, joined, late])).toEqual(['new', 'new', 'new']);
  expect(finish).toHaveLength(2);
});
