import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import express from 'express';
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import { dataSetFromTable, usualChoice } from '#core/dataset/from-table.ts';
import { plainCall } from '#core/dataset/http/schema.ts';
import type { Request } from '#core/dataset/schema.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { passageClient, storesUser } from '#demo/stand-in-access.ts';
import { SegmentWriter } from '#engine/columnar/writer.ts';
import { isAllowed, isPublic } from '#engine/outgoing/addresses.ts';
import { type StandIns, startStandIns } from '#stand-ins/start.ts';
import { storesService } from '#stand-ins/stores.ts';
import { sourceTools } from '#testing/source-tools.ts';
import type { Connection } from './connection.ts';
import { tooDeep } from './http/answer.ts';
import type { OpenSource } from './kind.ts';
import { type Budget, outgoingClient } from './outgoing/client.ts';
import { kindOf } from './registry.ts';

/* Every kind of service against a stand-in that speaks its protocol, and is told to misbehave. */

const secrets = {
  tideKey: 'tide-key-0123456789',
  storesPassword: 'stores-password-0123',
  clientSecret: 'client-secret-0123456',
  intakeKey: 'intake-key-0123456789',
};
let services: StandIns;
let folder = '';
let spent = 0;
const told: { left: number | null; until: Date | null }[] = [];
const budget: Budget = {
  spend: async () => {
    spent += 1;
  },
  told: async (limits) => void told.push(limits),
};

beforeAll(async () => {
  services = await startStandIns({ ...secrets, port: 0, tokenSeconds: 11, cursorSeconds: 600 });
  folder = mkdtempSync(path.join(tmpdir(), 'slate-services-'));
});
afterEach(() => services.mischief.clear());
afterAll(async () => {
  await services.stop();
  rmSync(folder, { recursive: true, force: true });
});

const clientFor = (secret: string, more: Partial<Parameters<typeof outgoingClient>[0]> = {}) =>
  outgoingClient({ allowed: ['127.0.0.1'], budget, secrets: [secret], patienceMs: 1500, ...more });

function open(
  connection: Connection,
  secret: string,
  more: Partial<Parameters<typeof outgoingClient>[0]> = {},
): OpenSource {
  return kindOf(connection).open({ id: 'x', connection, secret }, sourceTools(clientFor(secret, more)));
}

const tide = (secret = secrets.tideKey, more = {}) =>
  open(
    {
      kind: 'http',
      base: `${services.address}/tide/v2`,
      auth: { kind: 'key', in: 'header', name: 'X-Tide-Key' },
    },
    secret,
    more,
  );
const passages = (secret = secrets.clientSecret) =>
  open(
    {
      kind: 'http',
      base: `${services.address}/passage-service`,
      auth: {
        kind: 'client',
        tokenAddress: `${services.address}/passage-service/token`,
        client: passageClient,
      },
    },
    secret,
  );
const stores = (secret = secrets.storesPassword) =>
  open(
    { kind: 'odata', base: `${services.address}/stores`, auth: { kind: 'basic', user: storesUser } },
    secret,
  );

const http = (
  at: string,
  query: { name: string; value: string }[] = [],
  more: object = {},
): Extract<Request, { kind: 'http' }> => ({
  kind: 'http',
  call: { ...plainCall(at), query },
  format: 'auto',
  records: '$',
  paging: { kind: 'none' },
  columns: [],
  ...more,
});
const found = (source: OpenSource, request: Request) => source.try({ request, inputs: {}, find: true });
const why = async (work: Promise<unknown>): Promise<string> => {
  try {
    await work;
    return 'it worked';
  } catch (thrown) {
    const { code, doing, why: reason } = problemOf(thrown, 'testing');
    return `${code}: ${doing}: ${reason}`;
  }
};

/** Fetches a request, and gives its records as texts. */
async function fetched(source: OpenSource, request: Request, more: object = {}) {
  const { columns } = request;
  const lookUps = request.kind === 'table' ? request.lookUps.flatMap(({ take }) => take) : [];
  const fields = [...columns, ...lookUps].map(({ name, type }) => ({ name, type }));
  const writer = await SegmentWriter.open(
    folder,
    fields.map(({ name }) => name),
  );
  try {
    const result = await source.fetch(writer, {
      request,
      inputs: {},
      fields,
      position: null,
      doing: 'fetching',
      progress: async () => undefined,
      ...more,
    });
    return { ...result, rows: await writer.first(100_000), names: fields.map(({ name }) => name) };
  } finally {
    writer.close();
  }
}

