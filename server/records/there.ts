import { Agent, type ClientRequest, type IncomingMessage, request } from 'node:http';
import { text } from 'node:stream/consumers';
import { setTimeout as wait } from 'node:timers/promises';
import type { Plan, RecordsPlan } from '#core/plan/plan.ts';
import type { Cell } from '#core/value/field/value.ts';
import { type Problem, ProblemError } from '#core/value/problem/problem.ts';
import { sharing } from '#engine/postgres/share.ts';
import { settings } from '../settings.ts';
import type { TurnOf } from '../turns/turns.ts';
import type { Answer, Asking } from './place.ts';

/* Asking for records from the process that all web processes share (see `serve.ts`). Whoever leaves closes the connection. */

/** What is asked, as it crosses. */
export type Question =
  | { readonly ask: 'run'; readonly plan: Plan; readonly doing: string }
  | { readonly ask: 'count' | 'stream'; readonly plan: RecordsPlan; readonly doing: string }
  | { readonly ask: 'turn'; readonly of: TurnOf; readonly person: string; readonly doing: string };

/** A piece of a stream, a line each; the last one says how it ended. */
export type Piece = { readonly records: Cell[][] } | { readonly problem: Problem | null };

const agent = new Agent({ keepAlive: true, maxFreeSockets: 32 });

/** It is started again within that time when it has ended. */
const restartMs = 5_000;
const retryMs = 100;

const away = (doing: string): ProblemError =>
  new ProblemError({
    code: 'unreachable',
    doing,
    why: 'the part of Slate Glass that asks for records is being started again',
    mend: 'Nothing was lost. It is tried again by itself.',
  });

const isStarting = (thrown: unknown): boolean =>
  thrown instanceof Error && 'code' in thrown && (thrown.code === 'ENOENT' || thrown.code === 'ECONNREFUSED');

/**
 * Sends a question and gives the answer as it begins to come. What was lost with its process is asked once more, and not again, since it
 * may be what ended it. Throws a {@link ProblemError}, or why the asker left.
 */
export async function send(question: Question, signal?: AbortSignal): Promise<IncomingMessage> {
  const until = performance.now() + restartMs;
  let wasLost = false;
  for (;;) {
    signal?.throwIfAborted();
    try {
      return await begin(question, signal);
    } catch (thrown) {
      signal?.throwIfAborted();
      if (thrown instanceof ProblemError) throw thrown;
      const isWorthIt = isStarting(thrown) ? performance.now() < until : !wasLost;
      if (!isWorthIt) throw away(question.doing);
      wasLost ||= !isStarting(thrown);
      await wait(retryMs);
    }
  }
}

async function begin(question: Question, signal: AbortSignal | undefined): Promise<IncomingMessage> {
  const body = JSON.stringify(question);
  const sent: ClientRequest = request({
    socketPath: settings().SLATE_RECORDS,
    agent,
    method: 'POST',
    headers: { 'Content-Type': 'application/json', 'Content-Length': Buffer.byteLength(body) },
    ...(signal ? { signal } : {}),
  });
  const answer = await new Promise<IncomingMessage>((resolve, reject) => {
    sent.once('response', resolve);
    sent.once('error', reject);
    sent.end(body);
  });
  // What is lost from here on is told by whoever reads.
  sent.on('error', () => undefined);
  if (answer.statusCode === 200) return answer;
  throw new ProblemError(JSON.parse(await text(answer)) as Problem);
}

async function answerTo(question: Question, signal: AbortSignal | undefined): Promise<unknown> {
  const answer = await send(question, signal);
  try {
    return JSON.parse(await text(answer));
  } catch {
    signal?.throwIfAborted();
    throw away(question.doing);
  }
}

/** Pages that ask the same at once, as all do that are open when a record changes, are answered with one. */
const share = sharing<unknown>();

/** Whoever asks from now on is given no answer that was begun before. */
export const askAgainThere = (): void => share.forget();

async function sharedAnswer<T>(
  question: Extract<Question, { plan: Plan }>,
  signal: AbortSignal | undefined,
): Promise<T> {
  const { ask, plan, doing } = question;
  try {
    return (await share(JSON.stringify([ask, plan]), signal, (until) => answerTo(question, until))) as T;
  } catch (thrown) {
    // Each is told of what they were doing themselves.
    throw thrown instanceof ProblemError ? new ProblemError({ ...thrown.problem, doing }) : thrown;
  }
}

export const runPlan = (plan: Plan, { doing, signal }: Asking): Promise<Answer> =>
  sharedAnswer({ ask: 'run', plan, doing }, signal);

export const countRecords = (plan: RecordsPlan, { doing, signal }: Asking): Promise<string> =>
  sharedAnswer({ ask: 'count', plan, doing }, signal);

/** The lines of an answer as they are wanted: no more of it is read than the next of them takes. */
async function* linesOf(answer: IncomingMessage): AsyncGenerator<string> {
  // A line comes in many pieces, which are put together once: all of them again with each piece would be megabytes of garbage a line.
  let begun: string[] = [];
  for await (const text of answer.setEncoding('utf8')) {
    const [first = '', ...others] = (text as string).split('\n');
    begun.push(first);
    if (others.length === 0) continue;
    const last = others.pop() ?? '';
    yield begun.join('');
    yield* others;
    begun = [last];
  }
}

export async function streamRecords(
  plan: RecordsPlan,
  { doing, signal }: Asking,
  take: (records: Cell[][]) => Promise<void>,
): Promise<void> {
  const answer = await send({ ask: 'stream', plan, doing }, signal);
  try {
    for await (const line of linesOf(answer)) {
      const piece = JSON.parse(line) as Piece;
      if ('records' in piece) await take(piece.records);
      else if (piece.problem) throw new ProblemError(piece.problem);
      else return;
    }
  } finally {
    answer.destroy();
  }
  signal?.throwIfAborted();
  // It ended without saying how.
  throw away(doing);
}
