/*
 * `npm ci` refuses a lock file that leaves out an optional package, and a registry that serves only this platform's
 * builds makes `npm install` write such a one. This names the builds for other platforms, so that `npm ci` passes here
 * and elsewhere. Run it after every change of a dependency: node scripts/complete-lock.mjs
 */
import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';

const file = path.resolve(import.meta.dirname, '..', 'package-lock.json');
const lock = JSON.parse(readFileSync(file, 'utf8'));
const systems = [
  'android',
  'darwin',
  'freebsd',
  'linux',
  'openbsd',
  'netbsd',
  'sunos',
  'aix',
  'win32',
  'openharmony',
];
const processors = [
  'arm64',
  'arm',
  'x64',
  'ia32',
  'ppc64',
  'riscv64',
  's390x',
  'loong64',
  'wasm32',
  'mips64el',
];

/** @type {Record<string, object>} */
const added = {};
for (const [place, entry] of Object.entries(lock.packages))
  for (const [name, version] of Object.entries(entry.optionalDependencies ?? {})) {
    const known = [`${place}/node_modules/${name}`, `node_modules/${name}`].some(
      (each) => lock.packages[each],
    );
    if (known || place === '') continue;
    const words = name.split(/[/-]/);
    const os = systems.filter((each) => words.includes(each));
    const cpu = processors.filter((each) =>
      words.some((word) => word === each || (each === 'arm' && /^arm(eabi|v7)?$/.test(word))),
    );
    if (words.some((word) => word.startsWith('wasm32'))) cpu.push('wasm32');
    // Without a platform in its name nothing says where it must not be installed.
    if (os.length === 0 && cpu.length === 0) continue;
    added[`node_modules/${name}`] = {
      version,
      ...(entry.dev ? { dev: true } : {}),
      optional: true,
      ...(os.length ? { os } : {}),
      ...(cpu.length ? { cpu: [...new Set(cpu)] } : {}),
    };
  }
lock.packages = Object.fromEntries(
  Object.entries({ ...lock.packages, ...added }).sort(([a], [b]) => (a < b ? -1 : 1)),
);
writeFileSync(file, `${JSON.stringify(lock, null, 2)}\n`);
console.log(`${Object.keys(added).length} builds for other platforms named`);
