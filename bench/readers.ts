/*
 * Many readers of one dashboard, each opening it every few seconds, against one reader alone: the whole page with what all its
 * panes show. Ratios in one run; the machine decides the milliseconds.
 */
import { randomUUID } from 'node:crypto';
import { Agent, request } from 'node:http';
import { setTimeout as wait } from 'node:timers/promises';
import { demoPassword } from '#demo/people.ts';
import { closeColumnar } from '#server/kept/open.ts';
import { refresh } from '#server/kept/refresh.ts';
import { addDashboard, findPublished, publish, removeDashboard } from '#server/store/dashboards.ts';
import { addDataSet, removeDataSet } from '#server/store/data-sets.ts';
import { closeDatabase } from '#server/store/database.ts';
import { findDesk } from '#server/store/desks.ts';
import { timed } from './measure.ts';

const origin = process.env.SLATE_URL ?? '';
const readers = Number(process.env.BENCH_READERS ?? 50);
const everyMs = 3_000;
const forMs = Number(process.env.BENCH_READERS_MS ?? 21_000);

/** How often each opens it before it is timed: the processes have only just been started, and one reader meets one of them. */
const warmUps = 2;

/** A reader, who opens pages over connections of their own and takes all of them, what their panes show too. */
function reader() {
  const agent = new Agent({ keepAlive: true });
  const open = (path: string, cookie: string): Promise<void> =>
    new Promise((resolve, reject) => {
      request(`${origin}${path}`, { agent, headers: { cookie } }, (response) => {
        if (response.statusCode !== 200) reject(new Error(`${path} answered ${response.statusCode}`));
        response.once('error', reject).once('end', resolve).resume();
      })
        .once('error', reject)
        .end();
    });
  return { open, leave: () => agent.destroy() };
}

const signIn = await fetch(`${origin}/sign-in`, {
  method: 'POST',
  redirect: 'manual',
  headers: { Origin: origin, 'Content-Type': 'application/x-www-form-urlencoded' },
  body: `email=reader@skerry.example&password=${demoPassword}`,
});
const cookie = signIn.headers.get('set-cookie')?.split(';')[0] ?? '';

const live = 'morning-brief';
const kept = 'bench-kept';

/** The same dashboard over kept copies of the same records. Returns how to remove it. */
async function keepAll(): Promise<() => Promise<void>> {
  const desk = await findDesk('skerry-sound');
  const shown = desk && (await findPublished({ deskId: desk.id, slug: live }));
  if (!shown) throw new Error('the demo is not there');
  let text = JSON.stringify(shown.dashboard);
  const copies: string[] = [];
  for (const [id, definition] of shown.dataSets) {
    if (!text.includes(id)) continue;
    const copy = randomUUID();
    copies.push(copy);
    text = text.replaceAll(id, copy);
    const keep = { mode: { kind: 'replace' }, schedule: { kind: 'by hand' } } as const;
    await addDataSet({ id: copy, name: `Kept ${copy}`, definition: { ...definition, keep }, by: null });
    const { state } = await refresh(copy);
    if (state !== 'done') throw new Error(`not kept: ${state}`);
  }
  const id = randomUUID();
  await addDashboard({ id, deskId: desk.id, slug: kept, draft: JSON.parse(text), by: null });
  await publish(id, null, null);
  return async () => {
    await removeDashboard(id);
    for (const copy of copies) await removeDataSet(copy);
  };
}

const p95 = (times: readonly number[]): number =>
  [...times].sort((a, b) => a - b)[Math.floor(times.length * 0.95)] ?? 0;

async function alone(path: string): Promise<number> {
  const { open, leave } = reader();
  for (let n = 0; n < 5; n += 1) await open(path, cookie);
  const times: number[] = [];
  for (let n = 0; n < 30; n += 1) {
    times.push(await timed(() => open(path, cookie)));
    await wait(50);
  }
  leave();
  return p95(times);
}

async function together(path: string): Promise<number> {
  const times: number[] = [];
  const until = Date.now() + forMs;
  await Promise.all(
    Array.from({ length: readers }, async (_, at) => {
      const { open, leave } = reader();
      // They have not all come at the same moment.
      await wait((everyMs * at) / readers);
      for (let turn = 0; Date.now() < until; turn += 1) {
        const took = await timed(() => open(path, cookie));
        if (turn >= warmUps) times.push(took);
        await wait(Math.max(0, everyMs - took));
      }
      leave();
    }),
  );
  return p95(times);
}

const remove = await keepAll();
console.log(`\n${readers} readers, each opening a dashboard every ${everyMs / 1000} s; 95th percentiles\n`);
for (const [what, slug, most] of [
  ['kept records', kept, 2],
  ['live records', live, 3],
] as const) {
  const path = `/desk/skerry-sound/${slug}`;
  const one = await alone(path);
  const many = await together(path);
  console.log(
    `a dashboard of ${what}: one reader, and all of them`.padEnd(56),
    `${one.toFixed(0)} ms ${many.toFixed(0)} ms   ×${(many / one).toFixed(2)}   asked: at most ×${most}`,
  );
}
await remove();
await closeColumnar();
await closeDatabase();
