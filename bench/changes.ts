/*
 * Changes: how soon every open page is right after one, with twenty pages open; and what a batch of ten thousand costs against the statements
 * of the database itself. Milliseconds of this machine and ratios in one run.
 */
import { randomUUID } from 'node:crypto';
import { Agent, request } from 'node:http';
import pg from 'pg';
import { demoPassword } from '#demo/people.ts';
import { findPublished } from '#server/store/dashboards.ts';
import { closeDatabase } from '#server/store/database.ts';
import { findDesk } from '#server/store/desks.ts';
import { postgresChanges } from '#sources/postgres/change.ts';
import { compared, median, timed } from './measure.ts';

const origin = process.env.SLATE_URL ?? '';
const pages = 20;
const turns = 15;
const slug = 'vessel-upkeep';
const agent = new Agent({ keepAlive: true, maxSockets: 64 });

async function signIn(who: string): Promise<string> {
  const answer = await fetch(`${origin}/sign-in`, {
    method: 'POST',
    redirect: 'manual',
    headers: { Origin: origin, 'Content-Type': 'application/x-www-form-urlencoded' },
    body: `email=${who}@skerry.example&password=${demoPassword}`,
  });
  return answer.headers.get('set-cookie')?.split(';')[0] ?? '';
}

const desk = await findDesk('skerry-sound');
const shown = desk && (await findPublished({ deskId: desk.id, slug }));
if (!shown) throw new Error('the demo is not there');
const { id } = shown;
const panes = shown.dashboard.panes.map((pane) => pane.id).join(',');

/** What all panes of the page show, as the page asks for it again. */
const ask = (cookie: string): Promise<string> =>
  new Promise((resolve, reject) => {
    request(`${origin}/view/${id}/panes?_panes=${panes}`, { agent, headers: { cookie } }, (response) => {
      let text = '';
      response.setEncoding('utf8');
      response.on('data', (piece: string) => {
        text += piece;
      });
      response.once('end', () => resolve(text)).once('error', reject);
    })
      .once('error', reject)
      .end();
  });

/** How many unfinished orders a page shows; the last line of a pane is what stands. */
function unfinished(text: string): number {
  const lines = text
    .split('\n')
    .filter((line) => line.includes('"id":"orders"'))
    .map((line) => JSON.parse(line));
  return Number(lines.at(-1)?.result?.body?.total);
}

/** An open page: it hears of changes and asks again, as the real one does. */
function openPage(cookie: string, told: (count: number) => void): void {
  request(`${origin}/live?watch=${id}`, { headers: { cookie } }, (response) => {
    response.setEncoding('utf8');
    response.on('data', (piece: string) => {
      if (piece.includes('changed')) void ask(cookie).then((text) => told(unfinished(text)));
    });
  }).end();
}

const supervisor = await signIn('supervisor');
const act = async (body: object): Promise<{ state: string; batch: string; look: { records: object[] } }> =>
  (
    await fetch(`${origin}/view/${id}/act`, {
      method: 'POST',
      headers: { Origin: origin, 'Content-Type': 'application/json', cookie: supervisor },
      body: JSON.stringify(body),
    })
  ).json();

const right: { expected: number; waiting: Set<number>; done: () => void } = {
  expected: -1,
  waiting: new Set(),
  done: () => undefined,
};
const cookies = await Promise.all(['admin', 'analyst', 'supervisor', 'reader'].map(signIn));
for (let page = 0; page < pages; page += 1)
  openPage(cookies[page % cookies.length] ?? '', (count) => {
    if (count !== right.expected) return;
    right.waiting.delete(page);
    if (right.waiting.size === 0) right.done();
  });
await new Promise((resolve) => setTimeout(resolve, 1_500));

/** Milliseconds from sending a change until the last of the pages shows what it came to. */
async function untilAllAreRight(change: object, expected: number): Promise<{ took: number; batch: string }> {
  const start = performance.now();
  const all = new Promise<void>((resolve) => {
    Object.assign(right, { expected, waiting: new Set(Array(pages).keys()), done: resolve });
  });
  const answer = await act(change);
  if (answer.state !== 'done') throw new Error(JSON.stringify(answer));
  await all;
  return { took: performance.now() - start, batch: answer.batch };
}

