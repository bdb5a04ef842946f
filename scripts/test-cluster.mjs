/* Vitest's global set-up: one throw-away PostgreSQL, and one MariaDB, for every suite of the run. */
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { startCluster } from './cluster.mjs';
import { startMaria } from './maria.mjs';

/** @param {{ provide: ((name: 'databaseUrl', value: string) => void) & ((name: 'mariaPort', value: number) => void) }} project */
export default async function setup(project) {
  const folder = mkdtempSync(path.join(tmpdir(), 'slate-test-'));
  chmodSync(folder, 0o755);
  const { url, stop } = await startCluster(folder, {
    settings: ['fsync=off', 'synchronous_commit=off', 'full_page_writes=off', 'max_connections=200'],
  });
  const maria = await startMaria(folder);
  project.provide('databaseUrl', url);
  project.provide('mariaPort', maria.port);
  return () => {
    maria.stop();
    stop();
    rmSync(folder, { recursive: true, force: true });
  };
}
