/* Vitest's global set-up: one throw-away PostgreSQL for every suite of the run. */
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { startCluster } from './cluster.mjs';

/** @param {{ provide: (name: 'databaseUrl', value: string) => void }} project */
export default async function setup(project) {
  const folder = mkdtempSync(path.join(tmpdir(), 'slate-test-'));
  chmodSync(folder, 0o755);
  const { url, stop } = await startCluster(folder, {
    settings: ['fsync=off', 'synchronous_commit=off', 'full_page_writes=off', 'max_connections=200'],
  });
  project.provide('databaseUrl', url);
  return () => {
    stop();
    rmSync(folder, { recursive: true, force: true });
  };
}
