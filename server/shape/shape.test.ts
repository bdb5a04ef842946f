import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { withOutcome } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import { followingRename, usesOfDataSet, usesOfField } from '#core/lineage/uses.ts';
import { relationWith } from '#core/plan/relation.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { runChecks } from '../checks/run.ts';
import { settledDataSet } from '../edit.ts';
import { refresh } from '../kept/refresh.ts';
import { renameEverywhere } from '../lineage/rename.ts';
import { countRecords, runPlan } from '../records/run.ts';
import { addDashboard, findDraft } from '../store/dashboards.ts';
import { addDataSet, findDataSet, worldOf } from '../store/data-sets.ts';
import { addDesk } from '../store/desks.ts';
import { currentVersion } from '../store/kept.ts';
import { insideOf } from './inside.ts';
import { matchesOf, nearFields, severalMatches } from './look-up.ts';
import { profileAfter, spreadOfValues } from './profile.ts';
import { alikeAfter, figuresAfter, recordsAfter, valuesAfter } from './records.ts';
import type { Shaping } from './shaping.ts';
import { traceOf } from './trace.ts';

/* The questions of the page of steps, and what rests on them, against a real PostgreSQL and real kept records. */

let installed: KeptTest;
const clock = { now: new Date('2026-11-23T12:00:00Z'), zone: 'Europe/London' };
const ids = { gates: randomUUID(), scans: randomUUID(), tickets: randomUUID() };

const table = (name: string, fields: DataSet['fields'], more: Partial<DataSet> = {}): DataSet => ({
  version: 2,
  source: installed.source,
  request: {
    kind: 'table',
    schema: 'public',
    table: name,
    columns: fields.map(({ name: column, type }) => ({ column, name: column, type })),
    lookUps: [],
  },
  inputs: [],
  fields,
  key: 'id',
  noun: { one: 'scan', many: 'scans' },
  measures: [{ name: 'count', label: 'scans', calculation: { kind: 'count' } }],
  ...more,
});

beforeAll(async () => {
  installed = await keptTest();
  await installed.gates.query(`
    CREATE TABLE gate (id bigint PRIMARY KEY, code text, terminal text);
    INSERT INTO gate VALUES (1, 'NRK-1', 'Norrick'), (2, 'NRK-2', 'Norrick'), (3, 'SKH-1', 'Skerryhaven'), (4, 'SKH-1', 'Skerryhaven again');
    CREATE TABLE scan (id bigint PRIMARY KEY, gate text, took text, at timestamptz, more text);
    INSERT INTO scan SELECT n, (ARRAY['NRK-1', 'NRK-2', 'FNB-9'])[1 + n % 3], CASE WHEN n % 50 = 0 THEN 'n/a' ELSE (n % 90)::text END,
      '2026-11-22T00:00:00Z'::timestamptz + n * interval '1 minute', '[{"kind":"first","n":' || n || '},{"kind":"second"}]' FROM generate_series(1, 300) AS n`);
  await addDataSet({
    id: ids.gates,
    name: 'Gates',
    by: installed.author,
    definition: table('gate', [
      { name: 'id', type: 'integer' },
      { name: 'code', type: 'text' },
      { name: 'terminal', type: 'text' },
    ]),
  });
  await addDataSet({
    id: ids.scans,
    name: 'Scans',
    by: installed.author,
    definition: table(
      'scan',
      [
        { name: 'id', type: 'integer' },
        { name: 'gate', type: 'text' },
        { name: 'took', type: 'text' },
        { name: 'at', type: 'instant' },
        { name: 'more', type: 'nested' },
      ],
      { keep: { mode: { kind: 'replace' }, schedule: { kind: 'by hand' } } },
    ),
  });
  const columns = [
    { column: 'id', name: 'id', type: 'integer' as const },
    { column: 'code', name: 'code', type: 'text' as const },
    { column: 'sold', name: 'sold', type: 'integer' as const },
  ];
  await addDataSet({
    id: ids.tickets,
    name: 'Tickets',
    by: installed.author,
    definition: table('ticket', columns, {
      request: {
        kind: 'sql',
        text: "SELECT n AS id, 'T-' || n % 12000 AS code, greatest(n, 3000) AS sold FROM generate_series(1, 24000) AS n",
        columns,
      },
      keep: { mode: { kind: 'replace' }, schedule: { kind: 'by hand' } },
    }),
  });
  for (const id of [ids.scans, ids.tickets]) expect((await refresh(id)).state).toBe('done');
});
afterAll(() => installed.close());