const times: number[] = [];
for (let turn = 0; turn < turns; turn += 1) {
  const before = unfinished(await ask(supervisor));
  const row = JSON.parse(
    (await ask(supervisor)).split('\n').find((line) => line.includes('"id":"orders"')) ?? '{}',
  );
  const keyAt = row.result.body.fields.findIndex(({ name }: { name: string }) => name === 'id');
  const key = String(row.result.body.records[0][keyAt]);
  const doing = { pane: 'orders', do: { action: 'done' } };
  const { look } = await act({ ask: 'look', ...doing, keys: [key] });
  const records = look.records as { key: string; saw: object }[];
  const { took, batch } = await untilAllAreRight(
    {
      ask: 'send',
      ...doing,
      batch: randomUUID(),
      records: records.map(({ key: of, saw }) => ({ key: of, saw })),
      values: {},
    },
    before - 1,
  );
  times.push(took);
  times.push((await untilAllAreRight({ ask: 'undo', batch: randomUUID(), of: batch }, before)).took);
}
const sorted = [...times].sort((a, b) => a - b);
console.log(
  `\n${pages} pages of ${slug} open; ${times.length} changes of one record, until the last page is right\n`,
);
console.log(
  `median ${median(times).toFixed(0)} ms (asked: 300), 95th percentile ${(sorted[Math.floor(sorted.length * 0.95)] ?? 0).toFixed(0)} ms (asked: 1,000)`,
);

/* Ten thousand records in one batch. */
const count = 10_000;
const url = new URL(process.env.SLATE_DEMO ?? '');
url.pathname = '/sound_ops';
const client = new pg.Client({ connectionString: url.href });
await client.connect();
await client.query(`DROP TABLE IF EXISTS bench_orders;
  CREATE TABLE bench_orders (id int PRIMARY KEY, status text NOT NULL, cost numeric(12,2), note text);
  INSERT INTO bench_orders SELECT n, 'open', n / 7.0, 'as it was' FROM generate_series(1, 20000) AS n`);
const changes = postgresChanges({
  host: url.hostname,
  port: Number(url.port || 5432),
  database: 'sound_ops',
  user: decodeURIComponent(url.username),
  password: decodeURIComponent(url.password),
  tls: 'off',
  allowed: [url.hostname],
});
const keys = Array.from({ length: count }, (_, at) => String(at + 1));
let turn = 0;
const [byHand = 0, held = 0, here = 0] = await compared(
  9,
  () => client.query('UPDATE bench_orders SET status = $1 WHERE id = ANY($2)', [`hand ${turn++}`, keys]),
  async () => {
    await client.query('BEGIN');
    await client.query('SELECT id, status FROM bench_orders WHERE id = ANY($1) FOR UPDATE', [keys]);
    await client.query('UPDATE bench_orders SET status = $1 WHERE id = ANY($2) RETURNING id, status', [
      `held ${turn++}`,
      keys,
    ]);
    await client.query('COMMIT');
  },
  () => {
    const set = { status: `here ${turn}` };
    return changes.change({
      place: {
        kind: 'one-table',
        schema: 'public',
        table: 'bench_orders',
        key: { column: 'id', name: 'id', type: 'integer' },
      },
      columns: [{ column: 'status', name: 'status', type: 'text' }],
      changes: keys.map((key) => ({ way: 'update', key, expected: {}, values: set })),
      once: randomUUID(),
      doing: 'changing orders',
      beforeEnd: async () => {
        turn += 1;
      },
    });
  },
);
console.log(`\n${count} records in one batch\n`);
console.log(
  `by hand ${byHand.toFixed(0)} ms; by hand, held first and read after ${held.toFixed(0)} ms; here ${here.toFixed(0)} ms   ×${(here / byHand).toFixed(2)} and ×${(here / held).toFixed(2)}   asked: at most ×1.5`,
);
await timed(() => client.query('DROP TABLE bench_orders'));
await client.end();
agent.destroy();
await closeDatabase();
process.exit(0);
