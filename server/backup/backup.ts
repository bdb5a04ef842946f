import { type ChildProcess, spawn } from 'node:child_process';
import { createCipheriv, createDecipheriv, randomBytes, scryptSync } from 'node:crypto';
import { createReadStream, createWriteStream, mkdtempSync, renameSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Readable } from 'node:stream';
import { text } from 'node:stream/consumers';
import { pipeline } from 'node:stream/promises';
import { createGunzip, createGzip } from 'node:zlib';
import { sql } from 'drizzle-orm';
import tar from 'tar-stream';
import { z } from 'zod';
import { currentKeys } from '../secrets.ts';
import { settings } from '../settings.ts';
import { database } from '../store/database.ts';
import { hasPeople } from '../store/people.ts';
import { adoptKeys } from './rekey.ts';

/*
 * All of an installation in one file: an archive (tar) of what PostgreSQL's own program writes as SQL, and of the keys that credentials are
 * sealed with, sealed themselves by a passphrase.
 */

const manifestName = 'slate-glass.json';
const dumpName = 'database.sql.gz';
/** scrypt (RFC 7914) with N = 2^17: about 128 MB and half a second for each guess. */
const scryptCost = { N: 131_072, r: 8, p: 1, maxmem: 256 * 1024 * 1024 };
export const leastPassphrase = 12;

const Manifest = z.object({
  format: z.literal('slate-glass/backup'),
  version: z.literal(1),
  salt: z.base64(),
  nonce: z.base64(),
  tag: z.base64(),
  keys: z.base64(),
});
type Manifest = z.infer<typeof Manifest>;

const keyOf = (passphrase: string, salt: Buffer): Buffer =>
  scryptSync(passphrase.normalize('NFKC'), salt, 32, scryptCost);

function sealedKeys(passphrase: string): Manifest {
  const [salt, nonce] = [randomBytes(16), randomBytes(12)];
  const cipher = createCipheriv('aes-256-gcm', keyOf(passphrase, salt), nonce);
  const keys = Buffer.concat([cipher.update(Buffer.concat([...currentKeys()])), cipher.final()]);
  const base64 = (bytes: Buffer): string => bytes.toString('base64');
  return {
    format: 'slate-glass/backup',
    version: 1,
    salt: base64(salt),
    nonce: base64(nonce),
    tag: base64(cipher.getAuthTag()),
    keys: base64(keys),
  };
}

function openKeys({ salt, nonce, tag, keys }: Manifest, passphrase: string): Buffer[] {
  const bytes = (each: string): Buffer => Buffer.from(each, 'base64');
  try {
    const decipher = createDecipheriv('aes-256-gcm', keyOf(passphrase, bytes(salt)), bytes(nonce));
    decipher.setAuthTag(bytes(tag));
    const all = Buffer.concat([decipher.update(bytes(keys)), decipher.final()]);
    return Array.from({ length: all.length / 32 }, (_, at) => all.subarray(at * 32, at * 32 + 32));
  } catch {
    throw new Error('the passphrase is another, or the file was changed');
  }
}

/** How PostgreSQL's programs are told of our database, without a password that a list of processes would show. */
function databaseEnvironment(): NodeJS.ProcessEnv {
  const url = new URL(settings().SLATE_DATABASE);
  return {
    ...process.env,
    PGHOST: url.hostname,
    PGPORT: url.port || '5432',
    PGUSER: decodeURIComponent(url.username),
    PGPASSWORD: decodeURIComponent(url.password),
    PGDATABASE: decodeURIComponent(url.pathname.slice(1)),
    // Whoever still has the tables open is waited for a little, and no longer.
    PGOPTIONS: '-c lock_timeout=5s',
  };
}

const program = (name: string, args: readonly string[]): ChildProcess =>
  spawn(path.join(process.env.SLATE_POSTGRES_PROGRAMS ?? '', name), args, {
    env: databaseEnvironment(),
    stdio: ['pipe', 'pipe', 'pipe'],
  });

/** Waits for a program to end well. Throws what it said otherwise. */
async function ended(child: ChildProcess): Promise<void> {
  const errors = child.stderr ? text(child.stderr) : Promise.resolve('');
  const code = await new Promise<number | null>((resolve, reject) => {
    child.once('error', reject);
    child.once('close', resolve);
  });
  if (code !== 0) {
    const lines = (await errors).trim().split('\n');
    const why =
      lines.find((line) => /ERROR|FATAL|error/.test(line)) ?? lines.at(-1) ?? `it ended with ${code}`;
    throw new Error(
      /lock timeout/.test(why)
        ? 'the installation is still running: stop it first'
        : why.replace(/^.*?(ERROR|FATAL|error): */, ''),
    );
  }
}

