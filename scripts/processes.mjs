/* The processes of a running product: those that serve pages, and the worker. Each is replaced when it ends. */
import { spawn } from 'node:child_process';
import path from 'node:path';

const root = path.resolve(import.meta.dirname, '..');

/**
 * Starts the processes with an environment, and again whenever one ends. A first one that never answers ends everything, since it says why.
 * @param {NodeJS.ProcessEnv} environment
 * @param {(code: number) => void | Promise<void>} whenOver what is done at the very end, with the code to exit with
 * @returns {() => void} ends all of them
 */
export function runProcesses(environment, whenOver) {
  let isStopping = false;
  const start = (/** @type {string} */ program) =>
    spawn(process.execPath, [`scripts/${program}`], {
      cwd: root,
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
      env: environment,
    });
  /** @type {import('node:child_process').ChildProcess | null} */
  let worker = null;
  // The worker begins once the server has brought the tables up to date.
  const work = () => {
    if (isStopping) return;
    worker = start('work.mjs');
    worker.once('exit', () => setTimeout(work, 1000));
  };
  /** @type {import('node:child_process').ChildProcess | null} */
  let server = null;
  const answer = (isFirst = true) => {
    const web = start('serve.mjs');
    server = web;
    let isReady = !isFirst;
    web.once('message', () => {
      isReady = true;
      if (isFirst) work();
    });
    web.once('exit', (code, signal) => {
      if (isStopping || !isReady) return void finish(isStopping ? 0 : (code ?? 1));
      console.error(`The web process ended (${signal ?? code}); it is started again.`);
      setTimeout(() => (isStopping ? undefined : answer(false)), 500);
    });
  };
  const finish = async (/** @type {number} */ code) => {
    isStopping = true;
    if (worker && worker.exitCode === null && worker.signalCode === null) {
      const ended = new Promise((resolve) => worker?.once('exit', resolve));
      worker.kill('SIGTERM');
      await ended;
    }
    await whenOver(code);
    process.exit(code);
  };
  const stop = () => {
    if (isStopping) return;
    isStopping = true;
    worker?.kill('SIGTERM');
    if (server && server.exitCode === null && server.signalCode === null) server.kill('SIGTERM');
    else void finish(0);
  };
  for (const signal of /** @type {const} */ (['SIGINT', 'SIGTERM', 'SIGHUP'])) process.on(signal, stop);
  answer();
  return stop;
}
