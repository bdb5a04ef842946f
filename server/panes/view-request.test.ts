import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { morningBrief } from '#demo/dashboards/morning-brief.ts';
import { zone } from '#demo/line.ts';
import { soundFixture } from '../../testing/sound.ts';
import type { RequestContext } from '../guard.ts';
import { addDashboard, findDraft, publish, saveDraft } from '../store/dashboards.ts';
import { addDataSet, saveDataSet } from '../store/data-sets.ts';
import { addDesk } from '../store/desks.ts';
import { addUser, findUser, type User, whoseSignIn } from '../store/people.ts';
import { runPane } from './run.ts';
import { countScope, viewOf } from './shown.ts';
import { earlierRefusal, onlyLookedAt, openForView, openWatched } from './view-request.ts';

const board = randomUUID();
let sound: Awaited<ReturnType<typeof soundFixture>>;
let analyst: User;
let reader: User;

const itself: RequestContext = { nonce: '', token: null, place: null, seeAs: null, address: '127.0.0.1' };
const open = (edition: string | null, user: User) =>
  openForView(
    board,
    new Request(`http://127.0.0.1/view/${board}/panes${edition === null ? '' : `?_edition=${edition}`}`),
    user,
    itself,
  );
const refused = async (answer: Promise<unknown>): Promise<number> => {
  const thrown: unknown = await answer.then(
    () => null,
    (error: unknown) => error,
  );
  if (thrown instanceof Response) return thrown.status;
  if (thrown !== null && typeof thrown === 'object' && 'init' in thrown)
    return (thrown.init as ResponseInit).status ?? 0;
  throw new Error('nothing was refused', { cause: thrown });
};

beforeAll(async () => {
  sound = await soundFixture(new Date());
  for (const [id, definition] of sound.dataSets)
    await addDataSet({ id, name: definition.noun.many, definition, by: null });
  const desk = await addDesk({ name: 'Sound', zone });
  await addUser({ email: 'una@skerry.example', name: 'Una', password: 'low-water' });
  const una = await findUser((await whoseSignIn('una@skerry.example', 'low-water')) ?? '');
  if (!una) throw new Error('nobody was added');
  reader = { ...una, roles: { [desk.id]: 'reader' }, attributes: { Vessel: ['none such'] } };
  analyst = { ...una, roles: { [desk.id]: 'analyst' } };
  const brief = morningBrief(sound.ids);
  await addDashboard({ id: board, deskId: desk.id, slug: 'morning', draft: brief, by: null });
  await publish(board, null, null);
  const draft = { ...brief, title: 'Evening brief', panes: brief.panes.slice(0, 2) };
  await saveDraft({ id: board, draft, revision: (await findDraft(board))?.revision ?? 0, by: una.id });
  await publish(board, null, null);
});
afterAll(() => sound.end());

test('a version is opened as it was, with the records of now, beside what readers have', async () => {
  const [first, second, published] = await Promise.all([
    open('1', analyst),
    open('2', analyst),
    open(null, reader),
  ]);
  expect(first.opened.shown.dashboard.title).not.toBe('Evening brief');
  expect(second.opened.shown.dashboard.title).toBe('Evening brief');
  expect(published.opened.shown.dashboard).toEqual(second.opened.shown.dashboard);
  const [pane] = first.opened.context.dashboard.panes;
  if (!pane) throw new Error('the brief has no panes');
  const { context } = first.opened;
  expect(await runPane({ pane, context })).toMatchObject({ state: 'ready' });
  expect(await countScope(context)).toEqual(await countScope(second.opened.context));
});

test('only who may build looks at a version, and only at one there is', async () => {
  for (const edition of ['1', '2', 'draft']) expect(await refused(open(edition, reader))).toBe(403);
  for (const edition of ['3', '0', '-1', '1.5', 'x', '', '1;drop']) {
    expect(await refused(open(edition, analyst))).toBe(404);
  }
  expect(await openWatched(`${board}.1`, reader)).toBeNull();
  expect(await openWatched(`${board}.x`, analyst)).toBeNull();
  expect((await openWatched(`${board}.1`, analyst))?.edition).toBe(1);
});

test('nothing is changed from a version that is looked at', async () => {
  const looked = await open('1', analyst);
  expect(onlyLookedAt(looked, 'changing records')?.why).toBe(earlierRefusal);
  expect(onlyLookedAt(await open(null, analyst), 'changing records')).toBeNull();
  expect(onlyLookedAt(await open('draft', analyst), 'changing records')).toBeNull();
  const view = await viewOf(looked.opened, earlierRefusal);
  expect(view).toMatchObject({ edition: 1, mayAct: false, mayBuild: true });
  for (const offers of Object.values(view.offers)) expect(offers.refusal).toBe(earlierRefusal);
});

test('who sees which records is as it is now, in a version from before too', async () => {
  const definition = sound.dataSets.get(sound.ids.sailings);
  if (!definition) throw new Error('the fixture has no sailings');
  await saveDataSet({
    id: sound.ids.sailings,
    name: 'sailings',
    definition: { ...definition, rowRule: { field: 'vessel', test: { op: 'is', values: ['none such'] } } },
    revision: 1,
    by: null,
  });
  const { opened } = await open('1', analyst);
  expect(opened.shown.dataSets.get(sound.ids.sailings)?.rowRule).toBeDefined();
});
