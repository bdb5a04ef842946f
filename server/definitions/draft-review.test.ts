import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { everybody } from '#core/ask/condition/resolve.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import { morningBrief } from '#demo/dashboards/morning-brief.ts';
import { zone } from '#demo/line.ts';
import { soundFixture } from '../../testing/sound.ts';
import { addDashboard, findDraft, listVersions, publish, saveDraft } from '../store/dashboards.ts';
import { addDataSet } from '../store/data-sets.ts';
import { addDesk } from '../store/desks.ts';
import { addUser, whoseSignIn } from '../store/people.ts';
import { saveScope } from '../store/scopes.ts';
import { reviewDraft } from './draft-review.ts';

const board = randomUUID();
const { signal } = new AbortController();
let sound: Awaited<ReturnType<typeof soundFixture>>;
let brief: Dashboard;
let una = '';

beforeAll(async () => {
  sound = await soundFixture(new Date());
  for (const [id, definition] of sound.dataSets)
    await addDataSet({ id, name: definition.noun.many, definition, by: null });
  const desk = await addDesk({ name: 'Sound', zone });
  brief = morningBrief(sound.ids);
  await addUser({ email: 'una@skerry.example', name: 'Una', password: 'low-water' });
  una = (await whoseSignIn('una@skerry.example', 'low-water')) ?? '';
  await addDashboard({ id: board, deskId: desk.id, slug: 'morning', draft: brief, by: null });
});
afterAll(() => sound.end());

async function reviewed(draft: Dashboard) {
  const now = await findDraft(board);
  await saveDraft({ id: board, draft, revision: now?.revision ?? 0, by: una });
  const saved = await findDraft(board);
  if (!saved) throw new Error('the dashboard no longer exists');
  return reviewDraft(saved, everybody, signal);
}

test('a draft is looked at before it is published, and what readers will find changed is said', async () => {
  expect((await reviewed(brief)).changes).toBeNull();
  await publish(board, null, null, 'As agreed on Monday');
  expect(await listVersions(board)).toMatchObject([{ number: 1, remark: 'As agreed on Monday' }]);
  const same = await reviewed(brief);
  expect(same.changes).toEqual([]);
  expect(same.findings.filter(({ tone }) => tone === 'broken')).toEqual([]);
  const { changes } = await reviewed({ ...brief, title: 'Evening brief' });
  expect(changes).toEqual(['The dashboard is called “Evening brief” now.']);
});

test('what fails, shows nothing, narrows nothing or loses its saved scopes is found', async () => {
  const [clause] = brief.scope;
  const [pane] = brief.panes.filter(({ kind }) => kind === 'table');
  if (!clause || !pane || pane.kind !== 'table') throw new Error('the brief has no clause or no table');
  await saveScope({ dashboardId: board, owner: una, name: 'My route', search: `?${clause.name}=x` });
  const table = { ...pane, dataSet: sound.ids.sailings, when: undefined };
  const { findings } = await reviewed({
    ...brief,
    scope: [
      ...brief.scope.slice(1),
      { name: 'nobody', many: 'orders', offer: 'values', dataSet: sound.ids.orders, field: 'title' },
    ],
    panes: [
      {
        ...table,
        id: 'fails',
        title: 'Fails',
        keeping: { field: 'passengers', test: { op: 'atLeast', value: 'many' } },
      },
      {
        ...table,
        id: 'empty',
        title: 'Empty',
        keeping: { field: 'passengers', test: { op: 'atLeast', value: '100000' } },
      },
    ],
  });
  const text = findings.map(({ tone, words }) => `${tone}: ${words}`).join('\n');
  expect(text).toMatch(/broken: “Fails” fails: /);
  expect(text).toContain('slipping: “Empty” shows nothing just now.');
  expect(text).toContain('The reader filter “orders” narrows nothing on this dashboard.');
  expect(text).toContain(`Saved scopes lose their “${clause.many}”: “My route”.`);
});
