import fc from 'fast-check';
import pMap from 'p-map';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import type { World } from '#core/dataset/world.ts';
import type { Plan, RecordsPlan, Relation } from '#core/plan/plan.ts';
import { planSteps } from '#core/plan/relation.ts';
import { compile, compileCount } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import type { Cell } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { countRecords, runPlan } from '#engine/postgres/engine.ts';
import { type EnginePair, enginePair, type PairColumn, type PairRows } from '../../testing/engine-pair.ts';
import { kindsOfSteps, otherDataSet, readings, start, steps } from '../../testing/random-steps.ts';
import { runColumnar } from './run.ts';

/* Every step means the same on both engines: random steps over random readings give the same records. */

const otherId = '00000000-0000-4000-8000-000000000002';
const other: DataSet = otherDataSet('00000000-0000-4000-8000-000000000001', 'other_reading');
const world: World = new Map([[otherId, other]]);
const clock = { now: new Date('2026-11-23T06:40:00Z'), zone: 'Europe/London' };

const columns: PairColumn[] = [
  { name: 'id', postgres: 'bigint', duckdb: 'BIGINT' },
  { name: 'gauge', postgres: 'text', duckdb: 'VARCHAR' },
  { name: 'said', postgres: 'text', duckdb: 'VARCHAR' },
  { name: 'rank', postgres: 'bigint', duckdb: 'BIGINT' },
  { name: 'height', postgres: 'numeric', duckdb: 'DECIMAL(18,6)' },
  { name: 'valid', postgres: 'boolean', duckdb: 'BOOLEAN' },
  { name: 'day', postgres: 'date', duckdb: 'DATE' },
  { name: 'at', postgres: 'timestamptz', duckdb: 'TIMESTAMP' },
  { name: 'more', postgres: 'text', duckdb: 'VARCHAR' },
];
const tables = ['reading', 'other_reading'] as const;

let pair: EnginePair;
beforeAll(async () => {
  pair = await enginePair();
  for (const table of tables) await pair.createTable(table, columns);
});
afterAll(() => pair.close());

const fill = (table: (typeof tables)[number], rows: PairRows): Promise<void> =>
  pair.fill(table, columns, rows);

/** The fields of the other readings of which no two records share a value; the columnar engine is told, as it is in the product. */
let unique: readonly string[] = [];
const uniqueIn = (rows: PairRows): string[] => [
  // Not always told, so that looking for several matches is tried too.
  ...(rows.length % 2 === 0 ? ['id'] : []),
  ...['gauge', 'said', 'rank', 'day'].filter((name) => {
    // The number that each record has of its own comes first.
    const at = columns.findIndex((column) => column.name === name) - 1;
    const values = rows.map((row) => row[at] || null).filter((value) => value !== null);
    return new Set(values).size === values.length;
  }),
];

/** The relation with every table read from where it is kept. */
const kept = (relation: Relation): Relation => ({
  ...relation,
  ...(relation.request.kind === 'table' && relation.request.table === 'other_reading' ? { unique } : {}),
  request: { kind: 'kept', name: relation.request.kind === 'table' ? relation.request.table : '' },
  ...(relation.steps
    ? { steps: relation.steps.map((step) => ({ ...step, others: step.others.map(kept) })) }
    : {}),
});

const relationOf = (list: readonly Step[]): Relation => ({
  source: other.source,
  request: {
    kind: 'table',
    schema: 'public',
    table: 'reading',
    columns: start.map(({ name, type }) => ({ column: name, name, type })),
    lookUps: [],
  },
  inputs: {},
  start,
  ...planSteps(start, list, {}, { world, clock }),
});

const planOf = (list: readonly Step[], only?: readonly string[]): RecordsPlan => {
  const from = relationOf(list);
  return {
    kind: 'records',
    from,
    where: { all: [] },
    zone: clock.zone,
    fields: only ?? from.fields.map(({ name }) => name),
    // Sorted every other time, by what was made last: what is worked out before the sorting is another then.
    order: list.length % 2 === 1 ? from.fields.slice(-1).map(({ name }) => ({ by: name })) : [],
    offset: 0,
    limit: 2000,
  };
};