describe('an HTTP API', () => {
  test('is proved with its credential, and says so when that is wrong', async () => {
    const report = await tide().test('stations');
    expect(report.facts).toContainEqual({ name: 'Credential', value: 'taken' });
    expect(Math.abs(report.clockSkewMs ?? Number.NaN)).toBeLessThan(2000);
    const reason = await why(tide('a-wrong-key-9876').test('stations'));
    expect(reason).toContain('credential: asking');
    expect(reason).not.toContain('a-wrong-key-9876');
    expect(await why(passages('wrong-secret-99').test('passages'))).toMatch(/^credential: getting a token/);
  });

  test('has its records and its paging found from one answer, and every page is fetched', async () => {
    const { request, fields, records, candidates } = await found(
      tide(),
      http('observations', [
        { name: 'hours', value: '5' },
        { name: 'per_page', value: '50' },
      ]),
    );
    expect(request).toMatchObject({
      records: '$.data.items[*]',
      paging: { kind: 'page', parameter: 'page', from: 1, size: { parameter: 'per_page', count: 50 } },
    });
    expect(candidates?.map(({ path: at }) => at)).toEqual([
      '$.data.items[*]',
      '$.data.items[*].readings[*]',
      '$',
    ]);
    expect(fields).toContainEqual({ name: 'level_m', type: 'decimal' });
    expect(fields).toContainEqual({ name: 'observed_at', type: 'instant' });
    expect(fields).toContainEqual({ name: 'readings', type: 'nested' });
    expect(records).toHaveLength(50);
    const all = await fetched(tide(), request);
    expect(all.rows).toHaveLength(180);
    expect(new Set(all.rows.map(([id]) => id)).size).toBe(180);
    expect(all.calls).toBe(4);
  });

  test('with a cursor and a token is followed to its end, also when the token runs out', async () => {
    const service = passages();
    const { request } = await found(service, http('passages'));
    expect(request).toMatchObject({ paging: { kind: 'cursor', parameter: 'cursor' } });
    const all = await fetched(service, request);
    expect(new Set(all.rows.map(([reference]) => reference)).size).toBe(600);
    services.mischief.tell('passages', { kind: 'status', status: 401 });
    expect((await found(service, http('passages'))).records.length).toBe(50);
  });

  test('that is busy is asked again when it says', async () => {
    services.mischief.tell(
      'tide',
      { kind: 'status', status: 429, after: '1' },
      { kind: 'status', status: 503 },
    );
    const started = performance.now();
    expect((await found(tide(), http('stations'))).records).toHaveLength(6);
    expect(performance.now() - started).toBeGreaterThan(950);
    services.mischief.tell('tide', { kind: 'status', status: 429, after: '3600' });
    expect(await why(found(tide(), http('stations')))).toContain(
      'too-much: trying the request: the service asks for no more calls until',
    );
    expect(told.at(-1)?.until?.getTime()).toBeGreaterThan(Date.now() + 3_500_000);
  });

  test.each([
    [
      'a web page with status 200',
      { kind: 'page' as const },
      'the answer is a web page (“Sign in”), not records',
    ],
    ['an answer that is cut off', { kind: 'cut' as const }, 'cut off half-way'],
    ['a bare number', { kind: 'text' as const, text: '42' }, 'a bare value (42)'],
    ['an empty list', { kind: 'text' as const, text: '[]' }, 'an empty list'],
    [
      '300 levels',
      { kind: 'text' as const, text: `${'['.repeat(300)}${']'.repeat(300)}` },
      `more than ${tooDeep} levels deep`,
    ],
    ['what is no JSON', { kind: 'text' as const, text: '{"a": nope}' }, 'not JSON'],
    ['gzip that expands a thousandfold', { kind: 'bomb' as const }, 'larger than 64 MB, unpacked'],
    ['an error of its own', { kind: 'status' as const, status: 418 }, 'the service answered 418'],
    [
      'a way to an inside address',
      { kind: 'redirect' as const, to: 'http://169.254.169.254/latest' },
      'stations sends on to http://169.254.169.254/latest, where 169.254.169.254 is inside this network',
    ],
  ])('that answers %s says so', async (_, trick, said) => {
    services.mischief.tell('tide', trick);
    expect(await why(found(tide(), http('stations')))).toContain(said);
  });

  test('whose answer has nothing where the records should be says so, and takes no columns away', async () => {
    const request = http('stations', [], { records: '$.harbours[*]' });
    expect(await why(tide().try({ request, inputs: {} }))).toContain('there are no records at that place');
  });

  test('that is slow, or drops the connection, is a problem in time and not before it was tried again', async () => {
    services.mischief.tell('tide', { kind: 'drop' }, { kind: 'drop' });
    expect((await found(tide(), http('stations'))).records).toHaveLength(6);
    services.mischief.tell('tide', ...Array.from({ length: 4 }, () => ({ kind: 'slow' as const, ms: 4000 })));
    expect(await why(found(tide(undefined, { patienceMs: 300 }), http('stations')))).toContain('time-out');
  });

  test('keeps every digit of its numbers', async () => {
    services.mischief.tell('tide', {
      kind: 'text',
      text: '[{"id": 9007199254740993, "fare": 12345678901234567.89, "short": 1.50}]',
    });
    const { records, fields } = await found(tide(), http('stations'));
    expect(records).toEqual([['9007199254740993', '12345678901234567.89', '1.5']]);
    expect(fields.map(({ type }) => type)).toEqual(['integer', 'decimal', 'decimal']);
  });

  test('gives NDJSON and CSV as well', async () => {
    services.mischief.tell('tide', {
      kind: 'text',
      text: '{"a":1}\n{"a":2}\n',
      type: 'application/x-ndjson',
    });
    expect((await found(tide(), http('stations'))).records).toEqual([['1'], ['2']]);
    services.mischief.tell('tide', { kind: 'text', text: 'a,b\n1,"x, y"\n', type: 'text/csv' });
    expect((await found(tide(), http('stations'))).records).toEqual([['1', 'x, y']]);
  });

  test('whose field changes its type keeps it as text, with examples', async () => {
    const rows = Array.from({ length: 20 }, (_, at) => ({ n: at === 15 ? 'none' : at }));
    services.mischief.tell('tide', { kind: 'text', text: JSON.stringify(rows) });
    const { fields, mixed } = await found(tide(), http('stations'));
    expect(fields).toEqual([{ name: 'n', type: 'text' }]);
    expect(mixed).toEqual([{ name: 'n', type: 'integer', others: 1, examples: ['none'] }]);
  });
});

