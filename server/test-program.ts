import { randomUUID } from 'node:crypto';
import path from 'node:path';
import { build } from 'vite';

/**
 * A program of ours as one file of JavaScript, for tests that start it many times: it starts in a third of the time. Returns
 * where the file is.
 */
export async function bundled(entry: string): Promise<string> {
  // Inside the repository, so that the packages that it imports are found.
  const outDir = path.resolve('node_modules', '.cache', 'slate-tests', randomUUID());
  await build({
    configFile: false,
    logLevel: 'error',
    publicDir: false,
    build: { ssr: entry, outDir, rolldownOptions: { output: { entryFileNames: 'program.mjs' } } },
  });
  return path.join(outDir, 'program.mjs');
}
