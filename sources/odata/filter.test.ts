import type { AddressInfo, Server } from 'node:net';
import express from 'express';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Filter, FilterTest } from '#core/ask/condition/resolve.ts';
import type { Request } from '#core/dataset/schema.ts';
import { Mischief } from '#stand-ins/mischief.ts';
import { storesService } from '#stand-ins/stores.ts';
import { sourceTools } from '#testing/source-tools.ts';
import type { OpenSource } from '../kind.ts';
import { outgoingClient } from '../outgoing/client.ts';
import { odata } from './kind.ts';

/* What the service counts under a filter, against the same told by hand of all that it holds. */

let server: Server;
let stores: OpenSource;
let all: Record<string, unknown>[] = [];
const access = { user: 'skerry', password: 'stores-password-0123' };

beforeAll(async () => {
  const app = express();
  app.use(
    storesService({
      ...access,
      now: () => new Date('2026-11-27T12:00:00Z'),
      mischief: new Mischief(),
      pageSize: 1000,
    }),
  );
  server = app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  stores = odata.open(
    {
      id: 'x',
      connection: { kind: 'odata', base, auth: { kind: 'basic', user: access.user } },
      secret: access.password,
    },
    sourceTools(
      outgoingClient({
        allowed: ['127.0.0.1'],
        budget: { spend: async () => {}, told: async () => {} },
        secrets: [],
      }),
    ),
  );
  const answer = await fetch(`${base}/Requisitions`, {
    headers: {
      authorization: `Basic ${Buffer.from(`${access.user}:${access.password}`).toString('base64')}`,
    },
  });
  all = ((await answer.json()) as { value: Record<string, unknown>[] }).value;
});
afterAll(() => server.close());

const request: Request = {
  kind: 'table',
  schema: '',
  table: 'Requisitions',
  columns: [
    { column: 'Id', name: 'Id', type: 'integer' },
    { column: 'DepotId', name: 'DepotId', type: 'integer' },
    { column: 'Vessel', name: 'Vessel', type: 'text' },
    { column: 'State', name: 'State', type: 'text' },
    { column: 'RaisedOn', name: 'RaisedOn', type: 'date' },
    { column: 'Note', name: 'Note', type: 'text' },
  ],
  lookUps: [],
};
const counted = (where: Filter) => stores.count?.(request, { where, doing: 'counting' });
const of = (field: string, filter: FilterTest): Filter => ({ field, test: filter });
const by = (passes: (record: Record<string, unknown>) => boolean): string =>
  String(all.filter(passes).length);

describe('what a service counts', () => {
  const note = ({ Note }: Record<string, unknown>) => (Note === null ? null : String(Note).toLowerCase());
  test.each<[string, Filter, (record: Record<string, unknown>) => boolean]>([
    ['everything', { all: [] }, () => true],
    [
      'one of several',
      of('State', { op: 'is', values: ['OPEN', 'refused'] }),
      ({ State }) => State === 'open' || State === 'refused',
    ],
    ['none of several', of('State', { op: 'isNot', values: ['open'] }), ({ State }) => State !== 'open'],
    ['blanks pass what they are not', of('Note', { op: 'isNot', values: ['x'] }), () => true],
    ['none of what is blank', of('Note', { op: 'isNot', values: [null] }), ({ Note }) => Note !== null],
    ['a pick', of('Id', { op: 'same', value: '7' }), ({ Id }) => Id === 7],
    ['a pick of what is blank', of('Note', { op: 'same', value: null }), ({ Note }) => Note === null],
    [
      'a part of a text',
      of('Note', { op: 'contains', text: 'Before' }),
      (each) => note(each)?.includes('before') ?? false,
    ],
    [
      'a beginning',
      of('Vessel', { op: 'startsWith', text: 'k' }),
      ({ Vessel }) => String(Vessel).startsWith('K'),
    ],
    ['an end', of('Vessel', { op: 'endsWith', text: 'L' }), ({ Vessel }) => String(Vessel).endsWith('l')],
    [
      'what lacks a part, blanks too',
      of('Note', { op: 'lacks', text: 'sailing' }),
      ({ Note }) => Note === null,
    ],
    ['blank', of('Note', { op: 'blank' }), ({ Note }) => Note === null],
    ['filled', of('Note', { op: 'filled' }), ({ Note }) => Note !== null],
    [
      'between, both ends with it',
      of('Id', { op: 'between', from: '10', to: '20' }),
      ({ Id }) => Number(Id) >= 10 && Number(Id) <= 20,
    ],
    [
      'a stretch of days',
      of('RaisedOn', { op: 'within', from: '2026-10-01', to: '2026-11-01' }),
      ({ RaisedOn }) => String(RaisedOn).startsWith('2026-10'),
    ],
    [
      'whoever asks',
      of('Vessel', { op: 'against', is: 'same', to: { value: 'eider' } }),
      ({ Vessel }) => Vessel === 'Eider',
    ],
    [
      'an input that is not set',
      of('Vessel', { op: 'against', is: 'same', to: { value: null } }),
      () => true,
    ],
    [
      'none of some conditions, blanks too',
      {
        none: [of('Note', { op: 'contains', text: 'sailing' }), of('State', { op: 'is', values: ['open'] })],
      },
      ({ Note, State }) => Note === null && State !== 'open',
    ],
    [
      'any of some, within all',
      {
        all: [
          of('Id', { op: 'atMost', value: '100' }),
          { any: [of('State', { op: 'is', values: ['open'] }), of('Note', { op: 'filled' })] },
        ],
      },
      ({ Id, State, Note }) => Number(Id) <= 100 && (State === 'open' || Note !== null),
    ],
  ])('is the same as by hand: %s', async (_, where, passes) => {
    expect(await counted(where)).toBe(by(passes));
  });

  test('is nothing where it cannot be told all of a filter: then nothing is guessed', async () => {
    expect(await counted(of('Vessel', { op: 'above', value: 'F' }))).toBeNull();
    expect(await counted(of('Id', { op: 'against', is: 'same', to: { field: 'DepotId' } }))).toBeNull();
    expect(await counted({ none: [of('Vessel', { op: 'above', value: 'F' })] })).toBeNull();
    const many = Array.from({ length: 51 }, (_, n) => String(n));
    expect(await counted(of('Vessel', { op: 'is', values: many }))).toBeNull();
  });

  test('is never told a value as if it were part of the question', async () => {
    expect(await counted(of('Vessel', { op: 'is', values: ["x') or (Id gt 0"] }))).toBe('0');
    expect(await counted(of('Vessel', { op: 'contains', text: "') or (Id gt 0" }))).toBe('0');
  });
});
