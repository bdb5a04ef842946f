/*
 * `npm test`: every check of the repository, on a fresh clone with nothing installed. Its last line counts the tests of
 * all suites. A check without tests of its own (lint, types, layers …) counts as one.
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { installChromium } from './browser.mjs';
import { installPackages } from './cluster.mjs';
import { failuresOfJourneys, failuresOfUnits } from './failures.mjs';
import { hasMaria } from './maria.mjs';
import { build, checkNode, installDependencies, installPostgres } from './start.mjs';

const root = path.resolve(import.meta.dirname, '..');
const results = mkdtempSync(path.join(tmpdir(), 'slate-results-'));
let passed = 0;
let failed = 0;
/** @type {string[]} */
const failures = [];

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

async function timed(/** @type {string} */ name, /** @type {() => void | Promise<void>} */ work) {
  const start = Date.now();
  console.log(`\n— ${name}`);
  await work();
  console.log(`  (${Math.round((Date.now() - start) / 1000)} s)`);
}

/** Adds up what a runner wrote; a runner that wrote nothing has failed. */
function count(
  /** @type {string} */ suite,
  /** @type {string} */ file,
  /** @type {(report: any) => [number, number]} */ read,
  /** @type {(report: any) => string[]} */ why,
) {
  if (!existsSync(file)) return check(`${suite}: ran`, false);
  const report = JSON.parse(readFileSync(file, 'utf8'));
  const [good, bad] = read(report);
  failures.push(...why(report));
  console.log(`${suite}: ${good} passed, ${bad} failed`);
  passed += good;
  failed += bad;
  if (good + bad === 0) check(`${suite}: ran any test`, false);
}

checkNode();
installPostgres();
installChromium();
if (!hasMaria()) {
  console.log('Installing MariaDB …');
  const byHand = installPackages(['mariadb-server']);
  if (byHand) {
    console.error(`MariaDB is missing. Install it with: ${byHand}`);
    process.exit(1);
  }
}
installDependencies();

/** Runs commands one after the other, as long as they succeed; what they print is kept together. */
async function quietly(/** @type {[string, string[]][]} */ commands) {
  let output = '';
  for (const [program, args] of commands) {
    const ok = await new Promise((resolve) => {
      const child = spawn(program, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
      for (const stream of [child.stdout, child.stderr])
        stream.on('data', (/** @type {Buffer} */ part) => {
          output += part;
        });
      child.once('error', (error) => {
        output += error.message;
        resolve(false);
      });
      child.once('close', (code) => resolve(code === 0));
    });
    if (!ok) return { ok: false, output };
  }
  return { ok: true, output };
}

/** Each uses one core at most of the time. */
await timed('static checks', async () => {
  const layers = ['core', 'engine', 'sources', 'server', 'app', 'demo', 'stand-ins', 'testing'];
  /** @type {[string, [string, string[]][]][]} */
  const checks = [
    [
      'types',
      [
        [tool('react-router'), ['typegen']],
        // The checker of TypeScript 7; the one before it stays for the tools that read its syntax trees.
        [process.execPath, ['node_modules/typescript-native/bin/tsc', '-p', '.']],
      ],
    ],
    ['biome', [[tool('biome'), ['ci', '--max-diagnostics=20', '.']]]],
    ['layers', [[tool('depcruise'), ['--config', '.dependency-cruiser.cjs', ...layers]]]],
    ['unused code', [[tool('knip'), []]]],
    ['licences', [[process.execPath, ['scripts/licences.mjs']]]],
  ];
  await Promise.all(
    checks.map(async ([name, commands]) => {
      const { ok, output } = await quietly(commands);
      console.log(output.trim());
      check(name, ok);
    }),
  );
});

await timed('unit and integration tests', () => {
  const file = path.join(results, 'vitest.json');
  run(tool('vitest'), ['run', '--reporter=dot', '--reporter=json', `--outputFile.json=${file}`]);
  count(
    'vitest',
    file,
    (json) => [
      json.numPassedTests,
      json.numFailedTests + (json.success ? 0 : Number(json.numFailedTests === 0)),
    ],
    failuresOfUnits,
  );
});

await timed('build', () => build());

await timed('journeys in the browser', () => {
  const file = path.join(results, 'playwright.json');
  run(tool('playwright'), ['test'], { PLAYWRIGHT_JSON_OUTPUT_NAME: file });
  count(
    'playwright',
    file,
    ({ stats, errors }) => [stats.expected, stats.unexpected + stats.flaky + errors.length],
    failuresOfJourneys,
  );
});

for (const failure of failures.slice(0, 20)) console.log(`\nFAILED: ${failure}`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
