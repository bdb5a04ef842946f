/* Lists the licences of what ships, and fails on any that is not permissive. */
import { readFileSync } from 'node:fs';
import path from 'node:path';

const root = path.resolve(import.meta.dirname, '..');
const permissive = new Set([
  'MIT',
  'MIT-0',
  'ISC',
  'Apache-2.0',
  'BSD-2-Clause',
  'BSD-3-Clause',
  '0BSD',
  'OFL-1.1',
  'CC0-1.0',
  'Unlicense',
  'BlueOak-1.0.0',
  'Python-2.0',
  'Zlib',
]);
const { packages } = JSON.parse(readFileSync(path.join(root, 'package-lock.json'), 'utf8'));

const isPermissive = (/** @type {string} */ licence) =>
  licence
    .replace(/[()]/g, '')
    .split(' OR ')
    .some((one) => one.split(' AND ').every((each) => permissive.has(each.trim())));

/** @type {Map<string, number>} */
const found = new Map();
/** @type {string[]} */
const refused = [];
for (const [place, entry] of Object.entries(packages)) {
  // What is for development does not ship, nor do builds for platforms that are not this one.
  if (place === '' || entry.dev || (entry.optional && !entry.integrity)) continue;
  const licence = entry.license ?? 'unknown';
  found.set(licence, (found.get(licence) ?? 0) + 1);
  if (!isPermissive(licence))
    refused.push(`${place.replace(/^.*node_modules\//, '')}@${entry.version}: ${licence}`);
}
for (const [licence, count] of [...found].sort((a, b) => b[1] - a[1]))
  console.log(`${String(count).padStart(4)} ${licence}`);
for (const line of refused) console.error(`not permissive: ${line}`);
process.exit(refused.length === 0 ? 0 : 1);
