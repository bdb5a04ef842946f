import type { Server } from 'node:http';
import { createRequestHandler } from '@react-router/express';
import compression from 'compression';
import express from 'express';
import { builtFiles } from '../built-files.ts';
import { readCookies } from '../cookies.ts';
import { letGoOfDrains } from '../drains.ts';
import { limitBody, notKept, protect, publicPages, readableAddress, sameOrigin } from '../front-door.ts';
import { healthRoutes } from '../health.ts';
import { intakeRoutes } from '../intake.ts';
import { endStreams, startHearing } from '../live/changes.ts';
import { inNumberStyle } from '../number-style.ts';
import { serveAt } from '../own-address.ts';
import { logRequests } from '../request-log.ts';
import { resultRoutes } from '../results/routes.ts';
import { basePath, settings, trustedProxies } from '../settings.ts';
import { endAll } from './end.ts';

type Build = Awaited<typeof import('virtual:react-router/server-build')>;

/** What was built, as it is under a path: addresses of scripts are absolute in it, and pages say where they are to their own scripts. */
function under(path: string, build: Build): Build {
  if (path === '') return build;
  const assets = JSON.parse(JSON.stringify(build.assets).replaceAll('"/assets/', `"${path}/assets/`));
  return { ...build, basename: path, publicPath: `${path}/`, assets };
}

async function makeApp(): Promise<express.Express> {
  const path = basePath();
  // Before the pages are read, which have addresses of files in them.
  globalThis.slatePath = path;
  // Resolved once: given as a function, the routes would be worked out again for every request.
  const build = under(path, await import('virtual:react-router/server-build'));
  const app = express();
  app.disable('x-powered-by');
  app.set('trust proxy', trustedProxies());
  app.use(logRequests, healthRoutes());
  app.use(
    compression({
      filter: (request, response) =>
        !/ndjson|event-stream/.test(String(response.getHeader('content-type'))) &&
        compression.filter(request, response),
    }),
    letGoOfDrains,
  );
  const site = express.Router();
  site.use(intakeRoutes());
  site.use('/results', resultRoutes());
  site.use(readableAddress, protect);
  site.use('/assets', builtFiles('build/client/assets', { immutable: true, maxAge: '1y' }));
  site.use(builtFiles('build/client', { maxAge: '1h' }));
  site.use(notKept, sameOrigin, limitBody, publicPages, inNumberStyle);
  site.use(
    createRequestHandler({
      build,
      getLoadContext: async (request, response) => ({
        nonce: String(response.locals.nonce),
        ...(await readCookies(request.get('cookie') ?? null)),
        address: request.ip ?? '',
      }),
    }),
  );
  app.use(path || '/', site);
  if (path !== '') app.get('/', (_, response) => response.redirect(`${path}/`));
  return app;
}

/** Longer than proxies keep a connection that nothing comes over, lest they ask over one that has just been closed. */
const keepAliveMs = 75_000;

const listening = (app: express.Express, port: number, host: string): Promise<Server> =>
  new Promise((resolve, reject) => {
    const server = app.listen(port, host);
    server.keepAliveTimeout = keepAliveMs;
    server.headersTimeout = keepAliveMs + 1_000;
    server.once('listening', () => resolve(server));
    server.once('error', reject);
  });

/** Requests that are under way when the process is told to stop have this long to be answered. */
const graceMs = 4_000;

/** Serves pages until told to stop. */
export async function serve(): Promise<{ port: number; stop: () => Promise<void> }> {
  const { PORT, HOST } = settings();
  const stopHearing = await startHearing();
  const server = await listening(await makeApp(), PORT, HOST);
  const address = server.address();
  const port = typeof address === 'object' && address ? address.port : PORT;
  serveAt(port, HOST, basePath());
  const stop = async (): Promise<void> => {
    // What is under way is answered; what never ends by itself is ended.
    const closed = new Promise((resolve) => server.close(resolve));
    endStreams();
    server.closeIdleConnections();
    const late = setTimeout(() => server.closeAllConnections(), graceMs);
    await closed;
    clearTimeout(late);
    await stopHearing();
    await endAll();
  };
  return { port, stop };
}
