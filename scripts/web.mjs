/* One of the processes that serve pages, until it is told to stop or its parent is gone. */
import { fileURLToPath } from 'node:url';
import { untilStopped } from './until-stopped.mjs';

// Uploaded files are read by a program of its own.
process.env.SLATE_READER = fileURLToPath(new URL('read-upload.mjs', import.meta.url));

try {
  const { serve } = await import(new URL('../build/server/index.js', import.meta.url).href);
  const { stop } = await serve();
  untilStopped(stop);
} catch (error) {
  const { code, message } = /** @type {NodeJS.ErrnoException} */ (error);
  // It is said once, by the process that started this one, whatever the others beside this one come to.
  const why = code === 'EADDRINUSE' ? 'the port is in use. Set PORT to another.' : message;
  process.send?.({ why }, () => process.exit(1));
}
