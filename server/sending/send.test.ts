import { randomUUID } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import express from 'express';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import { morningBrief } from '#demo/dashboards/morning-brief.ts';
import { zone } from '#demo/line.ts';
import { takeMail } from '#stand-ins/mail.ts';
import { Mischief } from '#stand-ins/mischief.ts';
import { freePort } from '../../scripts/cluster.mjs';
import { soundFixture } from '../../testing/sound.ts';
import { changeAccount, findAccount, removeAccount } from '../store/accounts.ts';
import { addDashboard, publish, setPublished } from '../store/dashboards.ts';
import { addDataSet, findDataSet, saveDataSet } from '../store/data-sets.ts';
import { addDesk } from '../store/desks.ts';
import { addUser, whoseSignIn } from '../store/people.ts';
import { addSending, listSendings, removeSending } from '../store/sendings.ts';
import { nextSending, sendDue } from './send.ts';

const board = randomUUID();
const mischief = new Mischief();
const { signal } = new AbortController();
const ids: Record<string, string> = {};
let sound: Awaited<ReturnType<typeof soundFixture>>;
let mail: Awaited<ReturnType<typeof takeMail>>;
let page: Server;
let at = '';
let desk = '';

interface Letter {
  readonly to: string[];
  readonly subject: string;
  readonly text: string;
}
const letters = async (): Promise<Letter[]> =>
  (await (await fetch(at, { headers: { accept: 'application/json' } })).json()) as Letter[];

beforeAll(async () => {
  const port = await freePort();
  process.env.SLATE_MAIL = `smtp://127.0.0.1:${port}`;
  process.env.SLATE_ADDRESS = 'https://glass.skerry.example';
  mail = await takeMail(port, mischief);
  const app = express();
  app.use('/', mail.page);
  page = createServer(app).listen(0, '127.0.0.1');
  await new Promise((resolve) => page.once('listening', resolve));
  const address = page.address();
  at = `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}/`;
  sound = await soundFixture(new Date());
  for (const [id, definition] of sound.dataSets)
    await addDataSet({ id, name: definition.noun.many, definition, by: null });
  desk = (await addDesk({ name: 'Sound', zone })).id;
  await addDashboard({ id: board, deskId: desk, slug: 'morning', draft: morningBrief(sound.ids), by: null });
  await publish(board, null, null);
  for (const [name, role] of [
    ['effie', 'supervisor'],
    ['torquil', 'reader'],
    ['una', 'reader'],
  ] as const) {
    const email = `${name}@skerry.example`;
    await addUser({ email, name, password: 'low-water', roles: { [desk]: role } });
    ids[name] = (await whoseSignIn(email, 'low-water')) ?? '';
  }
  await addUser({ email: 'boss@skerry.example', name: 'Boss', password: 'low-water', isAdministrator: true });
});
afterAll(async () => {
  page.close();
  await mail.stop();
  await sound.end();
});
beforeEach(async () => {
  mischief.clear();
  for (const { id } of await listSendings(board)) await removeSending(board, id);
});

const set = (more: object = {}) =>
  addSending({
    dashboardId: board,
    ownerId: ids.effie ?? '',
    name: 'Morning numbers',
    search: '',
    recipients: [ids.effie ?? '', ids.torquil ?? ''],
    cron: '30 7 * * *',
    nextAt: new Date(Date.now() - 1000),
    ...more,
  });
const only = async () => {
  const [one] = await listSendings(board);
  if (!one) throw new Error('there is no sending');
  return one;
};

test('each gets the numbers that they may see, once, and it is due again by the clock of the desk', async () => {
  const stored = await findDataSet(sound.ids.sailings);
  if (!stored) throw new Error('the fixture has no sailings');
  const { rows } = await sound.client.query('SELECT name FROM vessels ORDER BY name LIMIT 1');
  const account = await findAccount(ids.effie ?? '');
  if (!account) throw new Error('effie is gone');
  await changeAccount(account.id, { ...account, attributes: { Vessel: [rows[0].name] } });
  const rowRule = {
    field: 'vessel',
    test: { op: 'against' as const, is: 'same' as const, to: { theirs: 'Vessel' } },
  };
  await saveDataSet({ ...stored, definition: { ...stored.definition, rowRule }, by: null });
  await set({ name: 'Morning numbers\r\nBcc: everybody@skerry.example' });
  // Two workers at once: one of them sends.
  const now = new Date();
  await Promise.all([sendDue(now, signal), sendDue(now, signal)]);
  const sent = await letters();
  expect(sent.flatMap(({ to }) => to).sort()).toEqual(['effie@skerry.example', 'torquil@skerry.example']);
  const textTo = (name: string): string => sent.find(({ to }) => to[0]?.startsWith(name))?.text ?? '';
  expect(textTo('torquil')).toContain('Sailings today: 0');
  expect(textTo('effie')).not.toContain('Sailings today: 0');
  expect(textTo('effie')).toMatch(/Sailings today: \d+/);
  expect(textTo('effie')).toContain('https://glass.skerry.example/desk/sound/morning');
  // Nothing of a name becomes a line of its own.
  expect(sent.every(({ subject, to }) => subject.startsWith('Morning numbers Bcc:') && to.length === 1)).toBe(
    true,
  );
  const { lastAt, nextAt, problem } = await only();
  expect([lastAt === null, problem]).toEqual([false, null]);
  expect(nextAt).toBe(nextSending('30 7 * * *', zone, now)?.toISOString());
  await sendDue(new Date(), signal);
  expect(await letters()).toHaveLength(2);
});

test('what fails says why, is tried again after longer and longer, and gives nobody two', async () => {
  const before = (await letters()).length;
  await set();
  mischief.tell('mail', { kind: 'drop' });
  const now = new Date();
  await sendDue(now, signal);
  // One of the two letters was refused.
  expect(await letters()).toHaveLength(before + 1);
  const failed = await only();
  expect(failed.problem).toContain('no mail is taken just now');
  expect(failed.lastAt).toBeNull();
  expect(new Date(failed.nextAt ?? 0).getTime() - now.getTime()).toBe(60_000);
  const later = new Date(now.getTime() + 61_000);
  mischief.tell('mail', { kind: 'drop' });
  await sendDue(later, signal);
  expect(new Date((await only()).nextAt ?? 0).getTime() - later.getTime()).toBe(120_000);
  await sendDue(new Date(later.getTime() + 121_000), signal);
  const after = (await letters()).slice(0, (await letters()).length - before);
  expect(after.flatMap(({ to }) => to).sort()).toEqual(['effie@skerry.example', 'torquil@skerry.example']);
  expect((await only()).problem).toBeNull();
});

test('whoever left gets nothing, and what is not published or not theirs to send is not sent', async () => {
  const before = (await letters()).length;
  await set({ recipients: [ids.una ?? '', randomUUID()] });
  await removeAccount(ids.una ?? '');
  await sendDue(new Date(), signal);
  expect(await letters()).toHaveLength(before);
  expect((await only()).problem).toBeNull();
  await removeSending(board, (await only()).id);
  await set();
  await setPublished(board, null);
  await sendDue(new Date(), signal);
  expect((await only()).problem).toBe('The dashboard is not published.');
  await setPublished(board, 1);
  await removeSending(board, (await only()).id);
  const account = await findAccount(ids.effie ?? '');
  if (!account) throw new Error('effie is gone');
  await changeAccount(account.id, { ...account, roles: { [desk]: 'reader' } });
  await set();
  await sendDue(new Date(), signal);
  expect((await only()).problem).toBe('Whoever set it up may no longer send from this desk.');
  expect(await letters()).toHaveLength(before);
});
