import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { ChangeAnswer } from '#core/change/answer.ts';
import type { Values } from '#core/change/change.ts';
import { linesProblem } from '#core/change/lines.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { Action } from '#core/dataset/change/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { usesOfDataSet, usesOfField } from '#core/lineage/uses.ts';
import { changeContext, noted, notedLines, notesTables } from '#testing/changes.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { renameEverywhere } from '../lineage/rename.ts';
import { listen } from '../live/listen.ts';
import { historyOf } from '../store/changes.ts';
import { noticedIds } from '../store/data-changed.ts';
import { addDataSet, findDataSet } from '../store/data-sets.ts';
import { addUser, personOf, signIn, type User } from '../store/people.ts';
import { setChanger } from '../store/sources.ts';
import { lookAt } from './look.ts';
import { type Sender, sendChange } from './send.ts';
import { subjectOf } from './subject.ts';
import { undoChange } from './undo.ts';

/* Records of a database that are added together with others, in one go. */

let kept: KeptTest;
let una: User;
const [notes, lines] = [randomUUID(), randomUUID()];
let dataSets: Map<string, DataSet>;
const dashboardId = randomUUID();

beforeAll(async () => {
  kept = await keptTest();
  await kept.gates.query(notesTables);
  const url = new URL(kept.gatesUrl);
  await setChanger(kept.source, { user: url.username, secret: decodeURIComponent(url.password) });
  await addDataSet({ id: lines, name: 'Lines', by: null, definition: notedLines(kept.source) });
  await addDataSet({ id: notes, name: 'Notes', by: null, definition: noted(kept.source, lines) });
  await addUser({ email: 'una@skerry.example', name: 'Una', password: 'low-water' });
  const user = await personOf((await signIn('una@skerry.example', 'low-water')) ?? '');
  if (!user) throw new Error('nobody signed in');
  una = user;
});
beforeEach(async () => {
  await kept.gates.query('TRUNCATE notes CASCADE');
  dataSets = new Map([[notes, noted(kept.source, lines)]]);
});
afterAll(() => kept.close());

const context = (): Context => changeContext(notes, dataSets, una);
const sender = (): Sender => ({ user: una, deskId: null, dashboardId, context: context() });
const add = (given: readonly Values[], batch = randomUUID()): Promise<ChangeAnswer> =>
  sendChange(
    subjectOf('list', { action: 'add' }, context()),
    { batch, records: [], values: { note: 'first' }, lines: given },
    sender(),
  );
const there = async (): Promise<(readonly [string, number[]])[]> =>
  (
    await kept.gates.query<{ note: string; amounts: number[] }>(
      `SELECT note, array_remove(array_agg(amount ORDER BY amount), NULL) AS amounts
       FROM notes LEFT JOIN note_lines l ON l.note_id = notes.id GROUP BY notes.id, note`,
    )
  ).rows.map(({ note, amounts }) => [note, amounts] as const);
const batchOf = (answer: ChangeAnswer): string => {
  if (answer.state !== 'done') throw new Error(JSON.stringify(answer));
  return answer.batch;
};

