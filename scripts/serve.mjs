/* Runs the built server until it is told to stop, or its parent is gone. */
import { fileURLToPath } from 'node:url';
import { untilStopped } from './until-stopped.mjs';

const say = (/** @type {string} */ line) => console.log(line);

// Uploaded files are read by a program of its own.
process.env.SLATE_READER = fileURLToPath(new URL('read-upload.mjs', import.meta.url));

try {
  const built = new URL('../build/server/index.js', import.meta.url).href;
  const { start, demoLines } = await import(built);
  const { port, stop } = await start(say);
  say(`Slate Glass is ready at http://127.0.0.1:${port} ${demoLines()}`);
  process.send?.({ port });
  untilStopped(stop);
} catch (error) {
  const { code, message, cause } = /** @type {NodeJS.ErrnoException} */ (error);
  // What the database said is the cause of a failed query; the query itself tells a person nothing.
  const why = cause instanceof Error ? `its database says: ${cause.message || cause}` : message;
  console.error(
    `Slate Glass cannot start: ${code === 'EADDRINUSE' ? 'the port is in use. Set PORT to another.' : why}`,
  );
  process.exit(1);
}
