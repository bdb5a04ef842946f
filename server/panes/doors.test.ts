import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { everybody } from '#core/ask/condition/resolve.ts';
import type { Test } from '#core/ask/condition/schema.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import { writeScope } from '#core/dashboard/scope/address.ts';
import { emptyScope } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { morningBrief } from '#demo/dashboards/morning-brief.ts';
import { zone } from '#demo/line.ts';
import { soundFixture } from '../../testing/sound.ts';
import { contextOf } from './context.ts';
import { behindViewOf, cellOf, openBehind } from './drill.ts';
import { findRecords } from './find.ts';
import { openRecord } from './opened-record.ts';
import { runPane } from './run.ts';
import { countScope, viewOf } from './shown.ts';
import { clauseValues, fieldValues } from './values.ts';

/*
 * Every parameter of an address, against a field that a pane shows, one that only a clause offers, one that no pane shows, one that
 * is hidden, and one that does not exist. What is not offered must answer exactly as what does not exist.
 */

const now = new Date('2026-11-23T12:00:00Z');
let sound: Awaited<ReturnType<typeof soundFixture>>;
let dashboard: Dashboard;
let dataSets: Map<string, DataSet>;
let doors: { name: string; search: (field: string) => string }[];

beforeAll(async () => {
  sound = await soundFixture(now);
  const brief = morningBrief(sound.ids);
  dataSets = new Map(
    [...sound.dataSets].map(([id, dataSet]) => [
      id,
      id === sound.ids.sailings
        ? {
            ...dataSet,
            fields: dataSet.fields.map((field) =>
              field.name === 'fares' ? { ...field, hidden: true } : field,
            ),
          }
        : dataSet,
    ]),
  );
  dashboard = {
    ...brief,
    scope: [
      ...brief.scope,
      {
        name: 'people',
        many: 'passengers',
        offer: 'number',
        dataSet: sound.ids.sailings,
        field: 'passengers',
      },
    ],
    panes: brief.panes
      .filter(({ id }) => ['late-today', 'causes', 'late', 'incidents'].includes(id))
      .map((pane) => {
        if (pane.kind === 'card') return { ...pane, behind: ['reference'] };
        // A period of its own, by a field that it does not show.
        if (pane.kind !== 'chart') return pane;
        return {
          ...pane,
          when: { field: 'left_at', period: { kind: 'last' as const, count: 90, unit: 'day' as const } },
        };
      }),
  };
  doors = [
    { name: 'a test of one’s own', search: (field) => own(field, { op: 'is', values: ['1'] }) },
    {
      name: 'a test of one’s own that compares',
      search: (field) => own(field, { op: 'atLeast', value: '1' }),
    },
    { name: 'a pick', search: (field) => `at=sailings.${field}:1` },
    { name: 'a pick of a day', search: (field) => `at=sailings.${field}@day:2026-11-20` },
    { name: 'an order', search: (field) => `late.order=-${field}` },
    { name: 'a column', search: (field) => `late.show=${field}` },
    { name: 'a clause', search: (field) => `${field}=1` },
  ];
});
afterAll(() => sound.end());

const own = (field: string, test: Test): string =>
  writeScope({ ...emptyScope, own: [[[{ dataSet: 'sailings', field, test }]]] }).toString();

const opened = (search: string) =>
  contextOf(
    { dashboard, dataSets, desk: { id: '', name: 'Skerry Sound', slug: 'skerry-sound', zone } } as never,
    new URLSearchParams(search),
    now,
    everybody,
  );

/** Everything that an address makes the page say, with the name of the field taken out. */
async function answers(search: string, field: string): Promise<string> {
  const { context, problems } = opened(search);
  const panes = await Promise.all(
    context.dashboard.panes.map(async (pane) => {
      const result = await runPane({ pane, context });
      return result.state === 'ready' ? result.body : result;
    }),
  );
  const all = JSON.stringify([panes, await countScope(context), problems]);
  return all.replaceAll(field, 'FIELD');
}

