import { randomBytes } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import express from 'express';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { identityService } from '#stand-ins/identity.ts';
import { Mischief } from '#stand-ins/mischief.ts';
import { testDatabase } from '#testing/database.ts';
import { closeDatabase, migrateDatabase } from '../store/database.ts';
import { addDesk } from '../store/desks.ts';
import { putGroup } from '../store/groups.ts';
import { addUser, findUser, personOf, signIn } from '../store/people.ts';
import { accountOfClaims, type Claims } from '../store/provider-people.ts';
import { backFromProvider, type Going, goToProvider } from './provider.ts';

/* Signing in where the staff do, over HTTP to a provider of our own. */

const own = 'https://glass.skerry.example';
const mischief = new Mischief();
let database: Awaited<ReturnType<typeof testDatabase>>;
let server: Server;
let sound = '';

beforeAll(async () => {
  database = await testDatabase();
  const secret = randomBytes(18).toString('base64url');
  const app = express();
  app.use('/identity', identityService({ client: 'slate-glass', secret, now: () => new Date(), mischief }));
  server = createServer(app);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', () => resolve()));
  const address = server.address();
  process.env.SLATE_OIDC = `http://127.0.0.1:${typeof address === 'object' ? address?.port : 0}/identity`;
  process.env.SLATE_OIDC_CLIENT = 'slate-glass';
  process.env.SLATE_OIDC_SECRET = secret;
  process.env.SLATE_DATABASE = database.url;
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
  await migrateDatabase();
  sound = (await addDesk({ slug: 'sound', name: 'Sound', zone: 'UTC' })).id;
  await putGroup(null, { name: 'Upkeep yard', providerName: 'yard', roles: { [sound]: 'supervisor' } });
  await putGroup(null, { name: 'Deck crew', providerName: 'deck', roles: { [sound]: 'reader' } });
  await addUser({
    email: 'admin@skerry.example',
    name: 'Astrid',
    password: 'low-water',
    isAdministrator: true,
  });
  await addUser({ email: 'reader@skerry.example', name: 'Torquil', password: 'low-water' });
});
afterAll(async () => {
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
  await closeDatabase();
  await database.client.end();
});

/** Goes there as one of the staff, and gives what the browser comes back with. */
async function went(as: string): Promise<{ search: string; going: Going }> {
  const { address, going } = await goToProvider(own, '/desk/sound');
  const answer = await fetch(`${address}&as=${as}`, { redirect: 'manual' });
  const back = new URL(answer.headers.get('location') ?? '');
  expect(`${back.origin}${back.pathname}`).toBe(`${own}/sign-in/provider/done`);
  return { search: back.search, going };
}
const claimsOf = async (as: string): Promise<Claims> => {
  const { search, going } = await went(as);
  return backFromProvider(own, search, going);
};
const userOf = async (claims: Claims) => {
  const account = await accountOfClaims(claims);
  return 'id' in account ? findUser(account.id) : account.refusal;
};

test('a provider that is away is asked again once it is back', async () => {
  mischief.tell('identity', { kind: 'status', status: 503 });
  await expect(goToProvider(own, '/')).rejects.toThrow();
  await expect(goToProvider(own, '/')).resolves.toMatchObject({ going: { to: '/' } });
});

test('whoever has a group that is one here has an account from then on, with what the groups give at each time', async () => {
  const una = await claimsOf('1001');
  expect(una).toMatchObject({ email: 'una@skerry.example', isVerified: true, groups: ['yard', 'deck'] });
  const first = await userOf(una);
  if (typeof first !== 'object') throw new Error('not in');
  expect(first).toMatchObject({
    name: 'Una Rendall',
    isAdministrator: false,
    groups: ['Deck crew', 'Upkeep yard'],
    roles: { [sound]: 'supervisor' },
  });
  // Nobody signs in with a password that nobody has chosen.
  expect(await signIn('una@skerry.example', '')).toBeNull();
  const later = await userOf({ ...una, email: 'una.rendall@skerry.example', groups: ['deck', 'galley'] });
  expect(later).toMatchObject({ ...first, groups: ['Deck crew'], roles: { [sound]: 'reader' } });
  expect(await userOf({ ...una, groups: [] })).toMatchObject({ groups: [], roles: {} });
});

test('an account of the same address is theirs where the provider is sure of it, and of nobody else afterwards', async () => {
  const torquil = await personOf((await signIn('reader@skerry.example', 'low-water')) ?? '');
  const claims = await claimsOf('1005');
  expect(await userOf(claims)).toMatchObject({ id: torquil?.id, name: 'Torquil' });
  expect(await userOf({ ...claims, subject: 'another' })).toBe('address not theirs');
  // Somebody who only says so becomes nobody, least of all the administrator.
  expect(await userOf(await claimsOf('1004'))).toBe('address not theirs');
});

test('whoever has neither an account nor a group of ours is told so', async () => {
  expect(await userOf(await claimsOf('1003'))).toBe('no account');
  expect(await userOf({ ...(await claimsOf('1002')), email: null })).toBe('no account');
});

test('groups that administrators keep here stay as they are', async () => {
  await putGroup(null, { name: 'Stores', roles: {} });
  const claims = await claimsOf('1002');
  const sigurd = await userOf(claims);
  if (typeof sigurd !== 'object' || !sigurd) throw new Error('not in');
  await database.client.query(
    `INSERT INTO group_members (group_id, user_id) SELECT id, $1 FROM groups WHERE name = 'Stores'`,
    [sigurd.id],
  );
  expect(await userOf(claims)).toMatchObject({ groups: ['Deck crew', 'Stores'] });
  expect(await userOf({ ...claims, groups: ['Stores'] })).toMatchObject({ groups: ['Stores'] });
});

test('what does not come back as it went is not believed', async () => {
  const { search, going } = await went('1001');
  const other = (await went('1001')).going;
  for (const forged of [
    { ...going, state: other.state },
    { ...going, nonce: other.nonce },
    { ...going, verifier: other.verifier },
  ])
    await expect(backFromProvider(own, search, forged)).rejects.toThrow();
  // The code is good once: what was tried above has used it up.
  await expect(backFromProvider(own, search, going)).rejects.toThrow();
  const cancelled = await went('nobody');
  await expect(backFromProvider(own, cancelled.search, cancelled.going)).rejects.toThrow();
});
