import { readFile } from 'node:fs/promises';
import type { Server } from 'node:http';
import { createRequestHandler } from '@react-router/express';
import compression from 'compression';
import express from 'express';
import pino from 'pino';
import { fillDemo, runDemoClock } from '#demo/fill.ts';
import { demoPassword, demoPeople } from '#demo/people.ts';
import { StandInAccess } from '#demo/stand-in-access.ts';
import { endPools } from '#engine/postgres/pool.ts';
import { startStandIns } from '#stand-ins/start.ts';
import { readCookies } from './cookies.ts';
import { limitBody, protect, readableAddress, sameOrigin } from './front-door.ts';
import { intakeRoutes } from './intake.ts';
import { tidyCache } from './kept/cache.ts';
import { closeColumnar } from './kept/open.ts';
import { startHearing } from './live/changes.ts';
import { serveRecords } from './records/serve.ts';
import { settings } from './settings.ts';
import { closeClients } from './sources/open.ts';
import { closeDatabase, migrateDatabase } from './store/database.ts';

export const log = pino({ level: process.env.SLATE_LOG ?? 'info' });

async function makeApp(): Promise<express.Express> {
  // Resolved once: given as a function, the routes would be worked out anew for every request.
  const build = await import('virtual:react-router/server-build');
  const app = express();
  app.disable('x-powered-by');
  app.use(
    compression({
      filter: (request, response) =>
        !/ndjson|event-stream/.test(String(response.getHeader('content-type'))) &&
        compression.filter(request, response),
    }),
  );
  app.use(intakeRoutes());
  app.use(readableAddress, protect);
  app.use('/assets', express.static('build/client/assets', { immutable: true, maxAge: '1y' }));
  app.use(express.static('build/client', { maxAge: '1h', index: false }));
  app.use(sameOrigin, limitBody);
  app.use(
    createRequestHandler({
      build,
      getLoadContext: async (request, response) => ({
        nonce: String(response.locals.nonce),
        ...(await readCookies(request.get('cookie') ?? null)),
        address: request.ip ?? '',
      }),
    }),
  );
  return app;
}

const listening = (app: express.Express, port: number, host: string): Promise<Server> =>
  new Promise((resolve, reject) => {
    const server = app.listen(port, host);
    server.once('listening', () => resolve(server));
    server.once('error', reject);
  });

/** Brings the database up to date and fills the demo where there is nothing yet; gives what ends the demo's clock. */
export async function prepare(say: (line: string) => void): Promise<() => Promise<void>> {
  const { SLATE_DEMO } = settings();
  await migrateDatabase();
  let stopClock = (): void => undefined;
  if (SLATE_DEMO) {
    say('Filling the demo where it is empty …');
    await fillDemo(SLATE_DEMO, new Date(), await standInAccess());
    stopClock = await runDemoClock(SLATE_DEMO);
  }
  tidyCache();
  return async () => {
    stopClock();
    await endAll();
  };
}

/** Serves pages until told to stop. */
export async function serve(): Promise<{ port: number; stop: () => Promise<void> }> {
  const { PORT, HOST } = settings();
  const stopHearing = await startHearing();
  const server = await listening(await makeApp(), PORT, HOST);
  const address = server.address();
  const port = typeof address === 'object' && address ? address.port : PORT;
  const stop = async (): Promise<void> => {
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
    await stopHearing();
    await endAll();
  };
  return { port, stop };
}

/** Asks for records for the processes that serve pages, until told to stop. */
export async function startRecords(socket: string): Promise<{ stop: () => Promise<void> }> {
  const stopServing = await serveRecords(socket);
  return {
    stop: async () => {
      await stopServing();
      await endAll();
    },
  };
}

/** Closes what this process has opened of the engine, of sources and of our own database. */
async function endAll(): Promise<void> {
  await closeColumnar();
  await closeClients();
  await endPools();
  await closeDatabase();
}

/** Where the demo's services are; null where there are none. */
async function standInAccess(): Promise<StandInAccess | null> {
  const { SLATE_STAND_INS } = settings();
  return SLATE_STAND_INS ? StandInAccess.parse(JSON.parse(await readFile(SLATE_STAND_INS, 'utf8'))) : null;
}

/** Starts the demo's services, which send their events to `events`. */
export async function startServices(events: string): Promise<{ stop: () => Promise<void> }> {
  const access = await standInAccess();
  if (!access) throw new Error('SLATE_STAND_INS names no file');
  return startStandIns({ ...access, events });
}

export { problemOf } from '#core/value/problem/problem.ts';
export { startWorker } from './jobs/worker.ts';
export { doTask } from './uploads/aside.ts';

/** What the start command says of the demo, on the line with the address. */
export const demoLines = (): string =>
  settings().SLATE_DEMO
    ? `— sign in as ${demoPeople.map(({ email }) => email).join(', ')}; password ${demoPassword}`
    : '';
