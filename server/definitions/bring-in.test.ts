import { randomUUID } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { ne } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { everybody } from '#core/ask/condition/resolve.ts';
import { isFollowUpsOf } from '#core/change/follow-up-data.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { type DefinitionsFile, fileText, readDefinitions } from '#core/definitions/file.ts';
import { morningBrief } from '#demo/dashboards/morning-brief.ts';
import { zone } from '#demo/line.ts';
import { followUpsConnection } from '#sources/follow-ups/connection.ts';
import { soundFixture } from '../../testing/sound.ts';
import { showFollowUps, showsFollowUps } from '../change/show-follow-ups.ts';
import { contextOf } from '../panes/context.ts';
import { runPane } from '../panes/run.ts';
import { addDashboard, findDraft, findPublished, publish, removeDashboard } from '../store/dashboards.ts';
import { addDataSet, allDataSets, findDataSet, removeDataSet } from '../store/data-sets.ts';
import { database } from '../store/database.ts';
import { addDesk } from '../store/desks.ts';
import type { User } from '../store/people.ts';
import { findBuiltInSource, listSources } from '../store/sources.ts';
import { users } from '../store/tables/people.ts';
import { sources } from '../store/tables/sources.ts';
import { bringIn, offeredSources, reviewFile, type SourceChoice } from './bring-in.ts';
import { checkDefinitions, pullDefinitions, pushDefinitions } from './from-command-line.ts';
import { gatherDefinitions } from './gather.ts';

const now = new Date('2026-11-23T12:00:00Z');
const board = randomUUID();
let sound: Awaited<ReturnType<typeof soundFixture>>;
let desk = '';
let file: DefinitionsFile;

beforeAll(async () => {
  sound = await soundFixture(now);
  for (const [id, definition] of sound.dataSets)
    await addDataSet({ id, name: definition.noun.many, definition, by: null });
  desk = (await addDesk({ name: 'Sound', zone })).id;
  await addDashboard({
    id: board,
    deskId: desk,
    slug: 'morning',
    draft: morningBrief(sound.ids),
    by: null,
  });
  file = await gatherDefinitions({ dashboard: board });
});
afterAll(() => sound.end());

const readText = (text: string): DefinitionsFile => {
  const read = readDefinitions(text);
  if (!read.ok) throw new Error(read.why.join(' '));
  return read.file;
};
const here = async (): Promise<Map<string, SourceChoice>> =>
  new Map((await offeredSources(file)).map(({ id, likely }) => [id, { here: likely ?? '' }]));
const order = async (more: object = {}) => ({
  choices: await here(),
  deskId: desk,
  publishes: false,
  by: null,
  ...more,
});

/** What every pane of the draft answers, as text. */
async function numbers(): Promise<string> {
  const draft = await findDraft(board);
  if (!draft) throw new Error('the dashboard no longer exists');
  const { context } = contextOf(draft, new URLSearchParams(), now, everybody);
  const results = await Promise.all(context.dashboard.panes.map((pane) => runPane({ pane, context })));
  return JSON.stringify(results.map((result) => (result.state === 'ready' ? result.body : result)));
}

async function removeAll(): Promise<void> {
  await removeDashboard(board);
  for (const { id } of await allDataSets()) await removeDataSet(id);
}

describe('definitions that are taken out', () => {
  test('are a dashboard with what it needs and nothing else, without a credential', async () => {
    const text = fileText(file);
    expect(file.dashboards).toHaveLength(1);
    expect(file.dataSets.map(({ id }) => id)).toContain(sound.ids.sailings);
    expect(file.dataSets.map(({ id }) => id)).not.toContain(sound.ids.waiting);
    expect(file.sources.map(({ id }) => id)).toEqual([sound.ids.source]);
    expect(text).not.toContain(sound.address.password);
    expect(readText(text)).toEqual(readText(fileText(await gatherDefinitions({ desks: [desk] }))));
  });

  test('come back with the same numbers, and are the same as before', async () => {
    const before = await numbers();
    await removeAll();
    const done = await bringIn(readText(fileText(file)), await order({ publishes: true }));
    expect(done.ok && done.items.every(({ state }) => state === 'new')).toBe(true);
    expect(await numbers()).toBe(before);
    expect((await findPublished({ id: board }))?.dashboard.title).toBe('Morning brief');
    expect((await reviewFile(file, await here())).every(({ state }) => state === 'same')).toBe(true);
    expect(fileText(await gatherDefinitions({ dashboard: board }))).toBe(fileText(file));
  });

  test('replace what is here by what is otherwise, and touch nothing that is the same', async () => {
    const revisions = async () =>
      new Map((await allDataSets()).map(({ id, revision }) => [id, revision] as const));
    const before = await revisions();
    const changed = readText(fileText(file));
    for (const dataSet of changed.dataSets)
      if (dataSet.id === sound.ids.sailings)
        Object.assign(dataSet, {
          definition: { ...dataSet.definition, noun: { one: 'trip', many: 'trips' } },
        });
    const done = await bringIn(changed, await order());
    expect(done.ok && done.items.filter(({ state }) => state === 'changed')).toMatchObject([
      { id: sound.ids.sailings },
    ]);
    for (const [id, revision] of await revisions())
      expect(revision - (before.get(id) ?? 0)).toBe(id === sound.ids.sailings ? 1 : 0);
    await bringIn(file, await order());
  });
});

