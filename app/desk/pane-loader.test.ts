import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import { type Answer, type Loaded, PaneLoader } from './pane-loader.ts';

/** An answer that can be told from others by its moment. */
const ready = (trueAt: string, isPartial = false): PaneResult =>
  ({
    state: 'ready',
    trueAt,
    took: 1,
    body: null,
    ...(isPartial ? { isPartial } : {}),
  }) as unknown as PaneResult;
const failed = (code: string): PaneResult =>
  ({ state: 'failed', problem: { code, doing: '', why: '', mend: '' } }) as PaneResult;

/** A request as the server has it. */
interface Request {
  readonly ids: readonly string[];
  readonly search: string;
  readonly signal: AbortSignal;
  /** Answers some panes; the request stays open. */
  readonly answer: (answers: Record<string, Answer>) => Promise<void>;
  readonly end: () => Promise<void>;
  readonly breakOff: () => Promise<void>;
}

let requests: Request[];
let loaded: Loaded;
let loader: PaneLoader;

/** Until all that follows from what has happened has happened. */
const settled = async (): Promise<void> => {
  for (let turn = 0; turn < 20; turn += 1) await Promise.resolve();
};

async function* askForPanes(ids: readonly string[], search: string, signal: AbortSignal) {
  const lines: ({ id: string; result: Answer } | 'end' | 'broken')[] = [];
  let wake = (): void => undefined;
  const say = async (...more: typeof lines): Promise<void> => {
    lines.push(...more);
    wake();
    await settled();
  };
  signal.addEventListener('abort', () => void say('broken'));
  requests.push({
    ids,
    search,
    signal,
    answer: (answers) => say(...Object.entries(answers).map(([id, result]) => ({ id, result }))),
    end: () => say('end'),
    breakOff: () => say('broken'),
  });
  for (;;) {
    const line = lines.shift();
    if (line === 'end') return;
    if (line === 'broken') throw new Error('broken off');
    if (line) yield line;
    else
      await new Promise<void>((resolve) => {
        wake = resolve;
      });
  }
}

const scope = (name: string): { keys: Record<string, string>; search: string } => ({
  keys: { one: `one of ${name}`, two: `two of ${name}`, still: 'the same' },
  search: `?scope=${name}`,
});
/** What a pane shows: the moment of its answer, with a star while it waits for another. */
const shown = (id: string): string => {
  const answer = loaded.known[id]?.answer;
  const words =
    answer && 'state' in answer ? (answer.state === 'ready' ? answer.trueAt : answer.state) : 'nothing';
  return loaded.pending.has(id) ? `${words} *` : words;
};
const request = (at: number): Request => {
  const found = requests.at(at);
  if (!found) throw new Error('nothing was asked');
  return found;
};

beforeEach(async () => {
  vi.useFakeTimers();
  requests = [];
  loader = new PaneLoader(scope('a'), askForPanes, (now) => {
    loaded = now;
  });
  loader.take({ one: ready('a'), two: Promise.resolve(ready('a')), still: ready('still') });
  await settled();
});
afterEach(() => {
  loader.stop();
  vi.useRealTimers();
});

test('what comes with the page is shown, and nothing is asked', () => {
  expect([shown('one'), shown('two'), shown('still')]).toEqual(['a', 'a', 'still']);
  expect(requests).toEqual([]);
});

test('a change asks for the panes that it concerns, in one request, and what is old is shown meanwhile', async () => {
  loader.show(scope('b'));
  await settled();
  expect(requests).toMatchObject([{ ids: ['one', 'two'], search: '?scope=b' }]);
  expect([shown('one'), shown('two'), shown('still')]).toEqual(['a *', 'a *', 'still']);
  await request(0).answer({ one: ready('b, so far', true) });
  expect(shown('one')).toBe('b, so far *');
  await request(0).answer({ one: ready('b') });
  expect([shown('one'), shown('two')]).toEqual(['b', 'a *']);
});

test('what is shown again is there at once, for a minute, and what was asked meanwhile is stopped and shown nowhere', async () => {
  loader.show(scope('b'));
  await settled();
  loader.show(scope('a'));
  expect([shown('one'), shown('two')]).toEqual(['a', 'a']);
  expect(request(0).signal.aborted).toBe(true);
  await request(0).answer({ one: ready('b'), two: ready('b') });
  expect([shown('one'), shown('two')]).toEqual(['a', 'a']);
  loader.show(scope('b'));
  vi.advanceTimersByTime(61_000);
  loader.show(scope('a'));
  await settled();
  expect(requests.at(-1)).toMatchObject({ search: '?scope=a' });
});

test('after a change only that is asked for which has not been since it was sent', async () => {
  loader.ask(['still']);
  vi.advanceTimersByTime(10);
  const sentAt = performance.now();
  loader.ask(['one']);
  await settled();
  loader.askAll(sentAt);
  await settled();
  expect(requests.map(({ ids }) => ids)).toEqual([['still'], ['one'], ['two', 'still']]);
  expect(request(1).signal.aborted).toBe(false);
  loader.ask(['two', 'still']);
  loader.askAll(sentAt);
  await settled();
  expect(requests).toHaveLength(4);
  loader.askAll();
  await settled();
  expect(requests.at(-1)).toMatchObject({ ids: ['one', 'two', 'still'] });
  // What was asked for a scope that is not shown does not count.
  vi.advanceTimersByTime(10);
  const laterAt = performance.now();
  loader.askAhead(scope('b'));
  loader.askAll(laterAt);
  await settled();
  expect(requests.at(-1)).toMatchObject({ ids: ['one', 'two', 'still'], search: '?scope=a' });
});

