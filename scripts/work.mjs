/* Runs the built worker until it is told to stop, or its parent is gone. */
const { startWorker, log } = await import(new URL('../build/server/index.js', import.meta.url).href);
const { stop } = await startWorker((/** @type {string} */ line, /** @type {object} */ about) =>
  log.debug(about ?? {}, line),
);
process.send?.({ ready: true });
let isStopping = false;
const end = async () => {
  if (isStopping) return;
  isStopping = true;
  await Promise.race([stop(), new Promise((resolve) => setTimeout(resolve, 5000))]);
  process.exit(0);
};
process.on('SIGTERM', end);
process.on('SIGINT', end);
process.on('disconnect', end);
