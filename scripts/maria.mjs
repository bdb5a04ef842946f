/* A MariaDB server of our own under a folder, on a free loopback port, for the tests. Only Node's own modules. */
import { spawn, spawnSync } from 'node:child_process';
import { chownSync, existsSync, mkdirSync } from 'node:fs';
import { createConnection } from 'node:net';
import path from 'node:path';
import { freePort, isRoot } from './cluster.mjs';

const server = '/usr/sbin/mariadbd';

export const hasMaria = () => existsSync(server);

/**
 * @param {string} folder
 * @returns {Promise<{ port: number, stop: () => void }>} a server whose `root` has no password, on loopback
 */
export async function startMaria(folder) {
  const data = path.join(folder, 'maria');
  mkdirSync(data);
  const user = isRoot ? ['--user=mysql'] : [];
  if (isRoot) {
    const id = (/** @type {string} */ flag) =>
      Number(spawnSync('id', [flag, 'mysql'], { encoding: 'utf8' }).stdout.trim());
    chownSync(data, id('-u'), id('-g'));
  }
  const made = spawnSync(
    'mariadb-install-db',
    [
      '--no-defaults',
      `--datadir=${data}`,
      '--auth-root-authentication-method=normal',
      '--skip-test-db',
      ...user,
    ],
    { encoding: 'utf8' },
  );
  if (made.status !== 0)
    throw new Error(`MariaDB could not be set up: ${made.error?.message ?? (made.stderr || made.stdout)}`);
  const port = await freePort();
  const running = spawn(
    server,
    [
      '--no-defaults',
      `--datadir=${data}`,
      `--port=${port}`,
      '--bind-address=127.0.0.1',
      `--socket=${path.join(data, 's')}`,
      `--pid-file=${path.join(data, 'pid')}`,
      '--skip-log-bin',
      '--innodb-flush-log-at-trx-commit=0',
      '--innodb-buffer-pool-size=64M',
      ...user,
    ],
    { stdio: 'ignore' },
  );
  for (let tries = 0; tries < 300; tries += 1) {
    const isUp = await new Promise((resolve) => {
      const probe = createConnection({ port, host: '127.0.0.1' }, () => {
        probe.destroy();
        resolve(true);
      }).once('error', () => resolve(false));
    });
    if (isUp) return { port, stop: () => void running.kill('SIGKILL') };
    if (running.exitCode !== null) break;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  running.kill('SIGKILL');
  throw new Error('MariaDB did not start');
}
