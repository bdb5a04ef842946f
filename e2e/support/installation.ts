import { readFileSync } from 'node:fs';

/* The installations that journeys are made on. Each worker has one to itself, so that no journey meets another. */

export interface Installation {
  /** Where it is read: `http://127.0.0.1:4600`. */
  readonly url: string;
  /** The id of the process that starts those that serve pages. */
  readonly web: number;
  /** Its database server, which holds the demo's databases too. */
  readonly database: string;
  /** The port of the MariaDB that it may ask. */
  readonly maria: number;
  /** A port on which a journey may have a service of its own, which the installation may ask. */
  readonly ownService: number;
  /** The file that says how its stand-ins are spoken to. */
  readonly standIns: string;
  /** What credentials are sealed with, in base64. */
  readonly key: string;
}

const listed = 'SLATE_TEST_INSTALLATIONS';

/** Tells the workers, which are started later, which installations there are. */
export function listInstallations(installations: readonly Installation[]): void {
  process.env[listed] = JSON.stringify(installations);
}

/** The installation of this worker. */
export function installation(): Installation {
  const all = JSON.parse(process.env[listed] ?? '[]') as Installation[];
  const own = all[Number(process.env.TEST_PARALLEL_INDEX ?? 0)];
  if (!own) throw new Error('no installation was started for this worker');
  return own;
}

/** The ids of the processes of this worker's installation that run a program: `web.mjs`, `records.mjs`. */
export const running = (program: string): number[] =>
  readFileSync(`/proc/${installation().web}/task/${installation().web}/children`, 'utf8')
    .trim()
    .split(' ')
    .filter((id) => readFileSync(`/proc/${id}/cmdline`, 'utf8').includes(program))
    .map(Number);
