/*
 * Runs the built server until it is told to stop, or its parent is gone: processes that serve pages behind one address, and one
 * that asks for records for all of them. Each is replaced when it ends.
 */
import { spawn } from 'node:child_process';
import cluster from 'node:cluster';
import { mkdtempSync, rmSync } from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import path from 'node:path';
import { untilStopped } from './until-stopped.mjs';

const say = (/** @type {string} */ line) => console.log(line);
const program = (/** @type {string} */ name) => path.join(import.meta.dirname, name);
const again = (/** @type {string} */ what, /** @type {unknown} */ why) =>
  console.error(`${what} ended (${why}); it is started again.`);

/** How many processes serve pages. */
const count = Number(process.env.SLATE_WEB || availableParallelism());
const pauseMs = 200;
const mostProcesses = 64;
let isStopping = false;

const socketFolder = mkdtempSync(path.join(tmpdir(), 'slate-records-'));
const socket = path.join(socketFolder, 'socket');

/** @type {import('node:child_process').ChildProcess | null} */
let records = null;
/** Starts the process that asks for records, and again whenever it ends. */
function askForRecords() {
  if (isStopping) return;
  records = spawn(process.execPath, [program('records.mjs'), socket], {
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  });
  records.once('exit', (code, signal) => {
    if (isStopping) return;
    again('The process that asks for records', signal ?? code);
    setTimeout(askForRecords, pauseMs);
  });
}

/** Starts the processes that serve pages; gives their port once all of them listen. One that ends before that ends all. */
function servePages() {
  // Each takes connections by itself: one that is handed over to a process just as that ends would never be answered.
  cluster.schedulingPolicy = cluster.SCHED_NONE;
  cluster.setupPrimary({ exec: program('web.mjs') });
  const start = () => cluster.fork({ SLATE_RECORDS: socket });
  return new Promise((/** @type {(port: number) => void} */ resolve, reject) => {
    const listening = new Set();
    const reasons = new Map();
    cluster.on('message', (worker, { why }) => why && reasons.set(worker.id, why));
    cluster.on('listening', (worker, { port }) => {
      listening.add(worker.id);
      if (listening.size === count) resolve(port);
    });
    cluster.on('exit', (worker, code, signal) => {
      if (isStopping) return;
      if (!listening.has(worker.id) && listening.size < count) {
        isStopping = true;
        for (const other of Object.values(cluster.workers ?? {})) other?.process.kill('SIGKILL');
        return reject(new Error(reasons.get(worker.id) ?? `a web process ended (${signal ?? code})`));
      }
      again('A web process', reasons.get(worker.id) ?? signal ?? code);
      setTimeout(() => isStopping || start(), pauseMs);
    });
    for (let at = 0; at < count; at += 1) start();
  });
}

const ended = (/** @type {import('node:child_process').ChildProcess} */ child) =>
  new Promise((resolve) => {
    if (child.exitCode !== null || child.signalCode !== null) return resolve(undefined);
    child.once('exit', resolve);
    child.kill('SIGTERM');
  });

try {
  if (!Number.isInteger(count) || count < 1 || count > mostProcesses)
    throw new Error(
      `SLATE_WEB is “${process.env.SLATE_WEB}”; it must be a number from 1 to ${mostProcesses}`,
    );
  const { prepare, lastWords, basePath } = await import(
    new URL('../build/server/prepare.js', import.meta.url).href
  );
  const stopDemo = await prepare(say);
  const words = await lastWords((/** @type {string} */ code) => {
    process.env.SLATE_SETUP_CODE = code;
  });
  askForRecords();
  const port = await servePages();
  say(`Slate Glass is ready at http://127.0.0.1:${port}${basePath()} ${words}`);
  process.send?.({ port });
  untilStopped(async () => {
    isStopping = true;
    await Promise.all(Object.values(cluster.workers ?? {}).map((worker) => worker && ended(worker.process)));
    if (records) await ended(records);
    rmSync(socketFolder, { recursive: true, force: true });
    await stopDemo();
  });
} catch (error) {
  const { message, cause } = /** @type {NodeJS.ErrnoException} */ (error);
  // What the database said is the cause of a failed query; the query itself tells a person nothing.
  const why = cause instanceof Error ? `its database says: ${cause.message || cause}` : message;
  console.error(`Slate Glass cannot start: ${why}`);
  rmSync(socketFolder, { recursive: true, force: true });
  process.exit(1);
}