describe('a service that does not keep to its word', () => {
  let odd: Server;
  let at = '';
  let date: Date | null = null;
  let pages: (page: number) => { body: unknown; link?: string };
  beforeAll(async () => {
    odd = createServer((request, response) => {
      const url = new URL(request.url ?? '/', 'http://127.0.0.1');
      const { body, link } = pages(Number(url.searchParams.get('page') ?? 1));
      if (link) response.setHeader('Link', link);
      if (date) response.setHeader('Date', date.toUTCString());
      response.setHeader('Content-Type', 'application/json');
      response.end(JSON.stringify(body));
    });
    await new Promise<void>((resolve) => odd.listen(0, '127.0.0.1', resolve));
    const address = odd.address();
    at = `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`;
  });
  afterAll(() => odd.close());
  const service = () => open({ kind: 'http', base: at, auth: { kind: 'none' } }, '');
  const columns = [{ column: '/id', name: 'id', type: 'integer' as const }];
  const numbered = http('', [], {
    records: '$.items[*]',
    paging: { kind: 'page', parameter: 'page', from: 1 },
    columns,
  });

  test('and whose clock is wrong says by how much, and gives its records all the same', async () => {
    pages = () => ({ body: { items: [{ id: 1 }] } });
    date = new Date(Date.now() - 3 * 3_600_000);
    try {
      const { clockSkewMs } = await service().test();
      expect(Math.abs((clockSkewMs ?? 0) + 3 * 3_600_000)).toBeLessThan(2500);
      const one = http('', [], { records: '$.items[*]', paging: { kind: 'none' }, columns });
      expect((await fetched(service(), one)).rows).toEqual([['1']]);
    } finally {
      date = null;
    }
  });

  test('and goes round in circles is stopped', async () => {
    pages = () => ({ body: { items: [{ id: 1 }] } });
    expect(await why(fetched(service(), numbered))).toContain('the same as the one before');
    pages = (page) => ({ body: { items: [{ id: page }], next: page === 1 ? '?page=2' : '?page=1' } });
    const next = http('', [{ name: 'page', value: '1' }], {
      records: '$.items[*]',
      paging: { kind: 'next', at: '$.next' },
      columns,
    });
    expect(await why(fetched(service(), next))).toContain('page 3 is one that was fetched before');
  });

  test('and changes its shape on page 7 is stopped, with the page named', async () => {
    pages = (page) => ({ body: page === 7 ? { results: [{ id: page }] } : { items: [{ id: page }] } });
    expect(await why(fetched(service(), numbered))).toContain(
      'page 7: the answer has another shape than the first',
    );
  });

  test('and never ends is left when there are too many records', async () => {
    pages = (page) => ({
      body: { items: Array.from({ length: 50 }, (_, index) => ({ id: page * 50 + index })) },
    });
    expect(await why(fetched(service(), numbered, { most: 1000 }))).toContain('more than 1,000 records');
  });

  test('and sends on to another host is not followed with what proves who asks', async () => {
    pages = () => ({ body: { items: [{ id: 1 }] }, link: '<http://elsewhere.example/steal>; rel="next"' });
    expect(
      await why(
        fetched(service(), http('', [], { records: '$.items[*]', paging: { kind: 'link' }, columns })),
      ),
    ).toContain('at another host');
  });

  test('and dies on page 30 leaves an error, not half of the records for all', async () => {
    pages = (page) => {
      if (page >= 30) odd.closeAllConnections();
      return { body: { items: [{ id: page }] } };
    };
    expect(await why(fetched(service(), numbered))).toMatch(/unreachable: fetching, page 30/);
  });
});

