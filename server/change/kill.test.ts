import { type ChildProcess, spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { rmSync } from 'node:fs';
import path from 'node:path';
import { createInterface } from 'node:readline';
import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { noted, notedLines, notesTables } from '#testing/changes.ts';
import { bundled } from '../../scripts/bundle.mjs';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { addDataSet } from '../store/data-sets.ts';
import { addUser, signIn } from '../store/people.ts';
import { setChanger } from '../store/sources.ts';
import { settleChanges } from './settle.ts';

/*
 * Whoever sends changes is killed (SIGKILL) at any point: a change is made once or not at all, of all its records or of none, and what is
 * noted of it is what is so.
 */

let kept: KeptTest;
let program: string;
const kills = Number(process.env.SLATE_KILLS || 30);

beforeAll(async () => {
  kept = await keptTest();
  program = await bundled('testing/change-forever.ts');
});
afterAll(async () => {
  rmSync(path.dirname(program), { recursive: true, force: true });
  await kept.close();
});

test('a change whose sender is killed at any point is whole or not there, and noted as what it is', {
  timeout: 60_000 + kills * 4_000,
}, async () => {
  await kept.gates.query(
    `${notesTables} INSERT INTO notes SELECT n, 'first' FROM generate_series(1, 5) AS n`,
  );
  const url = new URL(kept.gatesUrl);
  await setChanger(kept.source, { user: url.username, secret: decodeURIComponent(url.password) });
  const [id, lines] = [randomUUID(), randomUUID()];
  await addDataSet({ id: lines, name: 'Lines', by: null, definition: notedLines(kept.source) });
  await addDataSet({ id, name: 'Notes', by: null, definition: noted(kept.source, lines) });
  await addUser({ email: 'una@skerry.example', name: 'Una', password: 'low-water' });
  const token = (await signIn('una@skerry.example', 'low-water')) ?? '';
  const start = (): { child: ChildProcess; begun: Promise<unknown>; line: () => Promise<string> } => {
    const child = spawn(process.execPath, [program, id, token], {
      stdio: ['pipe', 'pipe', 'inherit'],
      env: process.env,
    });
    const lines = createInterface({ input: child.stdout })[Symbol.asyncIterator]();
    const line = async (): Promise<string> => {
      const { value, done } = await lines.next();
      if (done) throw new Error('it ended by itself');
      return value;
    };
    const begun = line().then(() => child.stdin.write('begin\n'));
    begun.catch(() => undefined);
    return { child, begun, line };
  };
  // How long a change takes here, in ms: kills are spread over it, however fast the machine is.
  let took = 0;
  let next = start();
  for (let kill = 0; kill < kills; kill += 1) {
    const { child, begun, line } = next;
    next = start();
    await begun;
    // As the first or the second change is sent or after it is made, and anywhere in what comes then.
    let since = 0;
    for (let lines = 0; lines <= kill % 4; lines += 1) {
      if ((await line()) === 'sending') since = performance.now();
      else took = performance.now() - since;
    }
    await wait((took * ((kill * 37) % 120)) / 100);
    const ended = new Promise((resolve) => child.once('exit', resolve));
    child.kill('SIGKILL');
    await ended;
    const { rows } = await kept.gates.query('SELECT count(DISTINCT note)::int AS n FROM notes WHERE id <= 5');
    expect(rows[0].n).toBe(1);
  }
  next.child.kill('SIGKILL');
  // The source ends what nobody is there for any more; then all that is open can be settled.
  const later = new Date(Date.now() + 200_000);
  const open = async (): Promise<number> => {
    await settleChanges(later);
    const { rows } = await kept.own.query(
      `SELECT count(*)::int AS n FROM change_batches WHERE state IN ('sending', 'unknown')`,
    );
    return rows[0].n;
  };
  await expect.poll(open, { timeout: 30_000 }).toBe(0);
  const { rows: batches } = await kept.own.query<{ id: string; state: string; way: string }>(
    'SELECT id, state, way FROM change_batches ORDER BY at',
  );
  const { rows: notes } = await kept.gates.query<{ note: string; n: number }>(
    'SELECT note, count(*)::int AS n FROM notes WHERE id > 5 GROUP BY note',
  );
  const made = new Map(notes.map(({ note, n }) => [note, n]));
  const added = batches.filter(({ way }) => way === 'insert');
  for (const { id: batch, state } of added)
    expect([state, made.get(batch) ?? 0]).toEqual(state === 'done' ? ['done', 1] : ['refused', 0]);
  // With all of its lines, or with none and not there itself.
  const { rows: linesOf } = await kept.gates.query<{ n: number }>(
    'SELECT count(l.id)::int AS n FROM notes LEFT JOIN note_lines l ON l.note_id = notes.id WHERE notes.id > 5 GROUP BY notes.id',
  );
  expect(linesOf.every(({ n }) => n === 2)).toBe(true);
  // Nothing is there that nobody noted.
  expect([...made.keys()].filter((note) => !added.some(({ id: batch }) => batch === note))).toEqual([]);
  expect(added.filter(({ state }) => state === 'done').length).toBeGreaterThan(0);
  const last = batches.filter(({ way, state }) => way === 'update' && state === 'done').at(-1);
  const { rows } = await kept.gates.query('SELECT DISTINCT note FROM notes WHERE id <= 5');
  if (last) expect(rows).toEqual([{ note: last.id }]);
});
