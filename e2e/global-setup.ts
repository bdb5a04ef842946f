import { spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { setTimeout } from 'node:timers/promises';
import type { FullConfig } from '@playwright/test';
import pg from 'pg';
import { freePort, startCluster } from '../scripts/cluster.mjs';
import { startMaria } from '../scripts/maria.mjs';
import { standInSettings } from '../scripts/stand-in-access.mjs';
import { type Installation, listInstallations } from './support/installation.ts';

/** The built product, once for each worker, for one run of the journeys. */
export default async function globalSetup({ workers }: FullConfig): Promise<() => Promise<void>> {
  const started = await Promise.all(Array.from({ length: workers }, startInstallation));
  listInstallations(started.map(({ installation }) => installation));
  return async () => {
    await Promise.all(started.map(({ stop }) => stop()));
  };
}

/** The product on a database of its own, filled with the demo. */
async function startInstallation(): Promise<{ installation: Installation; stop: () => Promise<void> }> {
  const folder = mkdtempSync(path.join(tmpdir(), 'slate-e2e-'));
  chmodSync(folder, 0o755);
  const { url, stop } = await startCluster(folder, {
    settings: ['fsync=off', 'synchronous_commit=off', 'max_connections=200'],
  });
  const port = await freePort();
  const maria = await startMaria(folder);
  const ownService = await freePort();
  const env = {
    ...process.env,
    NODE_ENV: 'production',
    PORT: String(port),
    SLATE_DATABASE: url,
    SLATE_KEY: randomBytes(32).toString('base64'),
    SLATE_CACHE: path.join(folder, 'cache'),
    SLATE_DEMO: url,
    ...(await standInSettings(folder, [
      new URL(url).host,
      `127.0.0.1:${maria.port}`,
      `127.0.0.1:${ownService}`,
    ])),
  };
  const services = spawn(process.execPath, ['scripts/stand-ins.mjs'], {
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    env: { ...env, SLATE_EVENTS: `http://127.0.0.1:${port}` },
  });
  await new Promise<void>((resolve, reject) => {
    services.once('message', () => resolve());
    services.once('exit', (code) => reject(new Error(`the services ended with ${code}`)));
  });
  const server = spawn(process.execPath, ['scripts/serve.mjs'], {
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    env,
  });
  await new Promise<void>((resolve, reject) => {
    server.once('message', () => resolve());
    server.once('exit', (code) => reject(new Error(`the server ended with ${code}`)));
  });
  const worker = spawn(process.execPath, ['scripts/work.mjs'], {
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    env,
  });
  await firstRefreshes(url);
  const end = async (): Promise<void> => {
    const ended = Promise.all(
      [server, worker, services].map((each) => new Promise((resolve) => each.once('exit', resolve))),
    );
    worker.kill('SIGTERM');
    services.kill('SIGTERM');
    server.kill('SIGTERM');
    await ended;
    maria.stop();
    stop();
    rmSync(folder, { recursive: true, force: true });
  };
  return {
    installation: {
      url: `http://127.0.0.1:${port}`,
      web: Number(server.pid),
      database: url,
      maria: maria.port,
      ownService,
      standIns: env.SLATE_STAND_INS,
      key: env.SLATE_KEY,
    },
    stop: end,
  };
}

/** Waits until the worker has fetched what the demo keeps: the first journeys would compete with it for the processor. */
async function firstRefreshes(url: string): Promise<void> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    for (;;) {
      const { rowCount } = await client.query(
        `SELECT 1 FROM data_sets AS d WHERE d.definition ? 'keep' AND NOT EXISTS
           (SELECT 1 FROM refreshes AS r WHERE r.data_set_id = d.id AND r.state <> 'running')`,
      );
      if (rowCount === 0) return;
      await setTimeout(200);
    }
  } finally {
    await client.end();
  }
}