describe('outgoing calls', () => {
  test.each([
    '127.0.0.1',
    '10.1.2.3',
    '172.16.0.1',
    '192.168.1.1',
    '169.254.169.254',
    '0.0.0.0',
    '100.64.0.1',
    '::1',
    'fe80::1',
    'fc00::1',
    '::ffff:10.0.0.1',
    '224.0.0.1',
    '255.255.255.255',
    'nonsense',
  ])('do not reach %s', (address) => {
    expect(isPublic(address)).toBe(false);
  });
  test('reach what is public, and what is listed', () => {
    expect(isPublic('203.0.114.7')).toBe(true);
    expect(isPublic('2a00:1450::5')).toBe(true);
    expect(isAllowed('127.0.0.1', 4601, ['127.0.0.1:4601'])).toBe(true);
    expect(isAllowed('127.0.0.1', 4602, ['127.0.0.1:4601'])).toBe(false);
    expect(isAllowed('[::1]', 80, ['[::1]:80'])).toBe(true);
  });
  test('to a name that leads inside are refused, also when it only does so the second time', async () => {
    const at = (address: string) => [{ address, family: 4 }];
    let calls = 0;
    const rebinding = async () => at(++calls === 1 ? '203.0.114.7' : '127.0.0.1');
    const { port } = new URL(services.address);
    const call = clientFor('', { allowed: [], resolve: rebinding }).call({
      address: `http://tides.example:${port}/tide/v2/stations`,
      doing: 'asking',
    });
    expect(await why(call)).toContain('forbidden');
    expect(calls).toBe(2);
  });
  test('are counted, redirects and repeats too', async () => {
    spent = 0;
    services.mischief.tell(
      'tide',
      { kind: 'status', status: 503, after: '0' },
      { kind: 'redirect', to: '/tide/v2/stations' },
    );
    await found(tide(), http('warnings'));
    expect(spent).toBe(3);
  });
  test('never show a secret that a service repeats', async () => {
    const secret = 'repeated-key-123';
    const parrot = createServer((request, response) => {
      response
        .writeHead(403, { 'Content-Type': 'text/plain' })
        .end(`no such key: ${request.headers['x-key']}`);
    }).listen(0, '127.0.0.1');
    await new Promise((resolve) => parrot.once('listening', resolve));
    const address = parrot.address();
    const base = `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`;
    const kind = open({ kind: 'http', base, auth: { kind: 'key', in: 'header', name: 'X-Key' } }, secret);
    const reason = await why(kind.test('x'));
    parrot.close();
    expect(reason).toContain('no such key: …');
    expect(reason).not.toContain(secret);
  });
  test('never tell a secret in an error', async () => {
    const secret = 'k3y with spaces';
    const nobody = createServer().listen(0, '127.0.0.1');
    await new Promise((resolve) => nobody.once('listening', resolve));
    const address = nobody.address();
    const port = typeof address === 'object' && address ? address.port : 0;
    await new Promise((resolve) => nobody.close(resolve));
    const kind = open(
      { kind: 'http', base: `http://127.0.0.1:${port}`, auth: { kind: 'key', in: 'query', name: 'key' } },
      secret,
    );
    const said = await why(kind.test('x'));
    expect(said).toContain('refused');
    expect(said).not.toContain('k3y');
  });
});

