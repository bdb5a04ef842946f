/*
 * `npm test`: every check of the repository, on a fresh clone with nothing installed. Its last line counts the tests of
 * all suites. A check without tests of its own (lint, types, layers …) counts as one.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { chromiumLaunch } from './browser.mjs';
import { installPackages } from './cluster.mjs';
import { hasMaria } from './maria.mjs';
import { build, checkNode, installDependencies, installPostgres } from './start.mjs';

const root = path.resolve(import.meta.dirname, '..');
const results = mkdtempSync(path.join(tmpdir(), 'slate-results-'));
let passed = 0;
let failed = 0;

function run(
  /** @type {string} */ program,
  /** @type {string[]} */ args,
  /** @type {Record<string, string>} */ env = {},
) {
  return (
    spawnSync(program, args, {
      cwd: root,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, ...env },
    }).status === 0
  );
}
const tool = (/** @type {string} */ name) => path.join('node_modules', '.bin', name);

function check(/** @type {string} */ name, /** @type {boolean} */ ok) {
  console.log(`${ok ? 'passed' : 'FAILED'}: ${name}`);
  if (ok) passed += 1;
  else failed += 1;
}

function timed(/** @type {string} */ name, /** @type {() => void} */ work) {
  const start = Date.now();
  console.log(`\n— ${name}`);
  work();
  console.log(`  (${Math.round((Date.now() - start) / 1000)} s)`);
}

/** Adds up what a runner wrote; a runner that wrote nothing has failed. */
function count(
  /** @type {string} */ suite,
  /** @type {string} */ file,
  /** @type {(json: any) => [number, number]} */ read,
) {
  if (!existsSync(file)) return check(`${suite}: ran`, false);
  const [good, bad] = read(JSON.parse(readFileSync(file, 'utf8')));
  console.log(`${suite}: ${good} passed, ${bad} failed`);
  passed += good;
  failed += bad;
  if (good + bad === 0) check(`${suite}: ran any test`, false);
}

checkNode();
installPostgres();
if (!existsSync(chromiumLaunch.executablePath)) {
  console.log('Installing Chromium …');
  const byHand = installPackages(['chromium']);
  if (byHand) {
    console.error(`Chromium is missing. Install it with: ${byHand}`);
    process.exit(1);
  }
}
if (!hasMaria()) {
  console.log('Installing MariaDB …');
  const byHand = installPackages(['mariadb-server']);
  if (byHand) {
    console.error(`MariaDB is missing. Install it with: ${byHand}`);
    process.exit(1);
  }
}
installDependencies();

timed('static checks', () => {
  check('biome', run(tool('biome'), ['ci', '--max-diagnostics=20', '.']));
  check('types', run(tool('react-router'), ['typegen']) && run(tool('tsc'), ['-p', '.']));
  check(
    'layers',
    run(tool('depcruise'), [
      '--config',
      '.dependency-cruiser.cjs',
      'core',
      'engine',
      'sources',
      'server',
      'app',
      'demo',
      'stand-ins',
    ]),
  );
  check('unused code', run(tool('knip'), []));
  check('licences', run(process.execPath, ['scripts/licences.mjs']));
});

timed('unit and integration tests', () => {
  const file = path.join(results, 'vitest.json');
  run(tool('vitest'), ['run', '--reporter=dot', '--reporter=json', `--outputFile.json=${file}`]);
  count('vitest', file, (json) => [
    json.numPassedTests,
    json.numFailedTests + (json.success ? 0 : Number(json.numFailedTests === 0)),
  ]);
});

timed('build', () => build());

timed('journeys in the browser', () => {
  const file = path.join(results, 'playwright.json');
  run(tool('playwright'), ['test'], { PLAYWRIGHT_JSON_OUTPUT_NAME: file });
  count('playwright', file, ({ stats, errors }) => [
    stats.expected,
    stats.unexpected + stats.flaky + errors.length,
  ]);
});

console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