async function shaping(steps: readonly Step[], id = ids.scans): Promise<Shaping> {
  const stored = await findDataSet(id);
  if (!stored) throw new Error('no data set');
  const before = { ...stored.definition, start: stored.definition.fields, steps: [...steps] };
  const world = await worldOf(before);
  const all = new Map([
    ...world,
    [ids.gates, (await findDataSet(ids.gates))?.definition ?? stored.definition],
  ]);
  return {
    id,
    definition: withOutcome(before, all),
    world: all,
    clock,
    person: { name: 'Rona', email: 'rona@skerry.example' },
    signal: new AbortController().signal,
  };
}

const lookUp = (
  over: Partial<Extract<Step, { kind: 'lookUp' }>> = {},
): Extract<Step, { kind: 'lookUp' }> => ({
  kind: 'lookUp',
  id: 'look',
  from: { dataSet: ids.gates },
  on: [{ field: 'gate', other: 'code' }],
  mode: 'one',
  take: [{ field: 'terminal', as: 'terminal' }],
  order: [],
  ...over,
});
const read: Step = { kind: 'type', id: 'read', field: 'took', to: 'integer', misfit: 'list' };
const unfold: Step = {
  kind: 'unfold',
  id: 'unfold',
  field: 'more',
  as: 'part',
  place: 'number',
  keepEmpty: true,
};

