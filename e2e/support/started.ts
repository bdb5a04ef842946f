import { type ChildProcess, spawn } from 'node:child_process';
import { chmodSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';

/* Installations that a journey starts itself, by the commands that people start them with. */

export interface Started {
  readonly process: ChildProcess;
  readonly output: () => string;
  readonly ended: Promise<number | null>;
}

/** A folder for the data of an installation, which PostgreSQL's own user can get into. */
export function dataFolder(): string {
  const folder = mkdtempSync(path.join(tmpdir(), 'slate-start-'));
  chmodSync(folder, 0o755);
  return folder;
}

/** Runs a script of ours with settings beside those that there are. */
export function run(script: string, args: readonly string[], more: Record<string, string>): Started {
  const child = spawn(process.execPath, [`scripts/${script}.mjs`, ...args], {
    env: { ...process.env, ...more },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let said = '';
  child.stdout.on('data', (chunk) => (said += String(chunk)));
  child.stderr.on('data', (chunk) => (said += String(chunk)));
  return { process: child, output: () => said, ended: new Promise((resolve) => child.once('exit', resolve)) };
}

/** The start command over a data folder. */
export const start = (
  data: string,
  port: number,
  databaseUrl = '',
  more: Record<string, string> = {},
): Started => run('start', [], { SLATE_DATA: data, PORT: String(port), DATABASE_URL: databaseUrl, ...more });
