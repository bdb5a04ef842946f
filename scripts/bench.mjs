/* `npm run bench`: a running product on a database of its own (.data-bench), measured; then the size of its scripts. */
import { spawn, spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { installChromium } from './browser.mjs';
import { bundled } from './bundle.mjs';
import { freePort, startCluster } from './cluster.mjs';
import { build, checkNode, installDependencies, installPostgres } from './start.mjs';

checkNode();
installPostgres();
installChromium();
installDependencies();
build();

const root = path.resolve(import.meta.dirname, '..');
const data = path.join(root, '.data-bench');
mkdirSync(data, { recursive: true });
const keyFile = path.join(data, 'secret.key');
if (!existsSync(keyFile)) writeFileSync(keyFile, randomBytes(32).toString('base64'), { mode: 0o600 });
const key = readFileSync(keyFile, 'utf8');
const { url, stop } = await startCluster(data);
const port = await freePort();
const env = {
  ...process.env,
  NODE_ENV: 'production',
  PORT: String(port),
  SLATE_DATABASE: url,
  SLATE_KEY: key,
  SLATE_DEMO: url,
  SLATE_CACHE: path.join(data, 'cache'),
  SLATE_URL: `http://127.0.0.1:${port}`,
  SLATE_LOG_FOLDERS: path.join(data, 'logs'),
  SLATE_OUTGOING: new URL(url).host,
};
const server = spawn(process.execPath, ['scripts/serve.mjs'], {
  cwd: root,
  env,
  stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
});
await new Promise((resolve, reject) => {
  server.once('message', resolve);
  server.once('exit', () => reject(new Error('the server did not start')));
});
/** `npm run bench`: all of it; `npm run bench kept`: the file of that name. */
const wanted = process.argv.slice(2);
let status = 0;
for (const name of wanted.length > 0
  ? wanted
  : ['bench', 'kept', 'taking-in', 'huge', 'shaping', 'readers', 'changes', 'people', 'panes']) {
  const program = await bundled(`bench/${name}.ts`);
  status ||=
    spawnSync(process.execPath, [program], {
      cwd: root,
      env: { ...env, SLATE_SERVER: String(server.pid) },
      stdio: 'inherit',
    }).status ?? 1;
  rmSync(path.dirname(program), { recursive: true });
}

/** Everything that a script imports at once, itself included; what it loads later is not counted. */
function staticImports(/** @type {string} */ file, /** @type {Set<string>} */ seen) {
  if (seen.has(file)) return seen;
  seen.add(file);
  const text = readFileSync(path.join(root, 'build/client', file), 'utf8');
  for (const match of text.matchAll(/(?:from|import)\s*"(\.\/[^"]+\.js)"/g))
    staticImports(path.posix.join(path.posix.dirname(file), match[1] ?? ''), seen);
  return seen;
}
const page = await (await fetch(`${env.SLATE_URL}/sign-in`)).text();
const signIn = await fetch(`${env.SLATE_URL}/sign-in`, {
  method: 'POST',
  redirect: 'manual',
  headers: { Origin: env.SLATE_URL, 'Content-Type': 'application/x-www-form-urlencoded' },
  body: 'email=reader@skerry.example&password=low-water-0640',
});
const desk = await (
  await fetch(`${env.SLATE_URL}/desk/skerry-sound/morning-brief`, {
    headers: { cookie: signIn.headers.get('set-cookie')?.split(';')[0] ?? '' },
  })
).text();
for (const [name, html] of [
  ['the sign-in page', page],
  ['a dashboard, before charts', desk],
]) {
  const files = new Set();
  for (const match of (html ?? '').matchAll(/\/(assets\/[\w.-]+\.js)/g))
    for (const file of staticImports(match[1] ?? '', new Set())) files.add(file);
  const size = [...files].reduce(
    (sum, file) => sum + gzipSync(readFileSync(path.join(root, 'build/client', String(file)))).length,
    0,
  );
  console.log(
    `script of ${name}: ${(size / 1000).toFixed(0)} kB gzipped in ${files.size} files   asked: at most 200`,
  );
}
server.kill('SIGTERM');
await new Promise((resolve) => server.once('exit', resolve));
stop();
process.exit(status);