describe('steps over records in two places', () => {
  test('bring kept ones and live ones together: only what is needed is asked of the source', async () => {
    const question = await shaping([lookUp()]);
    const { fields, records } = await recordsAfter(question, 1, 1);
    const at = fields.findIndex(({ name }) => name === 'terminal');
    const gate = fields.findIndex(({ name }) => name === 'gate');
    expect(records).toHaveLength(50);
    for (const record of records)
      expect(record[at]).toBe({ 'NRK-1': 'Norrick', 'NRK-2': 'Norrick' }[String(record[gate])] ?? null);
    const counted = await figuresAfter(question, 1);
    expect(counted).toMatchObject({ records: '300', blank: { terminal: '100' } });
  });

  test('of a live table are on one page each, though the table is written meanwhile, as long as there is what identifies them', async () => {
    await installed.gates.query(
      'CREATE TABLE pass AS SELECT n::bigint AS id, n % 7 AS berth FROM generate_series(1, 120) AS n',
    );
    const id = randomUUID();
    const fields: DataSet['fields'] = [
      { name: 'id', type: 'integer' },
      { name: 'berth', type: 'integer' },
    ];
    await addDataSet({ id, name: 'Passes', by: installed.author, definition: table('pass', fields) });
    const derived: Step = {
      kind: 'derive',
      id: 'd',
      name: 'next',
      making: { kind: 'expression', text: 'berth + 1' },
    };
    for (const steps of [[], [derived]]) {
      const asked = await shaping(steps, id);
      const found: unknown[] = [];
      for (const page of [1, 2, 3]) {
        const { records, more } = await recordsAfter(asked, steps.length, page);
        expect(more).toBe(page < 3);
        found.push(...records.map(([first]) => String(first)));
        // What is written again stands at the end of the table.
        await installed.gates.query('UPDATE pass SET berth = berth WHERE id <= $1', [page * 10]);
      }
      expect(found).toEqual(Array.from({ length: 120 }, (_, at) => String(at + 1)));
    }
    const without = await shaping([{ kind: 'fields', id: 'f', keep: ['berth'] }], id);
    expect((await recordsAfter(without, 1, 3)).records).toHaveLength(20);
  });

  test('neither multiply nor drop records, whatever the mode', async () => {
    for (const step of [
      lookUp(),
      lookUp({ mode: 'first', order: [{ by: 'id' }] }),
      lookUp({ mode: 'count', take: [], as: 'n' }),
      lookUp({ mode: 'any', take: [], as: 'n' }),
      lookUp({ mode: 'all', as: 'n' }),
      lookUp({ mode: 'aggregate', take: [], as: 'n', calculation: { kind: 'greatest', field: 'id' } }),
    ])
      expect((await figuresAfter(await shaping([step]), 1)).records, step.mode).toBe('300');
  });

  test('several matches where one was meant are refused with an example, until another mode is chosen', async () => {
    await installed.gates.query("UPDATE scan SET gate = 'SKH-1' WHERE id = 7");
    expect((await refresh(ids.scans)).state).toBe('done');
    try {
      const asked = await shaping([lookUp()]);
      const outcome = await figuresAfter(asked, 1).catch((thrown) => problemOf(thrown, ''));
      expect(outcome).toMatchObject({
        code: 'bad-request',
        why: 'one match was meant for “gate”, and there are several for SKH-1',
      });
      const found = await matchesOf(asked, lookUp(), 0);
      expect(found).toMatchObject({
        records: '300',
        several: '1',
        withSeveral: [{ value: 'SKH-1', count: '1' }],
      });
      expect(found.without[0]).toEqual({ value: 'FNB-9', count: '100' });
      expect(await severalMatches(asked)).toEqual([
        'Step 1 looks up the one match, and finds several for 1 of the scans, such as for “SKH-1”: choose which, or another way',
      ]);
      expect(
        await severalMatches(await shaping([lookUp({ off: true }), lookUp({ mode: 'any', as: 'x' })])),
      ).toEqual([]);
      const only: Step = {
        kind: 'where',
        id: 'w',
        condition: { field: 'id', test: { op: 'is', values: ['7'] } },
      };
      const first = await recordsAfter(
        await shaping([lookUp({ mode: 'first', order: [{ by: 'id', descending: true }] }), only]),
        2,
        1,
      );
      const terminal = first.fields.findIndex(({ name }) => name === 'terminal');
      expect(first.records.map((record) => record[terminal])).toEqual(['Skerryhaven again']);
    } finally {
      await installed.gates.query("UPDATE scan SET gate = 'NRK-2' WHERE id = 7");
      await refresh(ids.scans);
    }
  });

  test('are brought together for a step that only kept records can do, though it is in what is looked up', async () => {
    const gates = (await findDataSet(ids.gates))?.definition;
    if (!gates) throw new Error('no data set');
    const numbered = withOutcome(
      {
        ...gates,
        start: gates.fields,
        steps: [
          {
            kind: 'derive',
            id: 'number',
            name: 'number',
            making: { kind: 'extract', field: 'code', pattern: '-([0-9]+)$' },
          },
        ],
      },
      new Map(),
    );
    const looking: DataSet = {
      ...gates,
      start: gates.fields,
      steps: [lookUp({ on: [{ field: 'id', other: 'id' }], take: [{ field: 'number', as: 'gate number' }] })],
    };
    const planning = { world: new Map([[ids.gates, numbered]]), clock };
    const { records, live } = await runPlan(
      {
        kind: 'records',
        from: relationWith(looking, randomUUID(), {}, planning),
        zone: 'UTC',
        where: { all: [] },
        fields: ['code', 'gate number'],
        order: [{ by: 'id' }],
        offset: 0,
        limit: 2,
      },
      { doing: 'testing' },
    );
    expect(live).toBe(false);
    expect(records).toEqual([
      ['NRK-1', '1'],
      ['NRK-2', '2'],
    ]);
  });

  test('say where a field could be looked up, by how many of its values are there', async () => {
    const near = await nearFields(await shaping([{ kind: 'rename', id: 'r', field: 'gate', as: 'code' }]), 1);
    expect(near[0]).toMatchObject({ dataSet: ids.gates, other: 'code', field: 'code' });
    expect(near[0]?.overlap).toBeCloseTo(2 / 3);
  });

  test('are best looked up where most of their values stand, not where a field has the same name', async () => {
    // Both identifiers are called "code", and share no value; another field holds those that there are.
    const asked = await shaping([
      { kind: 'rename', id: 'g', field: 'gate', as: 'gate code' },
      { kind: 'derive', id: 'd', name: 'code', making: { kind: 'expression', text: "'none of them'" } },
    ]);
    const keyed = await findDataSet(ids.gates);
    const world = new Map(asked.world);
    if (keyed) world.set(ids.gates, { ...keyed.definition, key: 'code' });
    const near = await nearFields({ ...asked, world }, 2);
    const gates = near.filter(({ dataSet }) => dataSet === ids.gates);
    expect(gates).toMatchObject([{ field: 'gate code', other: 'code' }]);
  });

  test('are counted without waiting for the comparison with every other data set', async () => {
    const asked = await shaping([]);
    const gates = (await findDataSet(ids.gates))?.definition;
    if (!gates) throw new Error('no data set');
    const others = Array.from({ length: 40 }, () => [randomUUID(), { ...gates, key: 'code' }] as const);
    const all = { ...asked, world: new Map([...asked.world, ...others]) };
    const done: string[] = [];
    const comparing = nearFields(all, 0).then(() => done.push('compared'));
    await matchesOf(all, lookUp(), 0);
    done.push('counted');
    await comparing;
    expect(done).toEqual(['counted', 'compared']);
  });
});

