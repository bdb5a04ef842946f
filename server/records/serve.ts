import { once } from 'node:events';
import { chmodSync, rmSync } from 'node:fs';
import { createServer, type ServerResponse } from 'node:http';
import { json } from 'node:stream/consumers';
import { problemOf } from '#core/value/problem/problem.ts';
import { takeTurn } from '../turns/turns.ts';
import { countRecords, runPlan, streamRecords } from './here.ts';
import type { Piece, Question } from './there.ts';

/* Answers the web processes of this machine that ask for records, on a socket that only their user can open. */

/** Begins to answer; gives what ends it. */
export async function serveRecords(socket: string): Promise<() => Promise<void>> {
  // A process that was killed leaves its socket behind.
  rmSync(socket, { force: true });
  const server = createServer(async (request, response) => {
    const left = new AbortController();
    response.once('close', () => left.abort());
    let doing = 'asking for records';
    try {
      const question = (await json(request)) as Question;
      doing = question.doing;
      await answer(question, response, left.signal);
    } catch (thrown) {
      if (response.headersSent) response.destroy();
      else response.writeHead(422).end(JSON.stringify(problemOf(thrown, doing)));
    }
  });
  // The asker says how long it waits, and keeps connections for its next questions.
  server.requestTimeout = 0;
  server.keepAliveTimeout = 0;
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(socket, resolve);
  });
  chmodSync(socket, 0o600);
  return async () => {
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
  };
}

async function answer(question: Question, response: ServerResponse, signal: AbortSignal): Promise<void> {
  const { doing } = question;
  switch (question.ask) {
    case 'run':
      response.end(JSON.stringify(await runPlan(question.plan, { doing, signal })));
      return;
    case 'count':
      response.end(JSON.stringify(await countRecords(question.plan, { doing, signal })));
      return;
    case 'stream':
      return stream(question, response, signal);
    case 'turn': {
      const leave = await takeTurn(question.of, question.person, signal);
      response.once('close', leave);
      if (signal.aborted) leave();
      // It lasts until the asker closes the connection, or is gone.
      response.writeHead(200).flushHeaders();
    }
  }
}

async function stream(
  { plan, doing }: Extract<Question, { ask: 'count' | 'stream' }>,
  response: ServerResponse,
  signal: AbortSignal,
): Promise<void> {
  const send = async (piece: Piece): Promise<void> => {
    if (!response.write(`${JSON.stringify(piece)}\n`)) await once(response, 'drain', { signal });
  };
  try {
    await streamRecords(plan, { doing, signal }, (records) => send({ records }));
    await send({ problem: null });
  } catch (thrown) {
    // What fails before anything was sent is told as the answer itself.
    if (!response.headersSent) throw thrown;
    await send({ problem: problemOf(thrown, doing) });
  }
  response.end();
}
