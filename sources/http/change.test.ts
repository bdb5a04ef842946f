import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import type { Change } from '#core/change/change.ts';
import type { ChangeCalls } from '#core/dataset/change/schema.ts';
import type { Column } from '#core/dataset/schema.ts';
import { passageChanger, passageClient } from '#demo/stand-in-access.ts';
import { type StandIns, startStandIns } from '#stand-ins/start.ts';
import { sourceTools } from '#testing/source-tools.ts';
import type { ChangeResult, Changing } from '../change.ts';
import type { Connection } from '../connection.ts';
import { outgoingClient } from '../outgoing/client.ts';
import { kindOf } from '../registry.ts';

/* Changes of an HTTP API's records: against the stand-in, and against a service that notes what it was sent. */

const secret = 'client-secret-0123456';
let services: StandIns;
let parrot: Server;
let heard: { method: string; path: string; headers: Record<string, unknown>; body: unknown }[] = [];
/** What the parrot says a record is. */
let record: Record<string, unknown> | null = null;

beforeAll(async () => {
  services = await startStandIns({
    tideKey: 'tide-key-0123456789',
    storesPassword: 'stores-password-0123',
    clientSecret: secret,
    intakeKey: 'intake-key-0123456789',
    port: 0,
  });
  parrot = createServer((request, response) => {
    let text = '';
    request.on('data', (piece) => {
      text += piece;
    });
    request.on('end', () => {
      const { method = '', url = '', headers } = request;
      if (method !== 'GET') {
        heard.push({ method, path: url, headers, body: text === '' ? null : JSON.parse(text) });
        if (method === 'DELETE') record = null;
        else record = { ...record, ...(text === '' ? {} : JSON.parse(text)) };
      }
      response.setHeader('Content-Type', 'application/json');
      if (method === 'POST') response.setHeader('Location', '/orders/A%2F9');
      response.statusCode = method === 'GET' && record === null ? 404 : 200;
      response.end(method === 'GET' ? JSON.stringify({ data: [record] }) : '{}');
    });
  });
  await new Promise<void>((resolve) => parrot.listen(0, '127.0.0.1', resolve));
});
afterEach(() => {
  services.mischief.clear();
  heard = [];
});
afterAll(async () => {
  parrot.close();
  await services.stop();
});

function source(connection: Connection, user: string) {
  const budget = { spend: async () => undefined, told: async () => undefined };
  const { changes } = kindOf(connection).open(
    { id: 'x', connection, secret, changer: { user, secret } },
    sourceTools(outgoingClient({ allowed: ['127.0.0.1'], budget, secrets: [secret], patienceMs: 1500 })),
  );
  if (!changes) throw new Error('it takes no changes');
  return changes;
}

const changing = (
  calls: ChangeCalls,
  columns: Column[],
  changes: readonly Change[],
  more: Partial<Changing> = {},
): Changing => ({
  place: { kind: 'calls', calls, columns, key: columns[0] as Column },
  columns,
  changes,
  once: 'once',
  doing: 'changing passages',
  beforeEnd: async () => undefined,
  ...more,
});

describe('a passage', () => {
  const calls: ChangeCalls = {
    read: { path: 'passages/{passage_ref}', record: '$' },
    update: { method: 'PATCH', path: 'passages/{passage_ref}' },
  };
  const columns: Column[] = [
    { column: '/passage_ref', name: 'passage_ref', type: 'text' },
    { column: '/state', name: 'state', type: 'text' },
    { column: '/sailing', name: 'sailing', type: 'text' },
  ];
  const run = (
    changes: readonly Change[],
    more: Partial<Changing> = {},
    user = passageChanger,
  ): Promise<ChangeResult> => {
    const base = `${services.address}/passage-service`;
    const auth = { kind: 'client', tokenAddress: `${base}/token`, client: passageClient } as const;
    return source({ kind: 'http', base, auth }, user).change(changing(calls, columns, changes, more));
  };
  const of = (nth: number) => {
    const passage = services.line.passages(new Date())[nth];
    if (!passage) throw new Error('there is no such passage');
    return passage;
  };
  const move = (nth: number, sailing: string, expected: Record<string, string> = {}): Change => ({
    way: 'update',
    key: of(nth).passage_ref,
    expected,
    values: { sailing },
  });

  test('is moved by its own client alone, as it was seen, and read back', async () => {
    const { sailing } = of(20);
    const done = await run([move(20, 'SK-20001', { sailing })]);
    expect(done).toMatchObject({
      state: 'done',
      records: [{ before: { sailing }, after: { sailing: 'SK-20001' } }],
    });
    expect(await run([move(20, 'SK-20002', { sailing })])).toMatchObject({
      state: 'conflict',
      conflicts: [{ is: { sailing: 'SK-20001' } }],
    });
    await expect(run([move(21, 'SK-20001')], {}, passageClient)).rejects.toThrow('may only read');
    await expect(run([move(20, 'nowhere')])).rejects.toThrow('422');
  });

  test('that somebody moves in between is left as they have it', async () => {
    const crossed = run([move(22, 'SK-20001')], {
      beforeEnd: async () => {
        await run([move(22, 'SK-20007')]);
      },
    });
    await expect(crossed).rejects.toThrow('somebody changed it meanwhile');
  });

  test('whose answer is lost is found to be moved, or not', async () => {
    // A token, the passage, and then the change itself.
    const good = { kind: 'good' } as const;
    await run([move(23, 'SK-20001')]);
    services.mischief.tell('passages', good, { kind: 'drop after' });
    expect(await run([move(23, 'SK-20002')])).toMatchObject({ state: 'done' });
    services.mischief.tell('passages', good, { kind: 'status', status: 502 });
    await expect(run([move(23, 'SK-20003')])).rejects.toThrow('502');
  });
});

