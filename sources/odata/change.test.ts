import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import type { Change } from '#core/change/change.ts';
import type { Column } from '#core/dataset/schema.ts';
import { storesChanger, storesUser } from '#demo/stand-in-access.ts';
import { type StandIns, startStandIns } from '#stand-ins/start.ts';
import { sourceTools } from '#testing/source-tools.ts';
import type { ChangeResult, Changing, NotedChanges } from '../change.ts';
import { mark } from '../change-each.ts';
import { outgoingClient } from '../outgoing/client.ts';
import { kindOf } from '../registry.ts';

/* Changes of an OData service's records, against the stand-in, which is told to misbehave. */

const password = 'stores-password-0123';
let services: StandIns;

beforeAll(async () => {
  services = await startStandIns({
    tideKey: 'tide-key-0123456789',
    storesPassword: password,
    clientSecret: 'client-secret-0123456',
    intakeKey: 'intake-key-0123456789',
    port: 0,
  });
});
afterEach(() => services.mischief.clear());
afterAll(() => services.stop());

function source(user = storesChanger, base = `${services.address}/stores`) {
  const connection = { kind: 'odata', base, auth: { kind: 'basic', user: storesUser } } as const;
  const budget = { spend: async () => undefined, told: async () => undefined };
  const { changes } = kindOf(connection).open(
    { id: 'x', connection, secret: password, changer: { user, secret: password } },
    sourceTools(outgoingClient({ allowed: ['127.0.0.1'], budget, secrets: [password], patienceMs: 1500 })),
  );
  if (!changes) throw new Error('it takes no changes');
  return changes;
}

const columns: Column[] = [
  { column: 'State', name: 'state', type: 'text' },
  { column: 'Note', name: 'note', type: 'text' },
  { column: 'DepotId', name: 'depot', type: 'integer' },
];
const changing = (changes: readonly Change[], more: Partial<Changing> = {}): Changing => ({
  place: {
    kind: 'one-table',
    schema: 'Skerry.Stores',
    table: 'Requisitions',
    key: { column: 'Id', name: 'id', type: 'integer' },
  },
  columns,
  changes,
  once: 'once',
  doing: 'changing requisitions',
  beforeEnd: async () => undefined,
  ...more,
});
const run = (changes: readonly Change[], more: Partial<Changing> = {}): Promise<ChangeResult> =>
  source().change(changing(changes, more));
const ask = async (path: string): Promise<Record<string, unknown>> => {
  const authorization = `Basic ${Buffer.from(`${storesUser}:${password}`).toString('base64')}`;
  return (await fetch(`${services.address}/stores/${path}`, { headers: { authorization } })).json();
};
const stateOf = async (id: number) => (await ask(`Requisitions(${id})`)).State;
const set = (key: string, state: string, expected: Record<string, string> = {}): Change => ({
  way: 'update',
  key,
  expected,
  values: { state },
});
const good = { kind: 'good' } as const;

