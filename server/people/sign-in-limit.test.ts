import { randomBytes } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { testDatabase } from '#testing/database.ts';
import { closeDatabase, databasePool, migrateDatabase } from '../store/database.ts';
import { accountOf, addUser, signIn } from '../store/people.ts';
import { admit } from './sign-in-limit.ts';

let database: Awaited<ReturnType<typeof testDatabase>>;
const place = 'a browser that has signed in before';

beforeAll(async () => {
  database = await testDatabase();
  process.env.SLATE_DATABASE = database.url;
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
  await migrateDatabase();
  await addUser({ email: 'owner@skerry.example', name: 'O', password: 'low-water' });
  await signIn('owner@skerry.example', 'low-water', { place });
});
afterAll(async () => {
  await closeDatabase();
  await database.client.end();
});

const from = (email: string, address: string, seen: string | null = null) =>
  admit({ email: accountOf(email), address, place: seen });
async function guess(email: string, address: string): Promise<boolean> {
  const admission = await from(email, address);
  if (admission.ok) await admission.failed();
  return admission.ok;
}
/** Lets time pass for what is counted. */
const later = (seconds: number) =>
  databasePool().query("UPDATE rate_limits SET expire = expire - $1 WHERE key NOT LIKE 'wrong%'", [
    seconds * 1000,
  ]);

describe('guessing a password', () => {
  test('sixty times at once gets five of them looked at', async () => {
    const tried = await Promise.all(
      Array.from({ length: 60 }, (_, n) => guess('sixty@skerry.example', `10.0.0.${n}`)),
    );
    expect(tried.filter(Boolean)).toHaveLength(5);
  });
  test('is counted for the account however its address is written', async () => {
    for (const email of [
      'space@skerry.example',
      ' Space@skerry.example',
      'SPACE@skerry.example ',
      '\tspace@skerry.example\n',
    ])
      expect(await guess(email, '10.1.0.1')).toBe(true);
    await guess('space@skerry.example', '10.1.0.2');
    expect(await guess('  space@skerry.example', '10.1.0.3')).toBe(false);
  });
  test('is counted for a network address over many accounts', async () => {
    const tried: boolean[] = [];
    for (let n = 0; n < 40; n += 1) tried.push(await guess(`many-${n}@skerry.example`, '10.2.0.1'));
    expect(tried.filter(Boolean)).toHaveLength(30);
  });
  test('has to pause for longer each time', async () => {
    const pauses: number[] = [];
    for (let lot = 0; lot < 3; lot += 1) {
      for (let n = 0; n < 5; n += 1) await guess('longer@skerry.example', `10.3.${lot}.1`);
      const refused = await from('longer@skerry.example', '10.3.9.9');
      if (!refused.ok) pauses.push(refused.seconds);
      await later(3600);
    }
    expect(pauses).toHaveLength(3);
    expect(pauses[1]).toBeGreaterThan(pauses[0] ?? 0);
    expect(pauses[2]).toBeGreaterThan(pauses[1] ?? 0);
  });
  test('by others never keeps out the owner where they have signed in before', async () => {
    for (let n = 0; n < 8; n += 1) await guess('owner@skerry.example', '10.4.0.1');
    expect((await from('owner@skerry.example', '10.4.0.1')).ok).toBe(false);
    expect((await from('owner@skerry.example', '10.4.0.1', place)).ok).toBe(true);
  });
  test('from a place of another account, or one that is made up, is counted as from anywhere', async () => {
    for (let n = 0; n < 5; n += 1) await guess('other@skerry.example', '10.5.0.1');
    expect((await from('other@skerry.example', '10.5.0.1', place)).ok).toBe(false);
    expect((await from('owner@skerry.example', '10.4.0.1', 'made up')).ok).toBe(false);
  });
  test('that is right starts the count again', async () => {
    for (let n = 0; n < 4; n += 1) await guess('right@skerry.example', '10.6.0.1');
    const right = await from('right@skerry.example', '10.6.0.1');
    if (right.ok) await right.passed();
    for (let n = 0; n < 5; n += 1) expect(await guess('right@skerry.example', '10.6.0.1')).toBe(true);
  });
});
