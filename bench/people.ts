/*
 * What many people, many definitions and rules about who sees what cost: a grouped question under a rule against the same without, a desk's
 * page with two thousand people against a handful, and a start with a thousand dashboards.
 */
import { spawn } from 'node:child_process';
import { setTimeout as wait } from 'node:timers/promises';
import pg from 'pg';
import type { Asker } from '#core/ask/condition/resolve.ts';
import type { Plan } from '#core/plan/plan.ts';
import { relationWith } from '#core/plan/relation.ts';
import { demoPassword } from '#demo/people.ts';
import { closeColumnar } from '#server/kept/open.ts';
import { runPlan } from '#server/records/run.ts';
import { allDataSets } from '#server/store/data-sets.ts';
import { closeDatabase } from '#server/store/database.ts';
import { freePort } from '../scripts/cluster.mjs';
import { timed } from './measure.ts';

const origin = process.env.SLATE_URL ?? '';
const client = new pg.Client({ connectionString: process.env.SLATE_DATABASE });
await client.connect();

const median = (times: readonly number[]): number =>
  [...times].sort((a, b) => a - b)[Math.floor(times.length / 2)] ?? 0;
const p95 = (times: readonly number[]): number =>
  [...times].sort((a, b) => a - b)[Math.floor(times.length * 0.95)] ?? 0;

async function rule(): Promise<void> {
  const sailings = (await allDataSets()).find(({ name }) => name === 'Sailings');
  if (!sailings) throw new Error('the demo has no sailings');
  const { rows } = await runVessels(sailings);
  // Theirs is everything, so that both work out the same numbers of the same records.
  const person: Asker = { name: 'x', email: 'x', attributes: { vessel: rows } };
  const planFor = (isRuled: boolean): Plan => ({
    kind: 'groups',
    from: relationWith(
      {
        ...sailings.definition,
        ...(isRuled
          ? {
              rowRule: {
                field: 'vessel',
                test: { op: 'against' as const, is: 'same' as const, to: { theirs: 'Vessel' } },
              },
            }
          : {}),
      },
      sailings.id,
      {},
      { world: new Map(), clock: { now: new Date(), zone: 'Europe/London' }, person },
    ),
    zone: 'Europe/London',
    where: { all: [] },
    by: [{ field: 'route' }, { field: 'vessel' }],
    measures: [
      { name: 'count', calculation: { kind: 'count' } },
      { name: 'fares', calculation: { kind: 'sum', field: 'fares' } },
    ],
    order: [],
    limit: 100,
  });
  const [plain, ruled] = [planFor(false), planFor(true)];
  const times: { plain: number[]; ruled: number[] } = { plain: [], ruled: [] };
  for (let n = 0; n < 60; n += 1) {
    times.plain.push(await timed(() => runPlan(plain, { doing: 'measuring' })));
    times.ruled.push(await timed(() => runPlan(ruled, { doing: 'measuring' })));
  }
  const [without, within] = [median(times.plain.slice(5)), median(times.ruled.slice(5))];
  console.log(
    `a grouped pane without a rule and with one   ${without.toFixed(1)} ms, ${within.toFixed(1)} ms   ×${(within / without).toFixed(2)}   asked: at most ×1.15`,
  );
}

async function runVessels(
  sailings: Awaited<ReturnType<typeof allDataSets>>[number],
): Promise<{ rows: string[] }> {
  const { records } = await runPlan(
    {
      kind: 'groups',
      from: relationWith(
        sailings.definition,
        sailings.id,
        {},
        {
          world: new Map(),
          clock: { now: new Date(), zone: 'UTC' },
        },
      ),
      zone: 'UTC',
      where: { all: [] },
      by: [{ field: 'vessel' }],
      measures: [{ name: 'count', calculation: { kind: 'count' } }],
      order: [],
      limit: 100,
    },
    { doing: 'measuring' },
  );
  return { rows: records.map(([vessel]) => String(vessel)) };
}