describe('a change of an OData record', () => {
  test('is held against what was seen, sent, and read back', async () => {
    await run([set('1', 'open')]);
    const done = await run([
      {
        way: 'update',
        key: '1',
        expected: { state: 'open' },
        values: { state: 'approved', note: 'a "b" 🚢', depot: '2' },
      },
    ]);
    expect(done).toMatchObject({
      state: 'done',
      records: [
        { key: '1', before: { state: 'open' }, after: { state: 'approved', note: 'a "b" 🚢', depot: '2' } },
      ],
    });
    expect(await ask('Requisitions(1)')).toMatchObject({ State: 'approved', Note: 'a "b" 🚢', DepotId: 2 });
    expect(await run([set('1', 'refused', { state: 'open' })])).toMatchObject({
      state: 'conflict',
      conflicts: [{ key: '1', is: { state: 'approved' } }],
    });
    expect(await run([set('99999', 'refused')])).toMatchObject({
      state: 'conflict',
      conflicts: [{ is: null }],
    });
    expect(await stateOf(1)).toBe('approved');
  });

  test('that somebody crosses between looking and sending is refused by the service, and nothing of theirs is lost', async () => {
    await run([set('2', 'open')]);
    const crossed = run([set('2', 'refused', { state: 'open' })], {
      beforeEnd: async () => {
        await source().change(changing([set('2', 'delivered')]));
      },
    });
    await expect(crossed).rejects.toThrow('somebody changed it meanwhile');
    expect(await stateOf(2)).toBe('delivered');
  });

  test('of several is made of each by itself, and says of which it was not', async () => {
    const result = await run([
      { way: 'update', key: '3', expected: {}, values: { state: 'approved' } },
      { way: 'update', key: '4', expected: {}, values: { state: 'nonsense' } },
      { way: 'update', key: '5', expected: {}, values: { state: 'approved' } },
    ]);
    expect(result).toMatchObject({
      state: 'each',
      each: [
        { outcome: 'done' },
        { outcome: 'refused', problem: { why: expect.stringContaining('nonsense is no state') } },
        { outcome: 'done' },
      ],
    });
    expect([await stateOf(3), await stateOf(5)]).toEqual(['approved', 'approved']);
  });

  test('adds once, though the same is sent again, and removes', async () => {
    const add: Change = { way: 'insert', values: { state: 'open', depot: '3' } };
    const first = await run([add]);
    const again = await run([add]);
    expect(first).toMatchObject({
      state: 'done',
      records: [{ before: null, after: { state: 'open', depot: '3' } }],
    });
    expect(again).toEqual(first);
    const key = first.state === 'done' ? (first.records[0]?.key ?? '') : '';
    expect(await run([{ way: 'remove', key, expected: { state: 'open' } }])).toMatchObject({
      state: 'done',
      records: [{ key, after: null }],
    });
    expect(await ask(`Requisitions(${key})`)).toHaveProperty('error');
    // What hangs on a record keeps it, in the service's own words.
    await expect(run([{ way: 'remove', key: '6', expected: {} }])).rejects.toThrow('it has lines');
  });

  test('whose answer is lost after it was done is found to be done', async () => {
    await run([set('7', 'open')]);
    services.mischief.tell('stores', good, { kind: 'drop after' });
    expect(await run([set('7', 'approved')])).toMatchObject({ state: 'done' });
    services.mischief.tell('stores', good, { kind: 'status', status: 504 });
    // This one was not done, and the record says so.
    await expect(run([set('7', 'delivered')])).rejects.toThrow('504');
    expect(await stateOf(7)).toBe('approved');
    // Of what was added nobody knows the key.
    services.mischief.tell('stores', { kind: 'drop after' });
    expect(await run([{ way: 'insert', values: { state: 'open' } }], { once: 'lost' })).toEqual({
      state: 'unknown',
    });
  });

  test('is waited with where the service is busy, and not believed where it says more than is so', async () => {
    await run([set('8', 'open')]);
    services.mischief.tell('stores', good, { kind: 'status', status: 429, after: '1' });
    expect(await run([set('8', 'approved')])).toMatchObject({ state: 'done' });
    services.mischief.tell('stores', good, { kind: 'text', text: '{"error": "no"}' });
    await expect(run([set('8', 'refused')])).rejects.toThrow('the record is as it was before');
    services.mischief.tell('stores', good, { kind: 'status', status: 409 });
    await expect(run([set('8', 'refused')])).rejects.toThrow('409');
    services.mischief.tell('stores', { kind: 'text', text: '{"error": "no"}' });
    expect(await run([{ way: 'insert', values: { state: 'open' } }], { once: 'no' })).toEqual({
      state: 'unknown',
    });
    expect(await stateOf(8)).toBe('approved');
  });

  test('of whoever may only read is refused, and nothing is sent that cannot be noted', async () => {
    const reader = source(storesUser);
    await expect(reader.change(changing([set('9', 'approved')]))).rejects.toThrow('you may only read');
    const before = await stateOf(9);
    const unnoted = run([set('9', before === 'open' ? 'approved' : 'open')], {
      beforeEnd: async () => {
        throw new Error('our own database is away');
      },
    });
    await expect(unnoted).rejects.toThrow('our own database is away');
    expect(await stateOf(9)).toBe(before);
  });

  test('of which nobody heard the end is told from the records themselves', async () => {
    for (const key of ['10', '11', '12']) await run([set(key, 'open')]);
    let noted: NotedChanges | undefined;
    await run([set('10', 'approved'), set('11', 'approved'), set('12', 'approved')], {
      beforeEnd: async (_, records) => {
        noted = { mark, place: changing([]).place, columns, records };
      },
    });
    if (!noted) throw new Error('nothing was noted');
    await run([set('11', 'open')]);
    await run([set('12', 'refused')]);
    expect(await source().outcomes(noted)).toEqual([true, false, null]);
  });

  test('stops where the service has gone, and says of the rest that they were not sent', async () => {
    const nobody = source(storesChanger, 'http://127.0.0.1:9');
    await expect(nobody.change(changing([set('1', 'open')]))).rejects.toThrow('127.0.0.1:9');
    for (const key of ['13', '14', '15']) await run([set(key, 'open')]);
    services.mischief.tell('stores', good, good, good, ...Array(5).fill({ kind: 'drop' }));
    const result = await run([set('13', 'approved'), set('14', 'approved'), set('15', 'approved')]);
    expect(result).toMatchObject({
      state: 'each',
      each: [{ outcome: 'unknown' }, { outcome: 'refused' }, { outcome: 'refused' }],
    });
    if (result.state !== 'each') throw new Error('it was made');
    expect(result.each[2]?.problem?.why).toContain('it was not sent');
  });
});
