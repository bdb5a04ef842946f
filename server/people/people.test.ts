import { randomBytes, randomUUID } from 'node:crypto';
import { generate } from 'otplib';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { testDatabase } from '#testing/database.ts';
import { may } from '../permission.ts';
import {
  type AccountChange,
  changeAccount,
  changePassword,
  endSessionsOf,
  findAccount,
  isOwnPassword,
  listAccounts,
  listSessions,
  removeAccount,
} from '../store/accounts.ts';
import { addDashboard, menuOf, moveDashboard } from '../store/dashboards.ts';
import { closeDatabase, migrateDatabase } from '../store/database.ts';
import { addDesk, arrangeMenu, changeDesk, listDesks, orderDesks, removeDesk } from '../store/desks.ts';
import { listGroups, putGroup, removeGroup } from '../store/groups.ts';
import {
  acceptInvite,
  findInvite,
  type Invite,
  invite,
  listInvites,
  withdrawInvite,
} from '../store/invites.ts';
import { NewPassword } from '../store/passwords.ts';
import { addUser, findUser, personOf, signIn } from '../store/people.ts';
import { readAccount } from './account-form.ts';
import { askerOf } from './asker.ts';
import { beginTwoStep, endTwoStep, enrolment, hasTwoSteps, passesTwoStep } from './two-step.ts';

const password = 'low-water-0640';
let own: Awaited<ReturnType<typeof testDatabase>>;
const desks: Record<string, string> = {};
const ids: Record<string, string> = {};

async function person(name: string, more: object = {}): Promise<string> {
  const email = `${name}@skerry.example`;
  await addUser({ email, name, password, ...more });
  const id = (await personOf((await signIn(email, password)) ?? ''))?.id ?? '';
  ids[name] = id;
  return id;
}

beforeAll(async () => {
  own = await testDatabase();
  process.env.SLATE_DATABASE = own.url;
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
  await migrateDatabase();
  for (const name of ['Sound', 'Isles']) desks[name] = (await addDesk({ name, zone: 'UTC' })).id;
  await person('astrid', { isAdministrator: true });
  await person('torquil', { roles: { [desks.Sound ?? '']: 'reader' } });
});
afterAll(async () => {
  await closeDatabase();
  await own.client.end();
});

const change = async (name: string, to: Partial<AccountChange>) => {
  const account = await findAccount(ids[name] ?? '');
  if (!account) throw new Error(`${name} is gone`);
  return changeAccount(account.id, { ...account, ...to });
};

describe('roles', () => {
  test('come from oneself, one’s groups and open desks, and the highest counts', async () => {
    const [sound = '', isles = ''] = [desks.Sound, desks.Isles];
    const roles = async () => (await findUser(ids.torquil ?? ''))?.roles;
    expect(await roles()).toEqual({ [sound]: 'reader' });
    expect(
      await putGroup(null, { name: 'Deck crew', roles: { [sound]: 'supervisor', [isles]: 'reader' } }),
    ).toBe(true);
    expect(await putGroup(null, { name: 'Deck crew', roles: {} })).toBe(false);
    const [group] = await listGroups();
    await change('torquil', { groups: [group?.id ?? ''] });
    expect(await roles()).toEqual({ [sound]: 'supervisor', [isles]: 'reader' });
    const torquil = await findUser(ids.torquil ?? '');
    if (!torquil) throw new Error('torquil is gone');
    expect([may(torquil, 'act', { desk: sound }), may(torquil, 'act', { desk: isles })]).toEqual([
      true,
      false,
    ]);
    expect(askerOf(torquil)).toMatchObject({ attributes: { groups: ['Deck crew'] }, seesAll: false });
    await removeGroup(group?.id ?? '');
    expect(await roles()).toEqual({ [sound]: 'reader' });
    await changeDesk(isles, {
      name: 'Isles',
      zone: 'UTC',
      accent: 'amber',
      isOpen: true,
      publicLinks: false,
    });
    expect(await roles()).toEqual({ [sound]: 'reader', [isles]: 'reader' });
    await changeDesk(isles, {
      name: 'Isles',
      zone: 'UTC',
      accent: 'amber',
      isOpen: false,
      publicLinks: false,
    });
  });

  test('hold from the next request on, for a session that is open', async () => {
    const token = (await signIn('torquil@skerry.example', password)) ?? '';
    await change('torquil', { roles: {} });
    expect((await personOf(token))?.roles).toEqual({});
    await change('torquil', { roles: { [desks.Sound ?? '']: 'reader' } });
    expect((await personOf(token))?.roles).toEqual({ [desks.Sound ?? '']: 'reader' });
  });
});

