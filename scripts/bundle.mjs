import { randomUUID } from 'node:crypto';
import path from 'node:path';
import { build } from 'vite';

/**
 * A program of ours as one file of JavaScript, as the product itself is built: it starts in a third of the time, and runs as fast
 * as what ships. Returns where the file is.
 */
export async function bundled(/** @type {string} */ entry) {
  // Inside the repository, so that the packages that it imports are found.
  const outDir = path.resolve('node_modules', '.cache', 'slate-programs', randomUUID());
  await build({
    configFile: false,
    logLevel: 'error',
    publicDir: false,
    build: { ssr: entry, outDir, rolldownOptions: { output: { entryFileNames: 'program.mjs' } } },
  });
  return path.join(outDir, 'program.mjs');
}
