import { randomUUID } from 'node:crypto';
import type { Server } from 'node:http';
import express from 'express';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { morningBrief } from '#demo/dashboards/morning-brief.ts';
import { zone } from '#demo/line.ts';
import { readMetadata } from '#sources/odata/metadata.ts';
import { soundFixture } from '../../testing/sound.ts';
import { addAccessKey, listAccessKeys, removeAccessKey } from '../store/access-keys.ts';
import { removeAccount } from '../store/accounts.ts';
import { addDashboard, publish } from '../store/dashboards.ts';
import { addDataSet, findDataSet, saveDataSet } from '../store/data-sets.ts';
import { addDesk } from '../store/desks.ts';
import { addUser, whoseSignIn } from '../store/people.ts';
import { resultRoutes } from './routes.ts';

const board = randomUUID();
let sound: Awaited<ReturnType<typeof soundFixture>>;
let server: Server;
let at = '';
const ids: Record<string, string> = {};
const keys: Record<string, string> = {};

beforeAll(async () => {
  sound = await soundFixture(new Date());
  for (const [id, definition] of sound.dataSets)
    await addDataSet({ id, name: definition.noun.many, definition, by: null });
  const desk = await addDesk({ name: 'Sound', zone });
  await addDashboard({
    id: board,
    deskId: desk.id,
    slug: 'morning',
    draft: morningBrief(sound.ids),
    by: null,
  });
  await publish(board, null, null);
  for (const [name, role] of [
    ['magnus', 'analyst'],
    ['torquil', 'reader'],
  ] as const) {
    const email = `${name}@skerry.example`;
    await addUser({ email, name, password: 'low-water', roles: { [desk.id]: role } });
    ids[name] = (await whoseSignIn(email, 'low-water')) ?? '';
    keys[name] = await addAccessKey(ids[name] ?? '', {
      name: 'tests',
      dashboards: [board],
      dataSets: [sound.ids.sailings, sound.ids.incidents],
      expiresAt: null,
    });
  }
  const app = express();
  app.use('/results', resultRoutes());
  server = app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const address = server.address();
  at = `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}/results`;
});
afterAll(async () => {
  server.close();
  await sound.end();
});

const get = (path: string, key = keys.magnus, headers: Record<string, string> = {}) =>
  fetch(at + path, { headers: { ...(key ? { Authorization: `Bearer ${key}` } : {}), ...headers } });
const counted = async (where: string): Promise<number> =>
  Number((await sound.client.query(`SELECT count(*) AS n FROM sailings s WHERE ${where}`)).rows[0].n);