describe('a record with its lines', () => {
  test('asks for both, is added in one go, told of in all data sets, and each line has its history', async () => {
    const look = await lookAt(subjectOf('list', { action: 'add' }, context()), [], context());
    // Which record they are of is known once there is one.
    expect(look.lines).toMatchObject({
      noun: { many: 'lines' },
      fields: [{ field: { name: 'amount' }, label: 'Amount', isRequired: true }],
    });
    const heard = new Set<string>();
    const stop = await listen('slate_changed', (notice) => {
      for (const id of noticedIds(notice ?? '')) heard.add(id);
    });
    const answer = await add([{ amount: '3' }, { amount: '4' }]);
    expect(answer).toMatchObject({ state: 'done', words: 'Add: 1 note with 2 lines.', canUndo: true });
    expect(await there()).toEqual([['first', [3, 4]]]);
    await expect.poll(() => [...heard]).toEqual(expect.arrayContaining([notes, lines]));
    await stop();
    const { rows } = await kept.gates.query<{ id: string }>(
      'SELECT id::text FROM note_lines ORDER BY amount',
    );
    const place = JSON.stringify([kept.source, 'public', 'note_lines']);
    expect(await historyOf(place, rows[0]?.id ?? '', 5)).toMatchObject([
      { label: 'Add', way: 'insert', before: null, after: { amount: '3' } },
    ]);
  });

  test('that was sent twice under one name is there once', async () => {
    const batch = randomUUID();
    await add([{ amount: '3' }], batch);
    expect(await add([{ amount: '3' }], batch)).toMatchObject({ state: 'done' });
    expect(await there()).toEqual([['first', [3]]]);
  });

  test('is not there at all where one of its lines cannot be, and what is wrong is told by line', async () => {
    expect(await add([{ amount: '3' }, { amount: 'many' }, {}])).toEqual({
      state: 'wrong',
      wrong: {},
      lines: [{}, { amount: '“many” is not a whole number' }, { amount: 'it is needed' }],
    });
    // Only the database knows that it must be above nothing.
    expect(await add([{ amount: '3' }, { amount: '-1' }])).toMatchObject({ state: 'failed' });
    expect(await there()).toEqual([]);
  });

  test('goes with its lines when it is taken back, unless somebody has changed one of them', async () => {
    const batch = batchOf(await add([{ amount: '3' }, { amount: '4' }]));
    await kept.gates.query('UPDATE note_lines SET amount = 5 WHERE amount = 4');
    expect(await undoChange({ batch: randomUUID(), of: batch }, sender())).toMatchObject({
      state: 'conflict',
      conflicts: [{ fields: [{ label: 'Amount', saw: '4', is: '5' }] }],
    });
    expect(await there()).toEqual([['first', [3, 5]]]);
    await kept.gates.query('UPDATE note_lines SET amount = 4 WHERE amount = 5');
    expect(await undoChange({ batch: randomUUID(), of: batch }, sender())).toMatchObject({
      state: 'done',
      words: 'Undo of “Add”: 1 note with 2 lines.',
    });
    expect(await there()).toEqual([]);
  });

  test('of an action that has no lines, or whose lines others add, is refused', async () => {
    const definition = noted(kept.source, lines);
    const without = (action: Action): Action => {
      const { lines: _, ...rest } = action;
      return rest;
    };
    dataSets = new Map([
      [
        notes,
        { ...definition, changes: { inPlace: [], actions: definition.changes?.actions.map(without) ?? [] } },
      ],
    ]);
    await expect(add([{ amount: '3' }])).rejects.toMatchObject({ problem: { code: 'forbidden' } });
    expect(await there()).toEqual([]);
  });
});

test('why lines cannot be added is said of each thing that may be missing', () => {
  const [note, line] = [noted('s', lines), notedLines('s')];
  const [action] = note.changes?.actions ?? [];
  if (!action) throw new Error('no action');
  const world = new Map<string, DataSet>();
  const why = (
    of: Partial<Action>,
    as: 'rows' | 'member' | null = 'rows',
    given: DataSet | undefined = line,
  ): string | null => linesProblem({ ...action, ...of }, note, given, world, as);
  expect(why({})).toBeNull();
  expect(why({ way: 'update' })).toContain('it adds none');
  expect(why({}, null)).toContain('takes no lines');
  expect(why({}, 'member')).toContain('what the service calls its lines');
  expect(why({}, 'rows', { ...line, source: 'other' })).toContain('another source');
  expect(why({}, 'rows', { ...line, changes: undefined })).toContain('what is asked of each');
  expect(why({ lines: { dataSet: lines, action: 'add', refers: 'gone' } })).toContain('“gone” cannot be set');
});

test('what refers to lines is told before they go, and follows a new name of the field', async () => {
  const named = [
    { id: notes, name: 'Notes', definition: noted(kept.source, lines) },
    { id: lines, name: 'Lines', definition: notedLines(kept.source) },
  ];
  const at = 'the action “Add” of “Notes”';
  expect(usesOfDataSet(lines, named, []).map((use) => use.at)).toEqual([at]);
  expect(usesOfField(lines, 'note_id', named, []).map((use) => use.at)).toContain(at);
  await renameEverywhere(lines, 'note_id', 'of_note', una.id);
  const [, changed] = await Promise.all([findDataSet(lines), findDataSet(notes)]);
  expect(changed?.definition.changes?.actions[0]?.lines?.refers).toBe('of_note');
  dataSets = new Map([[notes, changed?.definition as DataSet]]);
  expect(await add([{ amount: '6' }])).toMatchObject({ state: 'done' });
  await renameEverywhere(lines, 'of_note', 'note_id', una.id);
});
