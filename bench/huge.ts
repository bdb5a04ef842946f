/*
 * The largest that people bring: a file of 2 GB uploaded to the web server over HTTP, and a log file of 50 million lines
 * followed to its end. What counts is that both get there, every record of them, and what the processes hold meanwhile.
 */
import { randomUUID } from 'node:crypto';
import { createWriteStream, mkdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { DataSet } from '#core/dataset/schema.ts';
import { closeColumnar } from '#server/kept/open.ts';
import { refresh } from '#server/kept/refresh.ts';
import { addDataSet } from '#server/store/data-sets.ts';
import { closeDatabase } from '#server/store/database.ts';
import { currentVersion } from '#server/store/kept.ts';
import { addSource } from '#server/store/sources.ts';
import { tryLogs } from '#sources/logs/read.ts';
import { timed } from './measure.ts';

const address = process.env.SLATE_URL ?? '';
const server = process.env.SLATE_SERVER ?? '';
const bytes = Number(process.env.BENCH_HUGE_BYTES ?? 2_000_000_000);
const lines = Number(process.env.BENCH_HUGE_LINES ?? 50_000_000);

const say = (name: string, what: string): void => console.log(`${name.padEnd(46)} ${what}`);
const seconds = (ms: number): string => `${(ms / 1000).toFixed(0)} s`;
/** The most that a process has held, in MB (proc(5)). */
const held = (pid: string): string =>
  `${Math.round(Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1000)} MB`;

const signedIn = await fetch(`${address}/sign-in`, {
  method: 'POST',
  redirect: 'manual',
  headers: { Origin: address, 'Content-Type': 'application/x-www-form-urlencoded' },
  body: 'email=analyst@skerry.example&password=low-water-0640',
});
const headers = { Origin: address, cookie: signedIn.headers.get('set-cookie')?.split(';')[0] ?? '' };
const post = (place: string, body: unknown): Promise<Response> =>
  fetch(`${address}${place}`, {
    method: 'POST',
    redirect: 'manual',
    headers: { ...headers, 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
    signal: AbortSignal.timeout(1_200_000),
  });

let made = 0;
function* delimited(): Generator<string> {
  let sent = 0;
  let piece = 'id,gate,outcome,scanned_at,fare\n';
  while (sent < bytes) {
    for (let n = 0; n < 5000; n += 1) {
      made += 1;
      piece += `${made},Gate ${1 + (made % 12)},${made % 3 ? 'passed' : 'refused'},2025-01-01T0${made % 10}:00:00Z,${(made % 9000) / 100}\n`;
    }
    sent += piece.length;
    yield piece;
    piece = '';
  }
}

let file = '';
const sending = await timed(async () => {
  const answer = await fetch(`${address}/workroom/upload/receive`, {
    method: 'POST',
    headers: { ...headers, 'Content-Type': 'application/octet-stream' },
    body: Readable.toWeb(Readable.from(delimited(), { objectMode: true }).map((piece) => Buffer.from(piece))),
    duplex: 'half',
  } as RequestInit);
  ({ file } = (await answer.json()) as { file: string });
});
const uploaded = randomUUID();
let seen = { total: 0, fields: [] as { name: string; type: string }[], reading: {} };
const looking = await timed(async () => {
  const answer = (await (await post('/workroom/upload/look', { file })).json()) as { seen: typeof seen };
  ({ seen } = answer);
});
const accepting = await timed(async () => {
  const fields = seen.fields.map(({ name, type }) => ({ name, type }));
  const noun = { one: 'scan', many: 'scans' };
  const answer = await post('/workroom/upload', {
    what: 'new',
    id: uploaded,
    name: 'Huge',
    noun,
    file,
    reading: seen.reading,
    fields,
  });
  if (answer.status !== 302) throw new Error(`not accepted: ${(await answer.text()).slice(0, 500)}`);
});
const version = await currentVersion(uploaded);
if (seen.total !== made || version?.records !== made)
  throw new Error(`${made} records were sent, ${seen.total} seen and ${version?.records} kept`);
say(
  `a file of ${(bytes / 1e9).toFixed(1)} GB, ${made} records, over HTTP`,
  `sent in ${seconds(sending)}, seen in ${seconds(looking)}, accepted in ${seconds(accepting)}; the web process held ${held(server)}   asked: at most 1500 MB`,
);

const folder = path.join(process.env.SLATE_LOG_FOLDERS ?? '', 'huge');
rmSync(folder, { recursive: true, force: true });
mkdirSync(folder, { recursive: true });
function* log(): Generator<string> {
  for (let from = 0; from < lines; from += 10_000) {
    let piece = '';
    for (let n = from; n < Math.min(lines, from + 10_000); n += 1)
      piece += `gate=${n % 12} n=${n} took=${n % 900}\n`;
    yield piece;
  }
}
await pipeline(Readable.from(log()), createWriteStream(path.join(folder, 'gates.log')));
const source = randomUUID();
await addSource({
  id: source,
  name: 'Huge log',
  connection: { kind: 'logs', folder },
  report: { facts: [], warnings: [], clockSkewMs: 0, tookMs: 0, at: new Date().toISOString() },
  secret: '',
  madeBy: null,
});
const listed = [process.env.SLATE_LOG_FOLDERS ?? ''];
const { request, fields } = await tryLogs(
  folder,
  listed,
  { kind: 'log', files: '*', line: { kind: 'pairs' }, columns: [] },
  false,
);
const definition: DataSet = {
  version: 2,
  source,
  request,
  inputs: [],
  fields: [...fields],
  noun: { one: 'scan', many: 'scans' },
  measures: [{ name: 'count', label: 'scans', calculation: { kind: 'count' } }],
  keep: { mode: { kind: 'follow' }, schedule: { kind: 'by hand' } },
};
const followed = randomUUID();
await addDataSet({ id: followed, name: 'Huge log', definition, by: null });
let refreshes = 0;
const following = await timed(async () => {
  for (let before = -1; ; refreshes += 1) {
    const done = await refresh(followed);
    if (done.state !== 'done') throw new Error(JSON.stringify(done));
    if (done.kept === before) return;
    before = done.kept;
  }
});
const kept = (await currentVersion(followed))?.records;
if (kept !== lines) throw new Error(`${lines} lines were written and ${kept} kept`);
say(
  `a log file of ${lines} lines`,
  `followed in ${seconds(following)}, ${refreshes} refreshes; the process held ${held('self')}`,
);
rmSync(folder, { recursive: true, force: true });
await closeColumnar();
await closeDatabase();
