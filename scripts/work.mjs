/* Runs the built worker until it is told to stop, or its parent is gone. */
import { untilStopped } from './until-stopped.mjs';

const { startWorker, log } = await import(new URL('../build/server/worker.js', import.meta.url).href);
const { stop } = await startWorker((/** @type {string} */ line, /** @type {object} */ about) =>
  log.debug(about ?? {}, line),
);
process.send?.({ ready: true });
untilStopped(stop);