describe('the page of steps', () => {
  test('counts what each step did to all records, and the values that a type change lost', async () => {
    const question = await shaping([read, unfold]);
    expect(await figuresAfter(question, 0)).toMatchObject({ records: '300', lost: '0' });
    expect(await figuresAfter(question, 1)).toMatchObject({
      records: '300',
      lost: '6',
      blank: { took: '6', 'took as written': '294' },
    });
    expect((await figuresAfter(question, 2)).records).toBe('600');
  });

  test('describes fields over all records: kinds of text, blanks, different values, spread', async () => {
    const [took, at] = await profileAfter(await shaping([]), 0, ['took', 'at']);
    expect(took).toMatchObject({ records: '300', blank: '0', distinct: '91', about: false });
    expect(took?.readable).toMatchObject({ integer: '294', decimal: '294', date: '0' });
    expect(took?.frequent[0]).toEqual({ value: 'n/a', count: '6' });
    expect(at?.least).toBe('2026-11-22T00:01:00Z');
    expect(at?.spread.reduce((sum, n) => sum + Number(n), 0)).toBe(300);
  });

  test('does not take the values that it lists for all there are, nor the first records for the rest', async () => {
    const [code, sold] = await profileAfter(await shaping([], ids.tickets), 0, ['code', 'sold']);
    expect([code?.about, sold?.about]).toEqual([true, true]);
    expect(Math.abs(Number(code?.distinct) - 12_000)).toBeLessThan(1_200);
    expect(Math.abs(Number(sold?.distinct) - 21_001)).toBeLessThan(2_100);
    expect(sold?.spread.reduce((sum, n) => sum + Number(n), 0)).toBe(24_000);
  });

  test.each([
    ['kept', ids.scans],
    ['live', ids.gates],
  ])('counts moments that are written without a zone, %s', async (_, id) => {
    const text = "CASE WHEN id % 2 = 0 THEN '2026-11-22 06:40' ELSE '2026-11-22T06:40:00.5+01:00' END";
    const making = { kind: 'expression' as const, text };
    const asked = await shaping([{ kind: 'derive', id: 'd', name: 'said', making }], id);
    const [said] = await profileAfter(asked, 1, ['said']);
    const all = Number(said?.records);
    expect(said?.readable).toMatchObject({ instant: String(all), local: String(all / 2), date: '0' });
  });

  test('counts records that are alike in every field, blanks too', async () => {
    const fields = (...keep: string[]): Step => ({ kind: 'fields', id: 'f', keep });
    expect(await alikeAfter(await shaping([fields('gate')]), 1)).toBe('297');
    expect(await alikeAfter(await shaping([fields('id', 'gate')]), 1)).toBe('0');
    // Of 294 that were read and 6 that could not be, 90 different ones and a blank.
    expect(await alikeAfter(await shaping([read, { ...fields('took'), id: 'g' }]), 2)).toBe('209');
  });

  test('gives the values that a field has, by how many records have each, and those that contain a text', async () => {
    const asked = await shaping([{ kind: 'rename', id: 'r', field: 'gate', as: 'code' }]);
    const all = await valuesAfter(asked, 1, { field: 'code', find: '' });
    expect(all.more).toBe(false);
    expect(new Map(all.values.map(({ value, count }) => [value, count]))).toEqual(
      new Map([
        ['NRK-1', '100'],
        ['NRK-2', '100'],
        ['FNB-9', '100'],
      ]),
    );
    const found = await valuesAfter(asked, 1, { field: 'code', find: 'fnb' });
    expect(found.values).toEqual([{ value: 'FNB-9', count: '100' }]);
    const many = await valuesAfter(asked, 1, { field: 'id', find: '' });
    expect(many).toMatchObject({ more: true });
    expect(many.values).toHaveLength(200);
  });

  test('finds what is inside a list', async () => {
    const inside = await insideOf(await shaping([]), 0, 'more');
    expect(inside).toEqual({
      kind: 'list',
      members: [
        { path: '/kind', name: 'kind', type: 'text' },
        { path: '/n', name: 'n', type: 'integer' },
      ],
    });
  });

  test('follows a record back through its steps to what the source gave', async () => {
    const asked = await shaping([read, { kind: 'rename', id: 'r', field: 'gate', as: 'scanner' }, unfold]);
    const { fields, records } = await recordsAfter(asked, 3, 1);
    const [record] = records;
    const chosen = Object.fromEntries(
      fields.map(({ name }, at) => [name, record?.[at] === null ? null : String(record?.[at])]),
    );
    const trace = await traceOf(asked, 3, chosen);
    expect(trace.map(({ steps, total }) => [steps, total])).toEqual([
      [0, '1'],
      [1, '1'],
      [2, '1'],
      [3, '1'],
    ]);
    const source = trace[0];
    expect(source?.records[0]?.[source.fields.findIndex(({ name }) => name === 'id')]).toBe(chosen.id);
  });
});