describe('a key', () => {
  test('is needed, for everything but what there is to ask for; as a token or as a password', async () => {
    for (const path of [
      '/',
      '/odata/',
      '/odata/$metadata',
      '/odata/sailings',
      `/data-sets/${sound.ids.sailings}/records.json`,
    ]) {
      for (const key of ['', 'sg-x', 'x'.repeat(40)]) expect((await get(path, key)).status, path).toBe(401);
      const basic = Buffer.from(`anybody:${keys.magnus}`).toString('base64');
      expect((await get(path, '', { Authorization: `Basic ${basic}` })).status, path).not.toBe(401);
    }
    expect((await get('/open-api.json', '')).status).toBe(200);
    // Only its hash is kept.
    const [{ usedAt } = { usedAt: null }] = await listAccessKeys(ids.magnus ?? '');
    expect(usedAt).not.toBeNull();
  });

  test('reaches what it names and its person may see, and nothing else', async () => {
    const of = async (key: string | undefined) =>
      (await (await get('/', key)).json()) as {
        dataSets: { id: string }[];
        dashboards: { id: string; panes: unknown[] }[];
      };
    const [mine, theirs] = [await of(keys.magnus), await of(keys.torquil)];
    expect(mine.dataSets.map(({ id }) => id).sort()).toEqual(
      [sound.ids.incidents, sound.ids.sailings].sort(),
    );
    expect(mine.dashboards[0]?.panes.length).toBeGreaterThan(0);
    // A reader builds nothing: whole data sets are not theirs, though the key names them.
    expect([theirs.dataSets, theirs.dashboards.map(({ id }) => id)]).toEqual([[], [board]]);
    expect((await get(`/data-sets/${sound.ids.sailings}/records.json`, keys.torquil)).status).toBe(404);
    expect((await get('/odata/sailings', keys.torquil)).status).toBe(404);
    expect((await get(`/data-sets/${sound.ids.orders}/records.json`)).status).toBe(404);
    for (const path of [
      '/data-sets/x/records.json',
      '/dashboards/x/panes/y.json',
      '/odata/nothing',
      '/elsewhere',
    ])
      expect((await get(path)).status, path).toBe(404);
    expect(
      (
        await fetch(`${at}/odata/sailings`, {
          method: 'POST',
          headers: { Authorization: `Bearer ${keys.magnus}` },
        })
      ).status,
    ).toBe(404);
  });

  test('ends when it is ended, at its time, and with its person', async () => {
    const made = async (expiresAt: Date | null) =>
      addAccessKey(ids.torquil ?? '', { name: 'short', dashboards: [board], dataSets: [], expiresAt });
    expect((await get('/', await made(new Date(Date.now() - 1000)))).status).toBe(401);
    const one = await made(null);
    expect((await get('/', one)).status).toBe(200);
    for (const { id, name } of await listAccessKeys(ids.torquil ?? ''))
      if (name === 'short') await removeAccessKey(ids.magnus ?? '', id);
    expect((await get('/', one)).status).toBe(200);
    for (const { id, name } of await listAccessKeys(ids.torquil ?? ''))
      if (name === 'short') await removeAccessKey(ids.torquil ?? '', id);
    expect((await get('/', one)).status).toBe(401);
    await addUser({ email: 'una@skerry.example', name: 'Una', password: 'low-water' });
    const una = (await whoseSignIn('una@skerry.example', 'low-water')) ?? '';
    const theirs = await addAccessKey(una, { name: 'x', dashboards: [board], dataSets: [], expiresAt: null });
    expect((await get('/', theirs)).status).toBe(200);
    await addUser({
      email: 'boss@skerry.example',
      name: 'Boss',
      password: 'low-water',
      isAdministrator: true,
    });
    await removeAccount(una);
    expect((await get('/', theirs)).status).toBe(401);
  });
});

