import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import path from 'node:path';
import express from 'express';
import {
  identityClient,
  passageChanger,
  passageClient,
  type StandInAccess,
  storesChanger,
  storesUser,
  tideCallsADay,
} from '#demo/stand-in-access.ts';
import { identityService } from './identity.ts';
import { logWriters } from './logs.ts';
import { takeMail } from './mail.ts';
import { Mischief } from './mischief.ts';
import { PassageLine } from './passage-line.ts';
import { passageService } from './passages.ts';
import { storesService } from './stores.ts';
import { tideService } from './tide.ts';

export interface StandInOptions extends Omit<StandInAccess, 'logs'> {
  /** Where the log writers write; without it they do not. */
  readonly logs?: string;
  /** Where events are pushed to (OTLP); without it they are not. */
  readonly events?: string;
  readonly now?: () => Date;
  readonly perDay?: number;
  readonly tokenSeconds?: number;
  readonly cursorSeconds?: number;
}

export interface StandIns {
  readonly port: number;
  readonly address: string;
  readonly mischief: Mischief;
  readonly line: PassageLine;
  stop(): Promise<void>;
}

const writeMs = 5_000;

/** Starts the services of the demo on loopback, in this process. */
export async function startStandIns(options: StandInOptions): Promise<StandIns> {
  const { now = () => new Date(), perDay = tideCallsADay, logs, events } = options;
  const mischief = new Mischief();
  const line = new PassageLine();
  const app = express();
  app.disable('x-powered-by');
  app.disable('etag');
  app.use('/tide/v2', tideService({ key: options.tideKey, perDay, now, mischief }));
  app.use(
    '/stores',
    storesService({
      user: storesUser,
      changer: storesChanger,
      password: options.storesPassword,
      now,
      mischief,
    }),
  );
  app.use(
    '/passage-service',
    passageService({
      client: passageClient,
      changer: passageChanger,
      secret: options.clientSecret,
      line,
      now,
      mischief,
      ...(options.tokenSeconds === undefined ? {} : { tokenSeconds: options.tokenSeconds }),
      ...(options.cursorSeconds === undefined ? {} : { cursorSeconds: options.cursorSeconds }),
    }),
  );
  if (options.identitySecret !== undefined)
    app.use(
      '/identity',
      identityService({ client: identityClient, secret: options.identitySecret, now, mischief }),
    );
  const post = options.mailPort === undefined ? null : await takeMail(options.mailPort, mischief);
  if (post) app.use('/mail', post.page);
  const server = createServer(app);
  await listening(server, options.port);
  const address = server.address();
  const port = typeof address === 'object' && address ? address.port : options.port;
  const stopWriting = writing(line, now, logs, events, options.intakeKey);
  return {
    port,
    address: `http://127.0.0.1:${port}`,
    mischief,
    line,
    stop: async () => {
      stopWriting();
      await post?.stop();
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}

const listening = (server: Server, port: number): Promise<void> =>
  new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => resolve());
  });

/** Keeps the logs growing and the events coming. Returns how to stop it. */
function writing(
  line: PassageLine,
  now: () => Date,
  logs: string | undefined,
  events: string | undefined,
  key: string,
): () => void {
  const writers = logs ? logWriters(logs, line) : null;
  // What was sent is remembered beside the logs, so that starting again sends nothing twice.
  const mark = logs ? path.join(logs, '.pushed') : null;
  const known = mark && existsSync(mark) ? Number(readFileSync(mark, 'utf8')) : 0;
  let pushed = new Date(Math.max(known, now().getTime() - 6 * 3_600_000));
  const pushOnce = async (): Promise<void> => {
    const until = now();
    const steps = line.steps(new Date(pushed.getTime() + 1), until).slice(0, 500);
    if (steps.length === 0) return;
    const answer = await fetch(`${events}/v1/logs`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', authorization: `Bearer ${key}` },
      body: JSON.stringify({
        resourceLogs: [
          {
            resource: { attributes: [{ key: 'service.name', value: { stringValue: 'passage-service' } }] },
            scopeLogs: [{ scope: { name: 'passages' }, logRecords: steps.map((step) => line.eventOf(step)) }],
          },
        ],
      }),
    }).catch(() => null);
    // What did not arrive is sent again.
    if (!answer?.ok) return;
    pushed = new Date((steps.at(-1) ?? 0) * 20_000);
    if (mark) writeFileSync(mark, String(pushed.getTime()));
  };
  let isPushing = false;
  const push = async (): Promise<void> => {
    if (!events || isPushing) return;
    isPushing = true;
    await pushOnce().finally(() => {
      isPushing = false;
    });
  };
  writers?.write(now());
  void push();
  const timer = setInterval(() => {
    writers?.write(now());
    void push();
  }, writeMs);
  return () => clearInterval(timer);
}