describe('checks', () => {
  const unique = {
    name: 'One code each',
    expects: { kind: 'unique' as const, fields: ['code'] },
    holds: false,
  };

  test('name what is not as expected, and how much', async () => {
    const stored = await findDataSet(ids.gates);
    if (!stored) throw new Error('no data set');
    const definition: DataSet = {
      ...stored.definition,
      checks: [
        unique,
        { name: 'Has a terminal', expects: { kind: 'filled', field: 'terminal' }, holds: false },
        { name: 'Few', expects: { kind: 'count', least: 1, most: 3 }, holds: false },
        {
          name: 'Norrick',
          expects: { kind: 'all', where: { field: 'code', test: { op: 'startsWith', text: 'NRK' } } },
          holds: false,
        },
      ],
    };
    const tried = await runChecks({ id: ids.gates, definition, now: clock.now });
    expect(tried.map(({ name, state, failing }) => [name, state, failing])).toEqual([
      ['One code each', 'broken', '2'],
      ['Has a terminal', 'met', '0'],
      ['Few', 'broken', '0'],
      ['Norrick', 'broken', '2'],
    ]);
  });

  test('that hold back leave readers the version before, also when they are of a data set made of this one', async () => {
    const id = randomUUID();
    const own = await findDataSet(ids.scans);
    if (!own) throw new Error('no data set');
    await addDataSet({
      id,
      name: 'Scans with a terminal',
      by: installed.author,
      definition: withOutcome(
        {
          ...own.definition,
          request: { kind: 'of', dataSet: ids.scans, columns: [] },
          start: own.definition.fields,
          steps: [
            { kind: 'where', id: 'w', condition: { field: 'gate', test: { op: 'startsWith', text: 'NRK' } } },
          ],
          checks: [{ name: 'Some are left', expects: { kind: 'count', least: 1 }, holds: true }],
        },
        await worldOf(own.definition),
      ),
    });
    const before = await currentVersion(ids.scans);
    await installed.gates.query("UPDATE scan SET gate = 'lost ' || gate");
    const held = await refresh(ids.scans);
    expect(held).toMatchObject({ state: 'failed' });
    expect('problem' in held ? held.problem.why : '').toContain(
      '“Some are left” of “Scans with a terminal” holds the new records back',
    );
    expect((await currentVersion(ids.scans))?.id).toBe(before?.id);
    await installed.gates.query("UPDATE scan SET gate = replace(gate, 'lost ', '')");
    expect((await refresh(ids.scans)).state).toBe('done');
  });
});