describe('nothing is brought in', () => {
  const refused = async (what: DefinitionsFile, more: object = {}): Promise<string> => {
    const before = JSON.stringify([await allDataSets(), await listSources(), await findDraft(board)]);
    const done = await bringIn(what, await order(more));
    expect(JSON.stringify([await allDataSets(), await listSources(), await findDraft(board)])).toBe(before);
    return done.ok ? '' : done.why.join(' ');
  };

  test('where one of its data sets cannot be', async () => {
    const broken = readText(fileText(file));
    const [first] = broken.dataSets;
    if (first)
      Object.assign(first, {
        id: randomUUID(),
        definition: {
          ...first.definition,
          request: { kind: 'of', dataSet: randomUUID(), columns: [] },
        },
      });
    expect(await refused(broken)).toContain('neither here nor in the file');
  });

  test('where its source is not decided, is gone, is of another kind, or does not let anybody in', async () => {
    expect(await refused(file, { choices: new Map() })).toContain('nobody has said which source');
    expect(await refused(file, { choices: new Map([[sound.ids.source, { here: randomUUID() }]]) })).toContain(
      'the source that was chosen no longer exists',
    );
    const elsewhere = readText(fileText(file));
    const other = randomUUID();
    const text = fileText(elsewhere).replaceAll(sound.ids.source, other);
    const moved = readText(text);
    expect(await refused(moved, { choices: new Map([[other, { secret: 'wrong' }]]) })).toMatch(
      /“Sound”: .*password/,
    );
    const unknown = readText(text.replace('"kind": "postgres"', '"kind": "oracle"'));
    expect(await refused(unknown, { choices: new Map([[other, { secret: 'x' }]]) })).toContain(
      'this installation cannot have such a source',
    );
  });

  test('of a new source but with its credential, which is tested first', async () => {
    const other = randomUUID();
    const moved = readText(fileText(file).replaceAll(sound.ids.source, other));
    const done = await bringIn(
      moved,
      await order({ choices: new Map([[other, { secret: sound.address.password }]]) }),
    );
    expect(done.ok).toBe(true);
    expect((await listSources()).map(({ id }) => id).sort()).toEqual([other, sound.ids.source].sort());
    expect((await findDraft(board))?.dataSets.get(sound.ids.sailings)?.source).toBe(other);
    await bringIn(file, await order());
  });
});

test('what people note of records goes with its data set, and finds its one source wherever it comes', async () => {
  const { ids } = sound;
  const incidents = await findDataSet(ids.incidents);
  const [someone] = await database()
    .insert(users)
    .values({ email: 'una@skerry.example', name: 'Una', passwordHash: 'x' })
    .returning();
  const una = { id: someone?.id ?? '', name: 'Una' } as User;
  expect(await showFollowUps({ id: ids.incidents, revision: incidents?.revision ?? 0 }, una)).toMatchObject({
    state: 'saved',
  });
  const taken = await gatherDefinitions({ dashboard: board });
  expect(taken.sources.map(({ name }) => name).sort()).toEqual(['Follow-ups', 'Sound']);
  await removeAll();
  await database().delete(sources).where(ne(sources.id, ids.source));
  const sourceHere = new Map([[ids.source, { here: ids.source }]]);
  expect(await bringIn(taken, await order({ choices: sourceHere }))).toMatchObject({ ok: true });
  const noted = (await allDataSets()).find(({ definition }) => isFollowUpsOf(definition, ids.incidents));
  expect(noted?.definition.source).toBe(await findBuiltInSource(followUpsConnection));
  expect(
    await showsFollowUps(ids.incidents, (await findDataSet(ids.incidents))?.definition ?? ({} as DataSet)),
  ).toBe(true);
});

test('the command line pulls, checks and pushes the same file', async () => {
  const folder = mkdtempSync(path.join(tmpdir(), 'slate-definitions-'));
  const at = path.join(folder, 'desk.json');
  expect((await pullDefinitions(at, 'sound'))[0]).toContain('1 dashboard,');
  expect(await checkDefinitions(at)).toEqual(['nothing is different']);
  await expect(pullDefinitions(at, 'elsewhere')).rejects.toThrow(
    'there is no desk “elsewhere”; there are sound',
  );
  writeFileSync(at, readFileSync(at, 'utf8').replace('"title": "Morning brief"', '"title": "Evening brief"'));
  expect((await checkDefinitions(at)).join()).toContain('The title is now “Evening brief”.');
  await publish(board, null, null);
  await pushDefinitions(at, { desk: undefined, publishes: true });
  expect((await findPublished({ id: board }))?.dashboard.title).toBe('Evening brief');
  writeFileSync(at, '{');
  await expect(checkDefinitions(at)).rejects.toThrow('This is not JSON');
  rmSync(folder, { recursive: true });
});