describe('the last administrator', () => {
  test('stays, and of two who end each other at once one stays', async () => {
    expect(await change('astrid', { isAdministrator: false })).toMatchObject({ ok: false });
    expect(await removeAccount(ids.astrid ?? '')).toMatchObject({ ok: false });
    await person('effie', { isAdministrator: true });
    const outcomes = await Promise.all([
      change('astrid', { isAdministrator: false }),
      change('effie', { isAdministrator: false }),
    ]);
    expect(outcomes.filter(({ ok }) => ok)).toHaveLength(1);
    const left = (await listAccounts('', { offset: 0, limit: 10 })).filter((each) => each.isAdministrator);
    expect(left).toHaveLength(1);
    for (const name of ['astrid', 'effie']) await change(name, { isAdministrator: true });
  });
});

const invited = (more: Partial<Invite> = {}): Invite => ({
  email: `${randomUUID()}@skerry.example`,
  name: 'Ingrid Sclater',
  isAdministrator: false,
  roles: { [desks.Sound ?? '']: 'supervisor' },
  groups: [],
  attributes: { Terminal: ['Norrick'] },
  ...more,
});

describe('an invite', () => {
  test('makes one account, however often its link is followed at once', async () => {
    const token = (await invite(invited(), ids.astrid ?? '')) ?? '';
    expect(await findInvite(token)).toMatchObject({ name: 'Ingrid Sclater' });
    const made = await Promise.all([1, 2, 3].map(() => acceptInvite(token, { name: 'Ingrid', password })));
    const [id] = made.filter((each) => each !== null);
    expect(made.filter((each) => each !== null)).toHaveLength(1);
    expect(await findUser(id ?? '')).toMatchObject({
      roles: { [desks.Sound ?? '']: 'supervisor' },
      attributes: { Terminal: ['Norrick'] },
    });
    expect(await findInvite(token)).toBeNull();
    expect(await acceptInvite(token, { name: 'Ingrid', password })).toBeNull();
  });

  test('is not good once withdrawn, replaced, or too old; nor for an address with an account', async () => {
    const one = invited();
    const first = (await invite(one, ids.astrid ?? '')) ?? '';
    const second = (await invite(one, ids.astrid ?? '')) ?? '';
    expect([await findInvite(first), (await findInvite(second))?.email]).toEqual([null, one.email]);
    const listed = (await listInvites()).find(({ email }) => email === one.email);
    await withdrawInvite(listed?.id ?? '');
    expect(await acceptInvite(second, { name: 'x', password })).toBeNull();
    const old = (await invite(invited(), ids.astrid ?? '')) ?? '';
    await own.client.query("UPDATE invites SET expires_at = now() - interval '1 second'");
    expect([await findInvite(old), await acceptInvite(old, { name: 'x', password })]).toEqual([null, null]);
    expect(await listInvites()).toEqual([]);
    expect(await invite(invited({ email: ' TORQUIL@skerry.example' }), ids.astrid ?? '')).toBeNull();
  });

  test('leaves out a desk and a group that went meanwhile', async () => {
    const gone = await addDesk({ name: 'Gone', zone: 'UTC' });
    const token = await invite(
      invited({ roles: { [gone.id]: 'reader' }, groups: [randomUUID()] }),
      ids.astrid ?? '',
    );
    expect(await removeDesk(gone.id)).toBe(true);
    const id = await acceptInvite(token ?? '', { name: 'x', password });
    expect((await findUser(id ?? ''))?.roles).toEqual({});
  });
});

describe('a second step', () => {
  test('takes a code of the device once, and each recovery code once, also at the same moment', async () => {
    const id = ids.torquil ?? '';
    const { secret, picture } = await enrolment('torquil@skerry.example');
    expect(picture).toMatch(/^data:image\/png;base64,/);
    expect(await beginTwoStep(id, secret, '000000')).toBeNull();
    expect(await beginTwoStep(id, 'not a secret', '123456')).toBeNull();
    expect(await hasTwoSteps(id)).toBe(false);
    const epoch = Math.floor(Date.now() / 1000);
    const code = await generate({ secret, epoch });
    const codes = (await beginTwoStep(id, secret, code)) ?? [];
    expect(new Set(codes).size).toBe(8);
    expect(await hasTwoSteps(id)).toBe(true);
    // The very code that it was begun with is used.
    expect(await passesTwoStep(id, code)).toBe(false);
    const next = await generate({ secret, epoch: epoch + 30 });
    const tried = await Promise.all([1, 2, 3].map(() => passesTwoStep(id, next)));
    expect(tried.filter(Boolean)).toHaveLength(1);
    const [first = '', second = ''] = codes;
    const recovered = await Promise.all([1, 2, 3].map(() => passesTwoStep(id, first.toUpperCase())));
    expect(recovered.filter(Boolean)).toHaveLength(1);
    expect(await passesTwoStep(ids.astrid ?? '', second)).toBe(false);
    for (const wrong of ['', 'x', '12345', '1234567', 'aaaaa-aaaaa'])
      expect(await passesTwoStep(id, wrong), wrong).toBe(false);
    await endTwoStep(id);
    expect([await hasTwoSteps(id), await passesTwoStep(id, second)]).toEqual([false, false]);
    // Neither the secret nor a code can be read from the tables.
    const { rows } = await own.client.query('SELECT count(*)::int AS n FROM recovery_codes');
    expect(rows[0].n).toBe(0);
  });
});

