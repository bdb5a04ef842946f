/**
 * Runs `stop` once, when this process is told to end or its parent is gone, and ends it; after five seconds whatever is
 * still under way.
 * @param {() => Promise<void>} stop
 */
export function untilStopped(stop) {
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
}