describe('an OData service', () => {
  const table = async (name: string, lookUps = true) => {
    const tables = (await stores().discover?.()) ?? [];
    const one = tables.find((each) => each.name === name);
    if (!one) throw new Error('no such set');
    const choice = usualChoice(one, tables);
    return dataSetFromTable(
      '5a1e0000-0000-4000-8000-000000000001',
      one,
      tables,
      lookUps ? choice : { ...choice, lookUps: [] },
    );
  };

  test('is proved by its metadata, and says so when the password is wrong', async () => {
    expect((await stores().test()).facts).toContainEqual({ name: 'Entity sets', value: '4' });
    expect(await why(stores('wrong-password').test())).toContain('credential');
    services.mischief.tell('stores', { kind: 'page' });
    expect(await why(stores().test())).toContain('not OData metadata');
  });

  test('tells its sets, types, keys and navigations', async () => {
    const lines = await table('RequisitionLines');
    expect(lines.key).toBe('Id');
    expect(lines.fields.find(({ name }) => name === 'UnitPrice')?.type).toBe('decimal');
    expect(lines.request).toMatchObject({ lookUps: [{ via: 'Requisition' }, { via: 'Part' }] });
  });

  test('is asked only for what is needed, to the last digit, over all its pages', async () => {
    const { request } = await table('RequisitionLines');
    const tried = await stores().try({ request, inputs: {} });
    expect(tried.records).toHaveLength(50);
    const all = await fetched(stores(), request);
    expect(all.rows).toHaveLength(720);
    expect(all.calls).toBe(8);
    const price = all.rows[0]?.[all.names.indexOf('UnitPrice')];
    expect(price).toMatch(/^\d+\.\d{2}$/);
    expect(all.rows.every((row) => row[all.names.indexOf('Part')] !== null)).toBe(true);
  });

  test('that does not count gives the same records', async () => {
    const { request } = await table('RequisitionLines');
    const app = express();
    const { mischief } = services;
    const user = storesUser;
    app.use(
      storesService({
        user,
        password: secrets.storesPassword,
        now: () => new Date(),
        mischief,
        withoutCounts: true,
      }),
    );
    const server = app.listen(0, '127.0.0.1');
    await new Promise((resolve) => server.once('listening', resolve));
    const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    const uncounted = open({ kind: 'odata', base, auth: { kind: 'basic', user } }, secrets.storesPassword);
    expect(await fetched(uncounted, request)).toEqual(await fetched(stores(), request));
    expect((await uncounted.try({ request, inputs: {} })).records).toHaveLength(50);
    server.close();
  });

  test('leaves out records that a filter leaves out, as far as it can be told', async () => {
    const { request } = await table('Requisitions', false);
    const some = await fetched(stores(), request, {
      where: {
        all: [
          { field: 'State', test: { op: 'is', values: ['OPEN'] } },
          { field: 'Id', test: { op: 'atMost', value: '100' } },
          { field: 'Note', test: { op: 'contains', text: 'x' } },
        ],
      },
    });
    expect(some.rows.length).toBeGreaterThan(5);
    expect(
      some.rows.every((row) => row[some.names.indexOf('State')] === 'open' && Number(row[0]) <= 100),
    ).toBe(true);
    const quoted = await fetched(stores(), request, {
      where: { field: 'Vessel', test: { op: 'is', values: ["O'Brien') or (Id gt 0"] } },
    });
    expect(quoted.rows).toHaveLength(0);
  });

  test('that fails half-way, or holds no list, is a problem', async () => {
    const { request } = await table('RequisitionLines', false);
    services.mischief.tell('stores', { kind: 'good' }, { kind: 'good' }, { kind: 'status', status: 500 });
    expect(await why(fetched(stores(), request))).toContain('page 3: the service answered 500');
    services.mischief.tell('stores', { kind: 'text', text: '{"d": []}' });
    expect(await why(fetched(stores(), request))).toContain('no list of records');
    services.mischief.tell('stores', {
      kind: 'text',
      text: '{"value": [], "@odata.nextLink": "http://elsewhere.example/"}',
    });
    expect(await why(fetched(stores(), request))).toContain('another host');
  });
});