async function page(): Promise<number> {
  const signIn = await fetch(`${origin}/sign-in`, {
    method: 'POST',
    redirect: 'manual',
    headers: { Origin: origin, 'Content-Type': 'application/x-www-form-urlencoded' },
    body: `email=reader@skerry.example&password=${demoPassword}`,
  });
  const cookie = signIn.headers.get('set-cookie')?.split(';')[0] ?? '';
  const open = async (): Promise<void> => {
    await (await fetch(`${origin}/follow-ups/skerry-sound`, { headers: { cookie } })).text();
  };
  for (let n = 0; n < 10; n += 1) await open();
  const times: number[] = [];
  for (let n = 0; n < 120; n += 1) {
    times.push(await timed(open));
    await wait(5);
  }
  return p95(times);
}

async function people(): Promise<void> {
  const few = await page();
  await client.query(`
    INSERT INTO users (email, name, password_hash) SELECT 'many' || n || '@skerry.example', 'Many ' || n, 'x' FROM generate_series(1, 2000) n;
    INSERT INTO groups (name) SELECT 'Many ' || n FROM generate_series(1, 200) n;
    INSERT INTO desk_roles (desk_id, user_id, role) SELECT d.id, u.id, 'reader' FROM desks d, users u WHERE u.email LIKE 'many%';
    INSERT INTO group_members (group_id, user_id)
      SELECT g.id, u.id FROM users u JOIN groups g ON abs(hashtext(u.email || g.name)) % 40 = 0 WHERE u.email LIKE 'many%';
    INSERT INTO group_roles (desk_id, group_id, role) SELECT d.id, g.id, 'reader' FROM desks d, groups g WHERE g.name LIKE 'Many %';
    ANALYZE users, desk_roles, group_members, group_roles`);
  const many = await page();
  await client.query(
    "DELETE FROM users WHERE email LIKE 'many%@skerry.example'; DELETE FROM groups WHERE name LIKE 'Many %'",
  );
  console.log(
    `a desk’s page, 95th percentile, with 4 people and with 2,000   ${few.toFixed(0)} ms, ${many.toFixed(0)} ms   ×${(many / few).toFixed(2)}   asked: the same`,
  );
}

async function start(): Promise<void> {
  await client.query(`
    INSERT INTO data_sets (id, name, source_id, definition)
      SELECT gen_random_uuid(), 'many ' || n, d.source_id, d.definition FROM generate_series(1, 500) n, (SELECT * FROM data_sets WHERE name = 'Sailings' LIMIT 1) d;
    INSERT INTO dashboards (id, desk_id, slug, position, draft, published)
      SELECT gen_random_uuid(), b.desk_id, 'many-' || n, 100 + n, b.draft, 1 FROM generate_series(1, 1000) n, (SELECT * FROM dashboards WHERE slug = 'morning-brief' LIMIT 1) b;
    INSERT INTO versions (dashboard_id, number, definition, data_sets)
      SELECT m.id, 1, v.definition, v.data_sets FROM dashboards m, (SELECT v.* FROM versions v JOIN dashboards b ON b.id = v.dashboard_id WHERE b.slug = 'morning-brief' LIMIT 1) v WHERE m.slug LIKE 'many-%'`);
  const port = await freePort();
  const began = performance.now();
  const server = spawn(process.execPath, ['scripts/serve.mjs'], {
    env: { ...process.env, PORT: String(port), SLATE_DEMO: '' },
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  });
  await new Promise((resolve) => server.once('message', resolve));
  const took = performance.now() - began;
  const first = await timed(
    async () => void (await (await fetch(`http://127.0.0.1:${port}/sign-in`)).text()),
  );
  server.kill('SIGTERM');
  await new Promise((resolve) => server.once('exit', resolve));
  await client.query(
    "DELETE FROM dashboards WHERE slug LIKE 'many-%'; DELETE FROM data_sets WHERE name LIKE 'many %'",
  );
  console.log(
    `a start with 1,000 dashboards and 500 data sets   ${(took / 1000).toFixed(1)} s, and its first page ${first.toFixed(0)} ms   asked: under 15 s`,
  );
}

await rule();
await people();
await start();
await client.end();
await closeColumnar();
await closeDatabase();
process.exit(0);