type Answer = { readonly rows: string[] } | { readonly error: string };

/** Records as texts that are the same for the same values: zeros at the end, and the writing of JSON, say nothing. */
const canonical = (rows: readonly (readonly Cell[])[]): string[] =>
  rows.map((row) => JSON.stringify(row.map(plain))).sort();
function plain(cell: Cell): unknown {
  if (typeof cell !== 'string') return cell;
  if (/^-?\d+\.\d+$/.test(cell)) return cell.replace(/\.?0+$/, '').replace(/^-0$/, '0');
  if (/^[[{]/.test(cell)) {
    try {
      return JSON.stringify(sorted(JSON.parse(cell)));
    } catch {
      return cell;
    }
  }
  return cell.replace(/(T\d\d:\d\d:\d\d)\.(\d*?)0*Z$/, (_, time, part) =>
    part ? `${time}.${part}Z` : `${time}Z`,
  );
}
const sorted = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(sorted)
    : value !== null && typeof value === 'object'
      ? Object.fromEntries(
          Object.entries(value)
            .sort(([a], [b]) => (a < b ? -1 : 1))
            .map(([name, of]) => [name, sorted(of)]),
        )
      : value;

async function answer(run: () => Promise<readonly (readonly Cell[])[]>): Promise<Answer> {
  try {
    return { rows: canonical(await run()) };
  } catch (thrown) {
    if (thrown instanceof ProblemError) return { error: thrown.problem.why };
    throw thrown;
  }
}
const ofColumnar = (plan: Plan) => async () =>
  (
    await runColumnar(pair.columnar, compile({ ...plan, from: kept(plan.from) }, duckdb), {
      doing: 'testing',
    })
  ).records;
const ofPostgres = (plan: Plan) => async () =>
  (await runPlan(plan, { address: pair.database.address, doing: 'testing' })).records;

const cases = Number(process.env.STEP_CASES ?? 280);

test('random steps over random readings give the same records on both engines', {
  timeout: 240_000,
}, async () => {
  let answered = 0;
  const used = new Set<string>();
  await fc.assert(
    fc.asyncProperty(
      readings,
      readings,
      fc.tuple(...Array.from({ length: kindsOfSteps }, (_, kind) => steps(world, otherId, kind))),
      async (rows, others, lists) => {
        await fill('reading', rows);
        await fill('other_reading', others);
        unique = uniqueIn(others);
        const compare = async (list: readonly Step[]): Promise<void> => {
          const plan = planOf(list);
          const [live, columns] = await Promise.all([answer(ofPostgres(plan)), answer(ofColumnar(plan))]);
          const json = JSON.stringify(list);
          if ('error' in live)
            expect('error' in columns ? 'both refuse' : columns, `${json}\n${live.error}`).toBe(
              'both refuse',
            );
          else expect('error' in columns ? columns.error : columns.rows, json).toEqual(live.rows);
          if ('error' in live) return;
          answered += 1;
          for (const step of list)
            used.add(
              step.kind === 'derive'
                ? `derive ${step.making.kind}`
                : step.kind === 'lookUp'
                  ? `look up ${step.mode}`
                  : step.kind,
            );
          // Leaving out what nobody asked for changes neither how many records there are nor what is in them.
          const some = plan.fields.filter((_, at) => at % 2 === 0);
          const [fewer, counted, count] = await Promise.all([
            answer(ofColumnar(planOf(list, some))),
            runColumnar(pair.columnar, compileCount({ ...plan, from: kept(plan.from) }, duckdb), {
              doing: 'counting',
            }),
            countRecords(plan, { address: pair.database.address, doing: 'counting' }),
          ]);
          const expected = canonicalOf(live.rows, plan.fields, some);
          expect('error' in fewer ? fewer.error : fewer.rows, json).toEqual(expected);
          expect(counted.records[0]?.[0]).toBe(count);
        };
        await pMap(lists, compare, { concurrency: 2 });
      },
    ),
    {
      endOnFailure: true,
      numRuns: Math.ceil(cases / kindsOfSteps),
      ...(process.env.STEP_SEED ? { seed: Number(process.env.STEP_SEED) } : {}),
    },
  );
  expect(answered).toBeGreaterThan(cases / 2);
  expect([...used].sort()).toEqual([
    'derive bands',
    'derive between',
    'derive bins',
    'derive choose',
    'derive clock',
    'derive expression',
    'derive join',
    'derive link',
    'derive period',
    'derive shift',
    'derive split',
    'distinct',
    'fields',
    'fill',
    'long',
    'look up aggregate',
    'look up all',
    'look up any',
    'look up count',
    'look up first',
    'look up one',
    'periods',
    'rank',
    'rename',
    'running',
    'spread',
    'stack',
    'summarise',
    'type',
    'unfold',
    'where',
    'wide',
  ]);
});

const canonicalOf = (rows: readonly string[], fields: readonly string[], some: readonly string[]): string[] =>
  rows
    .map((row) => {
      const cells = JSON.parse(row) as unknown[];
      return JSON.stringify(some.map((name) => cells[fields.indexOf(name)]));
    })
    .sort();

test('what only some record could stop stops nothing while the query is planned', async () => {
  const row = ['NRK-1', 'word', '2', '0.25', 'true', '2026-11-23', null, null];
  const made = (text: string, ...more: Step[]): Step[] => [
    { kind: 'derive', id: 'one', name: 'made', making: { kind: 'expression', text } },
    ...more,
  ];
  const lookUp: Step = {
    kind: 'lookUp',
    id: 'two',
    from: { dataSet: otherId },
    on: [{ field: 'made', other: 'rank' }],
    take: [{ field: 'gauge', as: 'found' }],
    order: [],
    mode: 'one',
  };
  const read: Step = { kind: 'type', id: 'two', field: 'made', to: 'integer', misfit: 'stop' };
  await fill('other_reading', [row, row]);
  unique = [];
  for (const [rows, list] of [
    [[row], made('6', lookUp)],
    [[], made('2', lookUp)],
    [[], made("'word'", read)],
  ] as const) {
    await fill('reading', rows);
    const plan = planOf(list);
    expect(await answer(ofPostgres(plan))).toEqual(await answer(ofColumnar(plan)));
    expect(await answer(ofPostgres(plan))).toHaveProperty('rows');
  }
  await fill('reading', [row]);
  for (const list of [made('2', lookUp), made("'word'", read)]) {
    const stopped = await answer(ofPostgres(planOf(list)));
    expect(stopped).toHaveProperty('error');
    expect(await answer(ofColumnar(planOf(list)))).toEqual(stopped);
  }
});

test('a step that waits until the page is cut out hands on what one behind it reads and drops', async () => {
  const list: Step[] = [
    { kind: 'derive', id: 'one', name: 'fives', making: { kind: 'bins', field: 'rank', size: '5' } },
    { kind: 'rename', id: 'two', field: 'more', as: 'whole' },
    {
      kind: 'spread',
      id: 'three',
      field: 'whole',
      keepWhole: false,
      take: [{ path: '/a', name: 'part', type: 'text' }],
    },
  ];
  await fill('reading', [['NRK-1', 'word', '7', '0.25', 'true', '2026-11-23', null, '{"a":"tide"}']]);
  for (const only of [undefined, ['part'], ['fives', 'part']]) {
    const plan = planOf(list, only);
    const live = await answer(ofPostgres(plan));
    expect(live).toHaveProperty('rows');
    expect(JSON.stringify(live)).toContain('tide');
    expect(await answer(ofColumnar(plan))).toEqual(live);
  }
});

test('words that are made are found in any case, after other steps too, and stay apart from blanks and from what takes their place', async () => {
  const tide: Step[] = [
    {
      kind: 'derive',
      id: 'tide',
      name: 'tide',
      making: { kind: 'bands', field: 'rank', bands: [{ below: '5', word: 'Low' }], rest: 'HIGH' },
    },
    { kind: 'rename', id: 'as', field: 'tide', as: 'water' },
    { kind: 'rank', id: 'nth', as: 'nth', within: [], order: [{ by: 'id' }] },
  ];
  const otherwise: Step = {
    kind: 'derive',
    id: 'other',
    name: 'water',
    making: { kind: 'expression', text: 'LOWER(gauge)' },
  };
  const where = (op: 'is' | 'isNot', ...values: (string | null)[]): Step => ({
    kind: 'where',
    id: 'where',
    condition: { field: 'water', test: { op, values } },
  });
  const row = (rank: string | null) => ['LOW', 'word', rank, '0.25', 'true', '2026-11-23', null, null];
  await fill('reading', [row('2'), row('7'), row(null)]);
  for (const [list, found] of [
    [[...tide, where('is', 'low')], ['1']],
    [
      [...tide, where('is', 'LOW', 'high')],
      ['1', '2'],
    ],
    [[...tide, where('is', 'ebb')], []],
    [
      [...tide, where('is', 'high', null)],
      ['2', '3'],
    ],
    [
      [...tide, where('isNot', 'low')],
      ['2', '3'],
    ],
    [[...tide, where('isNot', 'low', 'High')], ['3']],
    [
      [...tide, where('isNot', 'ebb')],
      ['1', '2', '3'],
    ],
    [
      [...tide, where('is')],
      ['1', '2', '3'],
    ],
    [
      [...tide, otherwise, where('is', 'low')],
      ['1', '2', '3'],
    ],
  ] as const) {
    const plan = planOf(list, ['id']);
    const live = await answer(ofPostgres(plan));
    expect(live, JSON.stringify(list.at(-1))).toEqual({ rows: found.map((id) => JSON.stringify([id])) });
    expect(await answer(ofColumnar(plan))).toEqual(live);
  }
});

test('without a key, pages of what is sorted by a field with the same value in many records have each of them once', async () => {
  const count = 6000;
  const rows = Array.from({ length: count }, (_, at) => {
    const cells: PairRows[number] = [
      `G-${at % 5}`,
      `${(at * 7919) % count}`,
      `${at % 3}`,
      null,
      'true',
      null,
      null,
      null,
    ];
    return cells;
  });
  await fill('reading', rows);
  await fill('other_reading', []);
  const said = ['said', 'rank'];
  // A step that adds to each record may wait until the page is cut out; one that is sorted by may not.
  const joined: Step = {
    kind: 'derive',
    id: 'join',
    name: 'both',
    making: { kind: 'join', fields: ['said', 'gauge'], between: ' ' },
  };
  const told: Step = { kind: 'rename', id: 'told', field: 'said', as: 'told' };
  const both: Step = { kind: 'fields', id: 'both', keep: ['both', 'rank'] };
  const fives: Step = {
    kind: 'derive',
    id: 'bins',
    name: 'fives',
    making: { kind: 'bins', field: 'rank', size: '5' },
  };
  for (const [steps, fields, by] of [
    [[], said, 'rank'],
    [[joined], ['both', 'rank'], 'rank'],
    [[joined, told, both], ['both', 'rank'], 'rank'],
    [[fives], [...said, 'fives'], 'fives'],
  ] as const) {
    const all = { ...planOf(steps, fields), order: [{ by, descending: true }], limit: 25 };
    for (const ask of [ofColumnar, ofPostgres]) {
      const found: string[] = [];
      for (let page = 0; page < 12; page += 1) {
        const answered = await answer(ask({ ...all, offset: page * 25 }));
        found.push(...('rows' in answered ? answered.rows : [answered.error]));
      }
      expect(new Set(found).size, `${by} of ${fields.join()}`).toBe(300);
    }
  }
});
