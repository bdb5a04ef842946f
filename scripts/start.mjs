/*
 * `npm start`: everything from a fresh clone to a running product. Only Node's own modules, since nothing is installed
 * yet when this begins.
 */
import { spawn, spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statfsSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import path from 'node:path';
import { installPackages, postgresPrograms, startCluster } from './cluster.mjs';
import { runProcesses } from './processes.mjs';
import { standInSettings } from './stand-in-access.mjs';

const root = path.resolve(import.meta.dirname, '..');
export const dataFolder = path.resolve(process.env.SLATE_DATA ?? path.join(root, '.data'));
const port = Number(process.env.PORT ?? 4600);

const say = (/** @type {string} */ line) => console.log(line);

/**
 * Ends with one line that says what is wrong and what to do.
 * @param {string} line
 * @returns {never}
 */
function fail(line) {
  console.error(`Slate Glass cannot start: ${line}`);
  process.exit(1);
}

/** A digest of files, by name, size and content: what decides whether a step has to be done again. */
function digestOf(/** @type {string[]} */ places) {
  const hash = createHash('sha256');
  const walk = (/** @type {string} */ place) => {
    if (!existsSync(place)) return;
    for (const entry of readdirSync(place, { withFileTypes: true }).sort((a, b) =>
      a.name < b.name ? -1 : 1,
    )) {
      const full = path.join(place, entry.name);
      if (entry.isDirectory()) walk(full);
      else if (!/\.test\.tsx?$/.test(entry.name))
        hash.update(full.slice(root.length)).update('\0').update(readFileSync(full)).update('\0');
    }
  };
  for (const place of places) {
    const full = path.join(root, place);
    if (existsSync(full) && !place.includes('.')) walk(full);
    else if (existsSync(full)) hash.update(place).update('\0').update(readFileSync(full)).update('\0');
  }
  return hash.digest('hex');
}

const isDone = (/** @type {string} */ stamp, /** @type {string} */ digest) =>
  existsSync(stamp) && readFileSync(stamp, 'utf8') === digest;

function run(/** @type {string} */ what, /** @type {string[]} */ args) {
  const ran = spawnSync('npm', args, { cwd: root, encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] });
  if (ran.status === 0) return;
  const log = `${ran.stdout}\n${ran.stderr}`;
  if (/ENOSPC/.test(log)) fail('the disk is full. Make room, then start again.');
  console.error(log.trim().split('\n').slice(-25).join('\n'));
  fail(`${what} failed; what it said is above.`);
}

/** Installs what package-lock.json names, when node_modules is not of this lock file. */
export function installDependencies() {
  const stamp = path.join(root, 'node_modules', '.slate-installed');
  const digest = digestOf(['package-lock.json']);
  if (isDone(stamp, digest)) return;
  say('Installing packages …');
  run('npm ci', ['ci', '--no-audit', '--no-fund']);
  writeFileSync(stamp, digest);
}

/** Builds the application, when its sources are not the ones that were built last. */
export function build() {
  const stamp = path.join(root, 'build', '.slate-built');
  const digest = digestOf([
    'app',
    'core',
    'engine',
    'sources',
    'server',
    'demo',
    'stand-ins',
    'public',
    'package-lock.json',
    'vite.config.ts',
    'react-router.config.ts',
    'scripts/compress.mjs',
  ]);
  if (isDone(stamp, digest)) return;
  say('Building …');
  run('The build', ['run', 'build']);
  writeFileSync(stamp, digest);
}

export function checkNode() {
  const [major = 0, minor = 0] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    fail(`Node ${process.versions.node} is too old; install Node 20.19 or later.`);
}

export function installPostgres() {
  if (postgresPrograms()) return;
  say('Installing PostgreSQL …');
  const byHand = installPackages(['postgresql']);
  if (byHand || !postgresPrograms())
    fail(`PostgreSQL is missing. Install it with: ${byHand ?? 'sudo apt-get install postgresql'}`);
}

/** @returns {Promise<string | null>} why the port cannot be listened on, or null */
const portProblem = () =>
  new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', (error) => resolve(/** @type {NodeJS.ErrnoException} */ (error).code ?? 'unknown'));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(null)));
  });

/** The file of the key that source credentials are encrypted with: made once, kept outside the database. */
export function keyFile() {
  mkdirSync(dataFolder, { recursive: true, mode: 0o755 });
  const file = path.join(dataFolder, 'secret.key');
  if (!existsSync(file)) writeFileSync(file, randomBytes(32).toString('base64'), { mode: 0o600 });
  return file;
}

async function main() {
  checkNode();
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    fail(`PORT is “${process.env.PORT}”; it must be a number from 0 to 65535.`);
  const problem = await portProblem();
  if (problem === 'EADDRINUSE') fail(`port ${port} is in use. Stop what uses it, or set PORT to another.`);
  if (problem) fail(`port ${port} cannot be listened on (${problem}). Set PORT to another.`);
  try {
    mkdirSync(dataFolder, { recursive: true, mode: 0o755 });
    const { bavail, bsize } = statfsSync(dataFolder);
    if (bavail * bsize < 300 * 1024 * 1024)
      fail(
        `the disk of ${dataFolder} has less than 300 MB left. Make room, or set SLATE_DATA to another folder.`,
      );
  } catch (error) {
    fail(`the data folder ${dataFolder} cannot be made: ${error instanceof Error ? error.message : error}`);
  }
  if (!process.env.DATABASE_URL) installPostgres();
  installDependencies();
  build();
  let url = process.env.DATABASE_URL ?? '';
  let stopCluster = () => {};
  if (!url) {
    say('Starting PostgreSQL …');
    const cluster = await startCluster(dataFolder).catch((error) => fail(String(error.message ?? error)));
    url = cluster.url;
    stopCluster = cluster.stop;
  }
  const demo = process.env.SLATE_DEMO === 'no' ? '' : (process.env.SLATE_DEMO ?? url);
  const environment = {
    ...process.env,
    NODE_ENV: 'production',
    PORT: String(port),
    SLATE_DATABASE: url,
    SLATE_KEY_FILE: process.env.SLATE_KEY_FILE ?? (process.env.SLATE_KEY ? '' : keyFile()),
    SLATE_CACHE: process.env.SLATE_CACHE ?? path.join(dataFolder, 'cache'),
    SLATE_DEMO: demo,
    ...(demo ? await standInSettings(dataFolder, [new URL(url).host]) : {}),
  };
  let isStopping = false;
  /** @type {import('node:child_process').ChildProcess | null} */
  let services = null;
  // The demo's services come first, since filling the demo asks them. One that ends is replaced.
  const serve = () => {
    if (isStopping || !environment.SLATE_DEMO) return null;
    services = spawn(process.execPath, ['scripts/stand-ins.mjs'], {
      cwd: root,
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
      env: { ...environment, SLATE_EVENTS: `http://127.0.0.1:${port}` },
    });
    services.once('exit', () => setTimeout(serve, 1000));
    return services;
  };
  const first = serve();
  if (first)
    await new Promise((resolve) => {
      first.once('message', resolve);
      first.once('exit', resolve);
    });
  runProcesses(environment, () => {
    isStopping = true;
    services?.kill('SIGTERM');
    stopCluster();
  });
}

if (process.argv[1] === import.meta.filename) await main();