describe('a data set made of another, and a subset', () => {
  test('follow it: when three records change, the count changes by three at once', async () => {
    const relation = async () => {
      const gates = (await findDataSet(ids.gates))?.definition;
      if (!gates) throw new Error('no data set');
      const of: DataSet = {
        ...gates,
        request: { kind: 'of', dataSet: ids.gates, subset: 'norrick', columns: [] },
      };
      const subsets = [
        {
          name: 'norrick',
          label: 'gates at Norrick',
          where: { field: 'terminal', test: { op: 'is' as const, values: ['Norrick'] } },
        },
      ];
      return relationWith(
        of,
        randomUUID(),
        {},
        { world: new Map([[ids.gates, { ...gates, subsets }]]), clock },
      );
    };
    const count = async (): Promise<string> =>
      countRecords(
        {
          kind: 'records',
          from: await relation(),
          zone: 'UTC',
          where: { all: [] },
          fields: [],
          order: [],
          offset: 0,
          limit: 1,
        },
        { doing: 'counting' },
      );
    expect(await count()).toBe('2');
    await installed.gates.query(
      "INSERT INTO gate VALUES (11, 'NRK-3', 'Norrick'), (12, 'NRK-4', 'Norrick'), (13, 'NRK-5', 'Norrick')",
    );
    expect(await count()).toBe('5');
    await installed.gates.query('DELETE FROM gate WHERE id > 10');
    expect(await count()).toBe('2');
  });

  test('that look one another up in a circle are refused, not followed for ever', async () => {
    const gates = (await findDataSet(ids.gates))?.definition;
    if (!gates) throw new Error('no data set');
    const circle: DataSet = { ...gates, request: { kind: 'of', dataSet: ids.gates, columns: [] } };
    expect(() =>
      relationWith(circle, ids.gates, {}, { world: new Map([[ids.gates, circle]]), clock }),
    ).toThrow('circle');
  });
});

test('a field that is renamed everywhere is carried through measures, other data sets and dashboards, and all still answer', async () => {
  const id = randomUUID();
  const gates = (await findDataSet(ids.gates))?.definition;
  const scans = (await findDataSet(ids.scans))?.definition;
  if (!gates || !scans) throw new Error('no data set');
  const { keep: _, ...live } = scans;
  const plain = randomUUID();
  await addDataSet({
    id: plain,
    name: 'Gates to rename',
    by: installed.author,
    definition: {
      ...gates,
      measures: [
        { name: 'terminals', label: 'terminals', calculation: { kind: 'distinct', field: 'terminal' } },
      ],
    },
  });
  await addDataSet({
    id,
    name: 'Scans that look up',
    by: installed.author,
    definition: withOutcome(
      { ...live, start: scans.fields, steps: [lookUp({ from: { dataSet: plain } })] },
      new Map([[plain, gates]]),
    ),
  });
  const desk = await addDesk({ slug: randomUUID(), name: 'Gates', zone: 'UTC' });
  const dashboard = randomUUID();
  await addDashboard({
    id: dashboard,
    deskId: desk.id,
    slug: 'gates',
    by: installed.author,
    draft: {
      version: 4,
      title: 'Gates',
      scope: [{ name: 'terminal', many: 'terminals', offer: 'values', dataSet: plain, field: 'terminal' }],
      panes: [
        {
          kind: 'chart',
          id: 'chart',
          title: 'By terminal',
          dataSet: plain,
          mark: 'bars',
          measure: 'terminals',
          by: { field: 'terminal' },
          order: 'value',
          place: { x: 0, y: 0, w: 6, h: 6 },
          keeping: { field: 'terminal', test: { op: 'filled' } },
        },
      ],
    },
  });
  await renameEverywhere(plain, 'terminal', 'harbour', installed.author);
  const renamed = await findDataSet(plain);
  expect(renamed?.definition.fields.map(({ name }) => name)).toContain('harbour');
  expect(renamed?.definition.measures[0]?.calculation).toEqual({ kind: 'distinct', field: 'harbour' });
  const draft = await findDraft(dashboard);
  expect(draft?.dashboard.scope[0]).toMatchObject({ field: 'harbour' });
  expect(draft?.dashboard.panes[0]).toMatchObject({
    by: { field: 'harbour' },
    keeping: { field: 'harbour', test: { op: 'filled' } },
  });
  const looking = (await findDataSet(id))?.definition;
  if (!looking) throw new Error('no data set');
  const { records } = await runPlan(
    {
      kind: 'groups',
      from: relationWith(looking, id, {}, { world: await worldOf(looking), clock }),
      zone: 'UTC',
      where: { all: [] },
      by: [{ field: 'terminal' }],
      measures: [{ name: 'n', calculation: { kind: 'count' } }],
      order: [{ by: 'group:0' }],
      limit: 10,
    },
    { doing: 'testing' },
  );
  expect(records).toEqual([
    ['Norrick', '200'],
    [null, '100'],
  ]);
  await expect(renameEverywhere(plain, 'harbour', 'code', installed.author)).rejects.toThrow('already');
});