test('a password is long and not among those that are tried first', async () => {
  const why = async (text: string) => (await NewPassword.safeParseAsync(text)).error?.issues[0]?.message;
  expect(await why('short')).toMatch('At least 12');
  for (const known of ['password1234567', 'qwertyuiopas', 'aaaaaaaaaaaaaaa', '0123456789012'])
    expect(await why(known), known).toMatch('lists of known ones');
  for (const good of ['four words of mine', 'ÅåØø ææ ßß 12', password])
    expect(await why(good)).toBeUndefined();
});

test('sessions are listed with where they began, and end one by one or all but this', async () => {
  const id = await person('una');
  const here =
    (await signIn('una@skerry.example', password, { address: '10.0.0.7', browser: 'A browser' })) ?? '';
  const there = (await signIn('una@skerry.example', password)) ?? '';
  const listed = await listSessions(id, here);
  expect(listed).toHaveLength(3);
  expect(listed.filter(({ isThis }) => isThis)).toMatchObject([
    { address: '10.0.0.7', browser: 'A browser' },
  ]);
  // Somebody else's session is not ended by its name.
  await endSessionsOf(ids.astrid ?? '', { id: listed[0]?.id ?? '' });
  expect(await listSessions(id, here)).toHaveLength(3);
  await endSessionsOf(id, { except: here });
  expect([(await personOf(here))?.id, await personOf(there)]).toEqual([id, null]);
  await changePassword(id, 'another low water');
  expect([await isOwnPassword(id, password), await isOwnPassword(id, 'another low water')]).toEqual([
    false,
    true,
  ]);
  await removeAccount(id);
  expect(await personOf(here)).toBeNull();
});

test('an account’s form is read, or what is wrong is said', () => {
  const form = new FormData();
  form.set('name', ' Ingrid ');
  form.set(`role:${desks.Sound}`, 'reader');
  form.set(`role:${desks.Isles}`, 'none');
  for (const [name, values] of [
    ['Terminal', 'Norrick, Hesta,, '],
    ['Vessel', ' '],
    ['', 'x'],
  ] as const) {
    form.append('attribute', name);
    form.append('values', values);
  }
  expect(readAccount(form)).toEqual({
    ok: true,
    value: {
      name: 'Ingrid',
      isAdministrator: false,
      roles: { [desks.Sound ?? '']: 'reader' },
      groups: [],
      attributes: { Terminal: ['Norrick', 'Hesta'] },
    },
  });
  form.set(`role:${desks.Sound}`, 'captain');
  expect(readAccount(form)).toMatchObject({ ok: false });
  form.set('name', '');
  expect(readAccount(form)).toEqual({ ok: false, wrong: 'A name is needed.' });
});

describe('desks', () => {
  test('have an order, and one with a dashboard is not removed', async () => {
    const [sound = '', isles = ''] = [desks.Sound, desks.Isles];
    expect((await listDesks()).map(({ name }) => name)).toEqual(['Sound', 'Isles']);
    await orderDesks([isles, sound, randomUUID()]);
    expect((await listDesks()).map(({ name }) => name)).toEqual(['Isles', 'Sound']);
    const taken = await addDesk({ name: 'Isles', zone: 'UTC' });
    expect(taken.slug).toBe('isles-2');
    await removeDesk(taken.id);
    const draft = { version: 4 as const, title: 'Morning', scope: [], panes: [] };
    const [one, two] = [randomUUID(), randomUUID()];
    for (const [id, deskId] of [
      [one, sound],
      [two, isles],
    ] as const)
      await addDashboard({ id, deskId, slug: 'morning', draft, by: null });
    expect(await removeDesk(isles)).toBe(false);
    // What is moved keeps its versions; a name in addresses that is taken there gets a number.
    await moveDashboard(two, sound);
    expect((await menuOf(sound, false)).map(({ id, slug }) => [id, slug])).toEqual([
      [one, 'morning'],
      [two, 'morning-2'],
    ]);
    await arrangeMenu(sound, [
      { id: two, group: 'Daily' },
      { id: one, group: 'Daily' },
    ]);
    expect((await menuOf(sound, false)).map(({ id, group }) => [id, group])).toEqual([
      [two, 'Daily'],
      [one, 'Daily'],
    ]);
    // Another desk's dashboards are not moved by naming them.
    await arrangeMenu(isles, [{ id: one, group: 'Elsewhere' }]);
    expect((await menuOf(sound, false)).map(({ group }) => group)).toEqual(['Daily', 'Daily']);
    expect(await removeDesk(isles)).toBe(true);
  });
});
