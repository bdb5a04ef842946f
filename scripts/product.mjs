/*
 * `npm run product`: an installation that was built before, with the settings of its environment and nothing else: no demo, no PostgreSQL of
 * its own, and none of the tools that building needs (`npm ci --omit=dev` is enough).
 */
import { existsSync } from 'node:fs';
import path from 'node:path';
import { runProcesses } from './processes.mjs';

/** @returns {never} */
function fail(/** @type {string} */ lines) {
  for (const line of lines.split('\n')) console.error(`Slate Glass cannot start: ${line}`);
  process.exit(1);
}

const built = path.resolve(import.meta.dirname, '../build/server/manage.js');
if (!existsSync(built)) fail('it is not built. Run: npm ci && npm run build');
const { settingsProblems } = await import(built);
const environment = { ...process.env, NODE_ENV: 'production', SLATE_DEMO: '' };
const problems = settingsProblems(environment);
if (problems.length > 0) fail(problems.join('\n'));
runProcesses(environment, () => undefined);
