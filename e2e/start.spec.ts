import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { expect, test } from '@playwright/test';
import { freePort, startCluster } from '../scripts/cluster.mjs';
import { dataFolder, run, start } from './support/started.ts';

const answers = (port: number): Promise<number> =>
  fetch(`http://127.0.0.1:${port}/sign-in`).then(
    ({ status }) => status,
    () => 0,
  );

test('the start command starts, says where and as whom, stops all that it started, and recovers from being killed', async () => {
  const data = dataFolder();
  const port = await freePort();

  const first = start(data, port);
  await expect.poll(first.output).toContain(`Slate Glass is ready at http://127.0.0.1:${port}`);
  expect(first.output()).toContain('analyst@skerry.example');
  expect(await answers(port)).toBe(200);

  // Killed without a chance to tidy up: the server notices, the database stays, and the next start takes it over.
  first.process.kill('SIGKILL');
  await first.ended;
  await expect.poll(() => answers(port)).toBe(0);
  const second = start(data, port);
  await expect.poll(second.output).toContain('Slate Glass is ready');
  // What was done before is not done again.
  expect(second.output()).not.toMatch(/Installing|Building/);

  second.process.kill('SIGINT');
  expect(await second.ended).toBe(0);
  expect(await answers(port)).toBe(0);
  // Nothing is left running: the cluster can be started by somebody else, and then is not taken over but started.
  const cluster = await startCluster(data);
  cluster.stop();
  rmSync(data, { recursive: true, force: true });
});

test('a port in use, a port that is none, and a data folder that cannot be each get one clear line', async () => {
  const data = mkdtempSync(path.join(tmpdir(), 'slate-start-'));
  const taken = createServer();
  await new Promise<void>((resolve) => taken.listen(0, '127.0.0.1', resolve));
  const address = taken.address();
  const port = typeof address === 'object' && address ? address.port : 0;
  const refused = async (folder: string, at: number): Promise<string> => {
    const started = start(folder, at);
    expect(await started.ended).toBe(1);
    return started.output().trim();
  };
  expect(await refused(data, port)).toBe(
    `Slate Glass cannot start: port ${port} is in use. Stop what uses it, or set PORT to another.`,
  );
  taken.close();
  expect(await refused(data, 70_000)).toContain('it must be a number from 0 to 65535');
  expect(await refused('/dev/null/slate', await freePort())).toMatch(
    /^Slate Glass cannot start: the data folder \/dev\/null\/slate cannot be made/,
  );
  rmSync(data, { recursive: true, force: true });
});

test('a database that one has already is used, one that goes away for a while is waited for, and one that cannot be reached is named in one clear line', async () => {
  const data = mkdtempSync(path.join(tmpdir(), 'slate-start-'));
  const gone = start(data, await freePort(), 'postgres://slate:x@127.0.0.1:1/slate');
  expect(await gone.ended).toBe(1);
  expect(gone.output().trim()).toContain('its database says: connect ECONNREFUSED 127.0.0.1:1');
  chmodSync(data, 0o755);
  const settings = ['fsync=off'];
  const { url, stop } = await startCluster(data, { settings });
  const port = await freePort();
  const own = mkdtempSync(path.join(data, 'own-'));
  const used = start(own, port, url, { SLATE_DEMO: 'no' });
  await expect.poll(used.output).toContain('nobody can sign in yet');
  // Whoever takes the port first keeps it, and the other says so, once.
  const second = run('product', [], {
    SLATE_DATABASE: url,
    SLATE_KEY_FILE: path.join(own, 'secret.key'),
    SLATE_CACHE: path.join(own, 'cache'),
    PORT: String(port),
  });
  expect(await second.ended).toBe(1);
  expect(second.output().trim()).toBe('Slate Glass cannot start: the port is in use. Set PORT to another.');
  const address = `http://127.0.0.1:${port}`;
  const [, code = ''] = /with the code ([A-Z0-9-]+)/.exec(used.output()) ?? [];
  const first = { name: 'Rona Drever', email: 'rona@harbour.example', password: 'three words of it' };
  const signedIn = await fetch(`${address}/set-up`, {
    method: 'POST',
    redirect: 'manual',
    headers: { Origin: address },
    body: new URLSearchParams({ code, ...first, desk: 'Harbour office', zone: 'UTC' }),
  });
  const cookie = signedIn.headers.get('set-cookie')?.split(';')[0] ?? '';
  const page = async (): Promise<string> => {
    const answer = await fetch(`${address}/desk/harbour-office`, { headers: { cookie } });
    return `${answer.status} ${await answer.text()}`;
  };
  expect(await page()).toMatch(/^200 .*Harbour office/s);
  stop('immediate');
  expect(await page()).toMatch(
    /^503 .*This page has to wait.*Slate Glass cannot reach its own database just now/s,
  );
  const again = await startCluster(data, { settings });
  await expect.poll(page).toMatch(/^200 .*Harbour office/s);
  used.process.kill('SIGINT');
  expect(await used.ended).toBe(0);
  again.stop();
  rmSync(data, { recursive: true, force: true });
});