describe('a call', () => {
  const columns: Column[] = [
    { column: '/id', name: 'id', type: 'text' },
    { column: '/at/place', name: 'place', type: 'text' },
    { column: '/at/berth', name: 'berth', type: 'integer' },
    { column: '/cost', name: 'cost', type: 'decimal' },
    { column: '/urgent', name: 'urgent', type: 'boolean' },
  ];
  const read = { path: 'orders/{id}', record: '$.data[*]' };
  const run = (
    calls: Partial<ChangeCalls>,
    change: Change,
    more: Partial<Changing> = {},
  ): Promise<ChangeResult> => {
    const base = `http://127.0.0.1:${(parrot.address() as AddressInfo).port}`;
    const connection = { kind: 'http', base, auth: { kind: 'none' } } as const;
    return source(connection, '').change(changing({ read, ...calls }, columns, [change], more));
  };

  test('sends the members that are set as what they are, and blank as null', async () => {
    record = { id: 'A/1', at: { place: 'north', berth: 2 }, cost: 1, urgent: true };
    await run(
      { update: { method: 'PATCH', path: 'orders/{id}' } },
      {
        way: 'update',
        key: 'A/1',
        expected: { berth: '2' },
        values: { place: 'so"uth', berth: null, cost: '12345678901234567.89', urgent: 'false' },
      },
    ).catch(() => undefined);
    expect(heard[0]).toMatchObject({
      method: 'PATCH',
      path: '/orders/A%2F1',
      body: { at: { place: 'so"uth', berth: null }, urgent: false },
    });
  });

  test('fills a body that it writes with what the record is otherwise', async () => {
    record = { id: 'A1', at: { place: 'north', berth: 2 }, cost: 1, urgent: true };
    const body =
      '{"order": {"where": "{place}", "berth": "{berth}", "hurry": "{urgent}"}, "note": "as {place} says"}';
    await run(
      { update: { method: 'PUT', path: 'orders/{id}', body } },
      { way: 'update', key: 'A1', expected: {}, values: { berth: '7' } },
    ).catch(() => undefined);
    expect(heard[0]).toMatchObject({
      method: 'PUT',
      body: { order: { where: 'north', berth: 7, hurry: true }, note: 'as {place} says' },
    });
  });

  test('adds under a name of its own, finds what it added by its address, and removes', async () => {
    record = null;
    const insert = { method: 'POST', path: 'orders' } as const;
    const added = await run({ insert }, { way: 'insert', values: { place: 'north' } });
    expect(added).toMatchObject({ state: 'done', records: [{ key: 'A/9', before: null }] });
    expect(heard[0]?.headers['idempotency-key']).toBe('once-0');
    const remove = { method: 'DELETE', path: 'orders/{id}' } as const;
    const gone = await run({ remove }, { way: 'remove', key: 'A/9', expected: { place: 'north' } });
    expect(gone).toMatchObject({ state: 'done', records: [{ key: 'A/9', after: null }] });
    expect(heard[1]).toMatchObject({ method: 'DELETE', path: '/orders/A%2F9', body: null });
  });

  test('adds a record with its lines within it', async () => {
    record = null;
    const insert = { method: 'POST', path: 'orders' } as const;
    const part: Column = { column: '/part/no', name: 'part', type: 'text' };
    const amount: Column = { column: '/amount', name: 'amount', type: 'integer' };
    const added = await run(
      { insert },
      { way: 'insert', values: { place: 'north' } },
      {
        lines: {
          place: { kind: 'calls', calls: { read }, columns: [part, amount], key: part },
          columns: [part, amount],
          refers: null,
          member: 'parts',
          changes: [
            { way: 'insert', values: { part: 'P-1', amount: '2' } },
            { way: 'insert', values: { part: 'P-2', amount: null } },
          ],
        },
      },
    );
    expect(heard.map(({ body }) => body)).toEqual([
      {
        at: { place: 'north' },
        parts: [
          { part: { no: 'P-1' }, amount: 2 },
          { part: { no: 'P-2' }, amount: null },
        ],
      },
    ]);
    // Only the record is asked for again: nobody has said how lines are.
    expect(added).toMatchObject({
      state: 'done',
      records: [{ key: 'A/9' }, { key: '', isLine: true }, { key: '', isLine: true }],
    });
  });

  test('never leads to another place of the service, whatever the key is', async () => {
    const remove = { method: 'DELETE', path: 'orders/{id}' } as const;
    for (const key of ['..', '.', '']) {
      await expect(run({ remove }, { way: 'remove', key, expected: {} })).rejects.toThrow();
    }
    expect(heard).toEqual([]);
  });
});