describe('a service that spreadsheets connect to', () => {
  const values = async (query: string) => {
    const answer = await get(`/odata/sailings?${new URLSearchParams(query)}`);
    const body = await answer.text();
    if (answer.status !== 200) throw new Error(`${answer.status} ${body}`);
    return JSON.parse(body) as {
      value: Record<string, unknown>[];
      '@odata.count'?: number;
      '@odata.nextLink'?: string;
    };
  };

  test('says what there is, as clients of ours read it', async () => {
    const found = readMetadata(await (await get('/odata/$metadata')).text(), 'reading');
    const sailings = JSON.stringify(found);
    expect(sailings).toContain('sailings');
    expect(sailings).toContain('delay_minutes');
    const service = (await (await get('/odata/')).json()) as { value: { name: string }[] };
    expect(service.value.map(({ name }) => name).sort()).toEqual(['incidents', 'sailings']);
  });

  test.each([
    ["status eq 'late'", "status = 'late'"],
    ["status ne 'late'", "status <> 'late'"],
    ['delay_minutes gt 20', 'delay_minutes > 20'],
    ['delay_minutes ge 20 and delay_minutes le 30', 'delay_minutes BETWEEN 20 AND 30'],
    ['not (delay_minutes gt 20)', 'NOT (delay_minutes > 20)'],
    ['not (delay_minutes gt 20 or passengers lt 50)', 'NOT (delay_minutes > 20 OR passengers < 50)'],
    ['cause eq null', 'cause IS NULL'],
    ['cause ne null', 'cause IS NOT NULL'],
    ["cause ne 'tide'", "cause IS DISTINCT FROM 'tide'"],
    ["cause in ('tide','crew')", "cause IN ('tide', 'crew')"],
    ["contains(reference,'252')", "reference LIKE '%252%'"],
    ["startswith(reference,'SK-25')", "reference LIKE 'SK-25%'"],
    ["not contains(cause,'i')", "cause NOT ILIKE '%i%'"],
    ["tolower(cause) eq 'TIDE'", "lower(cause) = 'tide'"],
    ['fares gt 1234.5', 'fares > 1234.5'],
    ['departs_at lt 2026-01-01T00:00:00Z', "departs_at < '2026-01-01T00:00:00Z'"],
    [
      "(status eq 'late' or status eq 'cancelled') and passengers gt 10",
      "status IN ('late', 'cancelled') AND passengers > 10",
    ],
  ])('keeps %s as the database does', async (filter, where) => {
    const answer = await get(`/odata/sailings/$count?${new URLSearchParams({ $filter: filter })}`);
    expect(Number(await answer.text())).toBe(await counted(where));
  });

  test('gives pages that name the next, all of them together everything once', async () => {
    const seen = new Set<unknown>();
    let next = `${at}/odata/sailings?${new URLSearchParams({ $select: 'id', $filter: 'delay_minutes gt 20', $count: 'true' })}`;
    let pages = 0;
    let count = 0;
    while (next) {
      const answer = await fetch(next, {
        headers: { Authorization: `Bearer ${keys.magnus}`, Prefer: 'odata.maxpagesize=300' },
      });
      const body = (await answer.json()) as Awaited<ReturnType<typeof values>>;
      for (const { id } of body.value) seen.add(id);
      count = body['@odata.count'] ?? count;
      next = body['@odata.nextLink'] ?? '';
      pages += 1;
    }
    expect(pages).toBeGreaterThan(2);
    expect(seen.size).toBe(await counted('delay_minutes > 20'));
    expect(count).toBe(seen.size);
    const top = await values('$top=7&$skip=3&$orderby=id desc&$select=id');
    const { rows } = await sound.client.query(
      'SELECT id::float8 AS id FROM sailings ORDER BY sailings.id DESC OFFSET 3 LIMIT 7',
    );
    expect(top.value).toEqual(rows);
    expect(top['@odata.nextLink']).toBeUndefined();
  });

  test('gives one record by its key, and numbers with every digit', async () => {
    const { rows } = await sound.client.query(
      'SELECT id::text, fares::text, reference FROM sailings WHERE fares IS NOT NULL LIMIT 1',
    );
    const [{ id, fares, reference }] = rows;
    const text = await (await get(`/odata/sailings(${id})`)).text();
    expect(text).toContain(`"fares":${fares}`);
    expect(JSON.parse(text).reference).toBe(reference);
    const exact = await (
      await get(`/odata/sailings(${id})`, keys.magnus, { Accept: 'application/json;IEEE754Compatible=true' })
    ).text();
    expect(exact).toContain(`"fares":"${fares}"`);
    expect((await get('/odata/sailings(0)')).status).toBe(404);
    expect((await get("/odata/sailings('x')")).status).toBe(404);
  });

  test.each([
    '$apply=aggregate(id with sum as s)',
    '$expand=incidents',
    '$filter=nothing eq 1',
    '$filter=status eq',
    "$filter=status eq 'late",
    '$filter=status eq 5',
    '$filter=delay_minutes eq soon',
    '$filter=delay_minutes like 5',
    `$filter=${'('.repeat(200)}`,
    "$filter=status eq 'a') or (1 eq 1",
    '$orderby=id sideways',
    '$top=-1',
    '$select=nothing',
  ])('refuses %s with what is wrong, instead of answering something else', async (query) => {
    const answer = await get(`/odata/sailings?${query}`);
    expect(answer.status).toBe(400);
    expect(((await answer.json()) as { error: { message: string } }).error.message).toMatch(/\.$/);
  });
});

describe('files', () => {
  test('hold what the person of the key may see', async () => {
    const stored = await findDataSet(sound.ids.sailings);
    if (!stored) throw new Error('the fixture has no sailings');
    const rowRule = {
      field: 'vessel',
      test: { op: 'against' as const, is: 'same' as const, to: { theirs: 'Vessel' } },
    };
    await saveDataSet({ ...stored, definition: { ...stored.definition, rowRule }, by: null });
    const lines = async (key: string | undefined) => {
      const { dashboards } = (await (await get('/', key)).json()) as {
        dashboards: { panes: { title: string; records: string }[] }[];
      };
      const late = dashboards[0]?.panes.find(({ title }) => title.startsWith('Late sailings'));
      const answer = await fetch(
        at.replace('/results', '') + (late?.records ?? '').replace('.json', '.ndjson'),
        {
          headers: { Authorization: `Bearer ${key}` },
        },
      );
      expect(answer.headers.get('content-type')).toContain('ndjson');
      return (await answer.text()).split('\n').filter(Boolean).length;
    };
    // Nothing is known of Torquil: no vessel is his. Whoever builds sees all.
    expect(await lines(keys.torquil)).toBe(0);
    expect(await lines(keys.magnus)).toBeGreaterThan(0);
  });
});
