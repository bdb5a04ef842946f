/*
 * The installation that a command is about: that of the settings in the environment, else that of the data folder of `npm start`, whose
 * PostgreSQL is started for the while where it does not run.
 */
import { existsSync } from 'node:fs';
import path from 'node:path';
import { createInterface } from 'node:readline';
import { postgresPrograms, startCluster } from './cluster.mjs';
import { build, dataFolder, installDependencies, keyFile } from './start.mjs';

/**
 * Runs a command with the built program that manages installations. Ends the process: with 0, or with 1 and one line that says why.
 * @param {string} what as in “The backup”
 * @param {(manage: typeof import('../server/programs/manage.ts')) => Promise<string[]>} command gives the lines to say
 */
export async function manageInstallation(what, command) {
  let stop = () => {};
  let code = 0;
  try {
    installDependencies();
    build();
    process.env.SLATE_POSTGRES_PROGRAMS ??= postgresPrograms() ?? '';
    if (!process.env.SLATE_DATABASE) {
      const wasThere = existsSync(path.join(dataFolder, 'cluster.json'));
      const cluster = await startCluster(dataFolder);
      process.env.SLATE_DATABASE = cluster.url;
      if (!cluster.wasRunning || !wasThere) stop = () => cluster.stop();
    }
    if (!process.env.SLATE_KEY) process.env.SLATE_KEY_FILE ??= keyFile();
    const manage = await import(new URL('../build/server/manage.js', import.meta.url).href);
    for (const line of await command(manage)) console.log(line);
    await manage.endAll();
  } catch (error) {
    console.error(`${what} did not work: ${error instanceof Error ? error.message : error}`);
    code = 1;
  }
  stop();
  process.exit(code);
}

/** The passphrase of a backup: from SLATE_PASSPHRASE, else from the first line of what is typed or piped in. */
export async function passphrase() {
  if (process.env.SLATE_PASSPHRASE) return process.env.SLATE_PASSPHRASE;
  if (process.stdin.isTTY) process.stderr.write('Passphrase: ');
  for await (const line of createInterface({ input: process.stdin })) return line;
  return '';
}