describe('a reader', () => {
  test.each(['fares', 'master', 'vehicles'])('learns nothing of %s, which no pane shows', async (field) => {
    for (const { name, search } of doors)
      expect(await answers(search(field), field), name).toBe(await answers(search('nowhere'), 'nowhere'));
  });

  test('narrows by what a clause offers, and by what a pane shows', async () => {
    const plain = await answers('', 'nowhere');
    expect(
      await answers(
        writeScope({ ...emptyScope, clauses: { people: { op: 'atLeast', value: '200' } } }).toString(),
        'people',
      ),
    ).not.toBe(plain);
    expect(opened(own('passengers', { op: 'atLeast', value: '200' })).problems).toEqual([]);
    expect(opened('at=sailings.cause:tide').problems).toEqual([]);
    expect(opened('late.order=-delay_minutes').context.scope.views.late?.order).toEqual(['-delay_minutes']);
  });

  test('is sent no name of a field that is neither shown nor offered', async () => {
    const { context, problems } = opened('');
    const view = await viewOf(
      {
        shown: { id: 'x', dashboard, dataSets, desk: { name: '', slug: '', zone } },
        draft: null,
        context,
        problems,
      } as never,
      null,
    );
    const page = JSON.stringify(view);
    for (const field of ['fares', 'master', 'vehicles', 'left_at']) expect(page).not.toContain(field);
    expect(page).toContain('delay_minutes');
  });

  test('opens records with the fields of the pane they stand in, under its conditions', async () => {
    const { context } = opened('');
    const { rows } = await sound.client.query(
      'SELECT (SELECT id FROM sailings WHERE delay_minutes > 20 LIMIT 1) AS late, (SELECT id FROM sailings WHERE delay_minutes = 0 LIMIT 1) AS punctual',
    );
    const late = await openRecord({ pane: 'late', key: String(rows[0].late) }, context);
    expect(late.detail.record).not.toBeNull();
    expect(late.detail.fields.map(({ name }) => name).sort()).toEqual(
      ['cause', 'delay_minutes', 'departs_at', 'id', 'reference', 'route', 'status', 'vessel'].sort(),
    );
    // A sailing on time is none of the late ones, whatever its key.
    const punctual = await openRecord({ pane: 'late', key: String(rows[0].punctual) }, context);
    expect(punctual.detail.record).toBeNull();
    expect(punctual.related).toEqual([]);
  });

  test('sees behind a number the fields that are shown, in no order of another', async () => {
    const { context } = opened('');
    const cell = cellOf(new URLSearchParams({ _cell: JSON.stringify({ pane: 'causes', values: ['tide'] }) }));
    if (!cell) throw new Error('no cell');
    const plain = await openBehind(cell, behindViewOf(new URLSearchParams()), context);
    expect(plain.table.fields.map(({ name }) => name)).not.toContain('fares');
    const ordered = await openBehind(
      cell,
      behindViewOf(
        new URLSearchParams([
          ['_order', '-fares'],
          ['_order', '-master'],
        ]),
      ),
      context,
    );
    expect(ordered.table.records).toEqual(plain.table.records);
    const { rows } = await sound.client.query(
      "SELECT c.name AS master FROM sailings s JOIN crew c ON c.id = s.master_id WHERE s.cause = 'tide' LIMIT 1",
    );
    const found = await openBehind(
      cell,
      behindViewOf(new URLSearchParams({ _find: String(rows[0].master) })),
      context,
    );
    expect(found.table.total).toBe('0');
  });

  test('finds by name the records that a pane shows, with no other field of theirs', async () => {
    const only = (id: string) =>
      contextOf(
        {
          dashboard: {
            ...dashboard,
            panes: dashboard.panes
              .filter((pane) => pane.id === id)
              .map((pane) => (pane.kind === 'chart' ? { ...pane, behind: [] } : pane)),
          },
          dataSets,
          desk: { zone },
        } as never,
        new URLSearchParams(),
        now,
        everybody,
      ).context;
    const { rows } = await sound.client.query(
      'SELECT (SELECT reference FROM sailings WHERE delay_minutes > 20 LIMIT 1) AS late, (SELECT reference FROM sailings WHERE delay_minutes = 0 LIMIT 1) AS punctual, (SELECT id FROM sailings WHERE delay_minutes > 20 LIMIT 1) AS id',
    );
    expect(await findRecords(rows[0].late.toLowerCase(), only('late'))).toEqual([
      { pane: 'late', key: String(rows[0].id), title: rows[0].late, noun: 'sailing' },
    ]);
    // One on time is none of the late ones, and a chart by cause, whose records show nothing else, has no sailing's name.
    expect(await findRecords(rows[0].punctual, only('late'))).toEqual([]);
    expect(await findRecords(rows[0].late, only('causes'))).toEqual([]);
    for (const text of ['', '  ', '%', 'SK-_']) expect(await findRecords(text, only('late'))).toEqual([]);
  });

  test('is offered the values of what is shown and of clauses alone', async () => {
    const { context } = opened('');
    for (const name of ['fares', 'master', 'vehicles', 'nowhere']) {
      await expect(clauseValues(name, '', context)).rejects.toThrow('there is no clause');
      await expect(fieldValues(`sailings.${name}`, '', context)).rejects.toThrow(
        `there is no field “sailings.${name}”`,
      );
    }
    await expect(fieldValues('crew.name', '', context)).rejects.toThrow('there is no field');
    // Counted under the rest of the sentence, and over no more records than the panes can show.
    const { values } = await fieldValues('sailings.cause', 'ti', context);
    const { rows } = await sound.client.query(
      "SELECT count(*) AS n FROM sailings WHERE cause = 'tide' AND departs_at >= '2026-10-27T00:00:00Z' AND departs_at < '2026-11-24T00:00:00Z'",
    );
    expect(values.find(({ value }) => value === 'tide')?.count).toBe(String(rows[0].n));
    expect(values.every(({ value }) => String(value).includes('ti'))).toBe(true);
  });
});