/** Writes everything of the installation into a file, which is there whole or not at all. Gives its size in bytes. */
export async function backUp(file: string, passphrase: string): Promise<number> {
  const folder = mkdtempSync(path.join(tmpdir(), 'slate-backup-'));
  const dump = path.join(folder, dumpName);
  const unfinished = `${file}.unfinished`;
  try {
    const child = program('pg_dump', [
      '--format=plain',
      '--no-owner',
      '--no-privileges',
      '--schema=public',
      '--schema=drizzle',
    ]);
    if (!child.stdout) throw new Error('pg_dump cannot be read');
    await Promise.all([
      pipeline(child.stdout, createGzip({ level: 6 }), createWriteStream(dump, { mode: 0o600 })),
      ended(child),
    ]);
    const pack = tar.pack();
    const fill = async (): Promise<void> => {
      pack.entry({ name: manifestName }, `${JSON.stringify(sealedKeys(passphrase), null, 2)}\n`);
      await pipeline(createReadStream(dump), pack.entry({ name: dumpName, size: statSync(dump).size }));
      pack.finalize();
    };
    await Promise.all([pipeline(pack, createWriteStream(unfinished, { mode: 0o600 })), fill()]);
    renameSync(unfinished, file);
    return statSync(file).size;
  } finally {
    rmSync(folder, { recursive: true, force: true });
    rmSync(unfinished, { force: true });
  }
}

/** Whether there is nobody and nothing here yet. */
async function isEmpty(): Promise<boolean> {
  const { rows } = await database().execute<{ there: boolean }>(
    sql`SELECT to_regclass('public.users') IS NOT NULL AS there`,
  );
  return !rows[0]?.there || !(await hasPeople());
}

/**
 * Puts an installation back from a file, into one that is empty: all of it in one transaction, or nothing. Later versions bring the tables up
 * to date when they start. Gives how many credentials were sealed again.
 */
export async function restore(file: string, passphrase: string): Promise<number> {
  if (!(await isEmpty()))
    throw new Error('there are people here already: a backup goes into an empty installation only');
  const extract = tar.extract();
  const reading = pipeline(createReadStream(file), extract).catch((thrown: unknown) => thrown);
  let manifest: Manifest | null = null;
  let isRestored = false;
  for await (const entry of extract) {
    if (entry.header.name === manifestName) {
      const read = Manifest.safeParse(JSON.parse(await text(entry)));
      if (!read.success) throw new Error('this is not a backup, or one of a later version');
      manifest = read.data;
      // A wrong passphrase is found out before anything is touched.
      openKeys(manifest, passphrase);
    } else if (entry.header.name === dumpName && manifest) {
      await restoreDump(entry as unknown as Readable);
      isRestored = true;
    } else entry.resume();
  }
  await reading;
  if (!manifest || !isRestored) throw new Error('this is not a backup, or it was cut off');
  return adoptKeys(openKeys(manifest, passphrase));
}

/** What is there before is dropped in the same transaction that brings the new. */
const before = `SET client_min_messages = warning;
DROP SCHEMA IF EXISTS pgboss CASCADE; DROP SCHEMA IF EXISTS drizzle CASCADE; DROP SCHEMA IF EXISTS public CASCADE;
`;

async function restoreDump(dump: Readable): Promise<void> {
  const child = program('psql', [
    '--no-psqlrc',
    '--quiet',
    '--single-transaction',
    '-v',
    'ON_ERROR_STOP=1',
    '-f',
    '-',
  ]);
  const { stdin } = child;
  if (!stdin) throw new Error('psql cannot be written to');
  child.stdout?.resume();
  const done = ended(child);
  // Why writing failed is what the program says.
  const written = (async () => {
    stdin.write(before);
    try {
      await pipeline(dump, createGunzip(), stdin);
    } catch (thrown) {
      // Half of it must not be taken for all.
      child.kill('SIGKILL');
      throw thrown;
    }
  })();
  const [ending, writing] = await Promise.allSettled([done, written]);
  if (writing.status === 'rejected' && !/EPIPE/.test(String(writing.reason)))
    throw new Error('the file was cut off, or it was changed');
  if (ending.status === 'rejected') throw ending.reason;
}