describe('a spread worked out from the different values', () => {
  const stretch = (low: string, below: string | null) => ({ low, below });
  const some = (...values: [string | null, string][]) => values.map(([value, count]) => ({ value, count }));

  test('puts each into the stretch that it begins or lies in, to the last digit', () => {
    const ends = [stretch('0', '0.1'), stretch('0.1', '0.2'), stretch('0.2', null)];
    const values = some(
      ['0.09999999999999999999', '2'],
      ['0.1', '3'],
      ['0.2', '5'],
      ['7', '11'],
      [null, '13'],
    );
    expect(spreadOfValues({ type: 'decimal' }, ends, values)).toEqual(['2', '3', '16']);
    expect(spreadOfValues({ type: 'decimal' }, [], values)).toEqual([]);
  });

  test('takes moments as moments, and passes over what is none', () => {
    const ends = [
      stretch('2026-11-23T00:00:00.000Z', '2026-11-23T12:00:00.000Z'),
      stretch('2026-11-23T12:00:00.000Z', null),
    ];
    const values = some(
      ['2026-11-23T11:59:59.999999Z', '1'],
      ['2026-11-23T12:00:00Z', '2'],
      ['infinity', '4'],
    );
    expect(spreadOfValues({ type: 'instant' }, ends, values)).toEqual(['1', '2']);
  });
});

describe('an input whose values stand in another data set', () => {
  const ofGate = (more: Partial<DataSet['inputs'][number]> = {}): DataSet => ({
    ...table('scan', [
      { name: 'id', type: 'integer' },
      { name: 'gate', type: 'text' },
    ]),
    request: {
      kind: 'sql',
      text: 'SELECT id, gate FROM scan WHERE gate = :gate_code OR :gate_code IS NULL',
      columns: [
        { column: 'id', name: 'id', type: 'integer' },
        { column: 'gate', name: 'gate', type: 'text' },
      ],
    },
    inputs: [
      {
        name: 'gate_code',
        type: 'text',
        required: false,
        allowed: { dataSet: ids.gates, field: 'code' },
        ...more,
      },
    ],
  });
  const countWith = async (value: string | null, definition = ofGate()): Promise<string> => {
    const world = await worldOf(definition);
    const relation = relationWith(
      definition,
      randomUUID(),
      { gate_code: { type: 'text', value } },
      { world, clock },
    );
    const plan = { kind: 'records' as const, from: relation, zone: clock.zone, where: { all: [] } };
    return countRecords({ ...plan, fields: [], order: [], offset: 0, limit: 1 }, { doing: 'counting scans' });
  };

  test('takes those, and none, and refuses any other before anything is asked', async () => {
    expect(await countWith('NRK-1')).toBe('100');
    expect(await countWith(null)).toBe('300');
    await expect(countWith('FNB-9')).rejects.toThrow(
      'counting scans: “FNB-9” is none of the values that gate code may have',
    );
    await expect(countWith("x' OR 1=1 --", ofGate({ label: 'the gate' }))).rejects.toThrow(
      'is none of the values that the gate may have',
    );
    expect(await countWith('FNB-9', ofGate({ allowed: undefined }))).toBe('100');
  });

  test('counts among what depends on that data set, and follows its field', async () => {
    const named = [
      { id: ids.gates, name: 'Gates', definition: table('gate', [{ name: 'code', type: 'text' }]) },
      { id: 'x', name: 'Of a gate', definition: ofGate() },
    ];
    expect(usesOfField(ids.gates, 'code', named, []).map(({ at }) => at)).toEqual([
      'the input “gate_code” of “Of a gate”',
    ]);
    expect(usesOfDataSet(ids.gates, named, []).map(({ at }) => at)).toEqual(['the data set “Of a gate”']);
    expect(followingRename(ofGate(), ids.gates, 'code', 'sign').inputs[0]?.allowed?.field).toBe('sign');
    const unknown = await settledDataSet(
      randomUUID(),
      ofGate({ allowed: { dataSet: ids.gates, field: 'gone' } }),
    );
    expect(unknown).toMatchObject({
      wrong: { why: ['the input “gate_code” may only have values of a field that is not there'] },
    });
  });
});