test('what comes with the page later than the reader has moved on is not shown as what they moved on to', async () => {
  let come = (_: Answer): void => undefined;
  const late = new Promise<Answer>((resolve) => {
    come = resolve;
  });
  loader = new PaneLoader(scope('a'), askForPanes, (now) => {
    loaded = now;
  });
  loader.take({ one: late });
  loader.show(scope('b'));
  come(ready('a'));
  await settled();
  expect(shown('one')).toBe('nothing *');
  await request(0).answer({ one: ready('b') });
  expect(shown('one')).toBe('b');
  loader.show(scope('a'));
  expect(shown('one')).toBe('a');
});

describe('what is asked before the page is there', () => {
  test('is asked once, and waited for once the page is there', async () => {
    loader.askAhead(scope('b'));
    await settled();
    expect(requests).toMatchObject([{ ids: ['one', 'two'], search: '?scope=b' }]);
    expect(shown('one')).toBe('a');
    loader.show(scope('b'));
    await settled();
    expect(requests).toHaveLength(1);
    expect(shown('one')).toBe('a *');
    await request(0).answer({ one: ready('b') });
    expect(shown('one')).toBe('b');
  });

  test('is shown with the page if it came before it, and not before', async () => {
    loader.askAhead(scope('b'));
    await settled();
    await request(0).answer({ one: ready('b'), two: failed('internal') });
    expect([shown('one'), shown('two')]).toEqual(['a', 'a']);
    loader.show(scope('b'));
    await settled();
    expect(shown('one')).toBe('b');
    // What failed is asked for again.
    expect(requests.at(-1)?.ids).toEqual(['two']);
  });

  test('is asked again where a change is taken back before the page has followed it', async () => {
    loader.show(scope('b'));
    await settled();
    loader.askAhead(scope('c'));
    loader.askAhead(scope('b'));
    loader.show(scope('b'));
    await settled();
    expect(requests.map(({ search, signal }) => [search, signal.aborted])).toEqual([
      ['?scope=b', true],
      ['?scope=c', true],
      ['?scope=b', false],
    ]);
    await request(-1).answer({ one: ready('b'), two: ready('b') });
    expect([shown('one'), shown('two')]).toEqual(['b', 'b']);
  });

  test('is stopped where another change comes before the page', async () => {
    loader.askAhead(scope('b'));
    loader.askAhead(scope('c'));
    await settled();
    expect(requests.map(({ signal }) => signal.aborted)).toEqual([true, false]);
    loader.show(scope('c'));
    await request(-1).answer({ one: ready('c'), two: ready('c') });
    expect([shown('one'), shown('two')]).toEqual(['c', 'c']);
    expect(requests).toHaveLength(2);
  });
});

describe('what fails', () => {
  test('for a while is asked for again by itself, less and less often, until it is there', async () => {
    loader.show(scope('b'));
    await settled();
    await request(0).answer({ one: failed('time-out'), two: failed('bad-request') });
    await request(0).end();
    for (const [wait, count] of [
      [3_000, 2],
      [6_000, 3],
      [12_000, 4],
      [24_000, 5],
      [24_000, 6],
    ] as const) {
      await vi.advanceTimersByTimeAsync(wait - 1);
      expect(requests).toHaveLength(count - 1);
      await vi.advanceTimersByTimeAsync(1);
      expect(requests).toHaveLength(count);
      expect(request(-1).ids).toEqual(['one']);
      await request(-1).answer({ one: failed('unreachable') });
    }
    await vi.advanceTimersByTimeAsync(24_000);
    await request(-1).answer({ one: ready('b') });
    await vi.advanceTimersByTimeAsync(100_000);
    expect(requests).toHaveLength(7);
    expect([shown('one'), shown('two')]).toEqual(['b', 'failed']);
  });

  test.each(['end', 'breakOff'] as const)(
    'with the connection (%s) is said where nothing came',
    async (how) => {
      loader.show(scope('b'));
      await settled();
      await request(0).answer({ one: ready('b') });
      await request(0)[how]();
      expect([shown('one'), shown('two')]).toEqual(['b', 'failed']);
    },
  );
});

test('once records have changed nothing is shown that was known before', async () => {
  loader.show(scope('b'));
  await settled();
  await request(0).answer({ one: ready('b'), two: ready('b') });
  loader.forget();
  loader.show(scope('a'));
  await settled();
  expect(requests.at(-1)).toMatchObject({ ids: ['one', 'two'], search: '?scope=a' });
});

test('a page that is left asks for nothing any more', async () => {
  loader.show(scope('b'));
  await settled();
  loader.stop();
  expect(request(0).signal.aborted).toBe(true);
  await settled();
  expect(shown('one')).toBe('a *');
});
