import { createServer } from 'node:http';
import type { Page } from '@playwright/test';
import mysql from 'mysql2/promise';
import type { Changes, Setting } from '../../core/dataset/change/schema.ts';
import type { DataSet, Request } from '../../core/dataset/schema.ts';
import type { Field } from '../../core/value/field/field.ts';
import { publishDraft } from './build.ts';
import { installation } from './installation.ts';
import { dataSetOf, draftOf, sourceCalled, sourceOf, unique } from './make.ts';
import { databaseServer, expect, withDatabase } from './people.ts';
import { addRequisitions, changeRequisition, removeRequisitions } from './stores.ts';

/* The same few records in each kind of source whose records can be changed, so that one journey can be made on all of them. */

/** Six records with a name, a state and something more, which may be changed, added and removed. */
export interface Berths {
  readonly dataSet: string;
  /** What they all have, where the data set has others too. */
  readonly keeping?: DataSet['keeping'];
  /** The names of their fields. */
  readonly fields: Readonly<Record<'name' | 'state' | 'asked', string>>;
  /** What the field that is asked for does not take, why not, and what it takes. */
  readonly texts: { readonly wrong: string; readonly why: string; readonly right: string };
  /** Changes one of them past the product. */
  readonly changeOutside: (name: string) => Promise<void>;
  readonly end: () => Promise<void>;
}

export const berthNames = ['North pier', 'South pier', 'Slip', 'Inner wall', 'Outer wall', 'Pontoon'];

type Names = Berths['fields'];
const ask: Setting = { kind: 'ask', required: true };
const set = (field: string, to: Setting) => ({ field, to });

/** What people may do to them. `more` is set of each that is added. */
const changesOf = ({ name, state, asked }: Names, more: Record<string, string> = {}): Changes => ({
  inPlace: [name, asked],
  actions: [
    {
      name: 'shut',
      label: 'Shut',
      tone: 'waiting',
      way: 'update',
      where: { field: state, test: { op: 'is', values: ['open'] } },
      sets: [set(state, { kind: 'value', value: 'refused' })],
    },
    { name: 'say', label: 'Say more', way: 'update', sets: [set(asked, ask)] },
    {
      name: 'add',
      label: 'Add a berth',
      way: 'insert',
      sets: [
        set(name, ask),
        set(asked, ask),
        set(state, { kind: 'value', value: 'open' }),
        ...Object.entries(more).map(([field, value]) => set(field, { kind: 'value', value })),
      ],
    },
    { name: 'remove', label: 'Remove', tone: 'broken', way: 'remove', sets: [] },
  ],
});

const definitionOf = (
  source: string,
  request: Request,
  fields: readonly Field[],
  names: Names,
  key: string,
  changes: Changes,
): DataSet => ({
  version: 2,
  source,
  request,
  inputs: [],
  fields: fields.map((field) =>
    field.name === names.name
      ? { ...field, label: 'Name' }
      : field.name === names.asked
        ? { ...field, label: 'Asked' }
        : field,
  ),
  key,
  title: names.name,
  noun: { one: 'berth', many: 'berths' },
  measures: [
    { name: 'count', label: 'berths', calculation: { kind: 'count' } },
    {
      name: 'open',
      label: 'open berths',
      calculation: { kind: 'count' },
      where: { field: names.state, test: { op: 'is', values: ['open'] } },
    },
  ],
  changes,
  followUp: true,
});

const names = { name: 'name', state: 'state', asked: 'fee' };
const fields: Field[] = [
  { name: 'id', type: 'integer', hidden: true },
  { name: 'name', type: 'text' },
  { name: 'state', type: 'text' },
  { name: 'fee', type: 'decimal' },
];
const texts = { wrong: 'much', why: '“much” is not a number', right: '12.75' };

/** The columns of their table. */
const tableOf = (schema: string, table: string): Request => ({
  kind: 'table',
  schema,
  table,
  columns: [
    { column: 'id', name: 'id', type: 'integer', filled: true, usual: true },
    { column: 'name', name: 'name', type: 'text', filled: true, longest: 60 },
    { column: 'state', name: 'state', type: 'text', filled: true },
    { column: 'fee', name: 'fee', type: 'decimal' },
  ],
  lookUps: [],
});
const rowsText = berthNames.map((name) => `('${name}', 'open', 10.00)`).join(', ');

export async function berthsInPostgres(): Promise<Berths> {
  const role = `berths_${unique('x').slice(2)}`;
  await withDatabase('postgres', (client) => client.query(`CREATE ROLE ${role} LOGIN PASSWORD 'low-water'`));
  await withDatabase('sound_ops', (client) =>
    client.query(
      `CREATE TABLE ${role} (id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, name varchar(60) NOT NULL, state text NOT NULL, fee numeric(9, 2));
       INSERT INTO ${role} (name, state, fee) VALUES ${rowsText};
       GRANT SELECT, INSERT, UPDATE, DELETE ON ${role} TO ${role}`,
    ),
  );
  const { hostname, port } = databaseServer();
  const where = {
    host: hostname,
    port: Number(port),
    database: 'sound_ops',
    user: role,
    tls: 'off' as const,
  };
  const source = await sourceOf(
    { kind: 'postgres', ...where },
    { secret: 'low-water', changer: { user: role, secret: 'low-water' } },
  );
  return {
    dataSet: await dataSetOf(
      unique('Berths'),
      definitionOf(source, tableOf('public', role), fields, names, 'id', changesOf(names)),
    ),
    fields: names,
    texts,
    changeOutside: (name) =>
      withDatabase('sound_ops', async (client) => {
        await client.query(`UPDATE ${role} SET fee = 77 WHERE name = $1`, [name]);
      }),
    end: () =>
      withDatabase('sound_ops', async (client) => {
        await client.query(`DROP TABLE ${role}`);
      }),
  };
}

export async function berthsInMaria(): Promise<Berths> {
  const own = `berths_${unique('x').slice(2)}`;
  const root = await mysql.createConnection({
    host: '127.0.0.1',
    port: installation().maria,
    user: 'root',
    multipleStatements: true,
  });
  await root.query(
    `CREATE DATABASE ${own}; CREATE TABLE ${own}.berths (id INT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(60) NOT NULL, state VARCHAR(20) NOT NULL, fee DECIMAL(9, 2));
     INSERT INTO ${own}.berths (name, state, fee) VALUES ${rowsText};
     CREATE USER ${own}_r IDENTIFIED BY 'low-water'; GRANT SELECT ON ${own}.* TO ${own}_r;
     CREATE USER ${own}_w IDENTIFIED BY 'high-water'; GRANT SELECT, INSERT, UPDATE, DELETE ON ${own}.* TO ${own}_w`,
  );
  const source = await sourceOf(
    {
      kind: 'mariadb',
      host: '127.0.0.1',
      port: installation().maria,
      database: own,
      user: `${own}_r`,
      tls: 'off',
    },
    { secret: 'low-water', changer: { user: `${own}_w`, secret: 'high-water' } },
  );
  return {
    dataSet: await dataSetOf(
      unique('Berths'),
      definitionOf(source, tableOf(own, 'berths'), fields, names, 'id', changesOf(names)),
    ),
    fields: names,
    texts,
    changeOutside: async (name) => {
      await root.query(`UPDATE ${own}.berths SET fee = 77 WHERE name = ?`, [name]);
    },
    end: async () => {
      await root.query(`DROP DATABASE ${own}; DROP USER ${own}_r; DROP USER ${own}_w`);
      await root.end();
    },
  };
}

/** A service of its own, which knows nothing but berths. */
export async function berthsOverHttp(): Promise<Berths> {
  const berths = new Map(
    berthNames.map((name, at) => [at + 1, { id: at + 1, name, state: 'open', fee: '10.00' }]),
  );
  const port = installation().ownService;
  const server = createServer(async (request, response) => {
    const answer = (status: number, body?: unknown): void => {
      response.writeHead(status, { 'content-type': 'application/json' });
      response.end(body === undefined ? '' : JSON.stringify(body));
    };
    const maySee = ['k-reads-0123456789', 'k-writes-0123456789'].includes(String(request.headers['x-key']));
    const mayChange = request.headers['x-key'] === 'k-writes-0123456789';
    if (!maySee || (request.method !== 'GET' && !mayChange))
      return answer(403, { error: 'not with this key' });
    const id = Number(/\/berths\/(\d+)$/.exec(request.url ?? '')?.[1] ?? 0);
    let text = '';
    for await (const part of request) text += part;
    const given = text === '' ? {} : JSON.parse(text);
    const known = berths.get(id);
    if (id > 0 && !known) return answer(404, { error: 'there is no such berth' });
    if (request.method === 'GET') return answer(200, known ?? [...berths.values()]);
    if (request.method === 'DELETE') {
      berths.delete(id);
      return answer(204);
    }
    const next = id || Math.max(...berths.keys()) + 1;
    const berth = { ...(known ?? { id: next }), ...given };
    berths.set(next, berth);
    return answer(known ? 200 : 201, berth);
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  const source = await sourceOf(
    { kind: 'http', base: `http://127.0.0.1:${port}`, auth: { kind: 'key', in: 'header', name: 'X-Key' } },
    { secret: 'k-reads-0123456789', changer: { user: '', secret: 'k-writes-0123456789' } },
  );
  const request: Request = {
    kind: 'http',
    call: { method: 'GET', path: 'berths', query: [], headers: [] },
    format: 'json',
    records: '$[*]',
    paging: { kind: 'none' },
    columns: fields.map(({ name, type }) => ({ column: `/${name}`, name, type })),
  };
  const calls: Changes['calls'] = {
    read: { path: 'berths/{id}', record: '$' },
    update: { method: 'PATCH', path: 'berths/{id}' },
    insert: { method: 'POST', path: 'berths' },
    remove: { method: 'DELETE', path: 'berths/{id}' },
  };
  return {
    dataSet: await dataSetOf(
      unique('Berths'),
      definitionOf(source, request, fields, names, 'id', { calls, ...changesOf(names) }),
    ),
    fields: names,
    texts,
    changeOutside: async (name) => {
      for (const berth of berths.values()) if (berth.name === name) berth.fee = '77.00';
    },
    end: async () => {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}

/** Requisitions of the stores, since that service has no berths. */
export async function berthsInStores(): Promise<Berths> {
  const vessel = unique('Barge');
  await addRequisitions(vessel, berthNames);
  const own = { name: 'Note', state: 'State', asked: 'RaisedOn' };
  const columns = (
    [
      ['Id', 'integer'],
      ['Note', 'text'],
      ['State', 'text'],
      ['RaisedOn', 'date'],
      ['Vessel', 'text'],
      ['DepotId', 'integer'],
    ] as const
  ).map(([name, type]) => ({ column: name, name, type, ...(name === 'Id' ? { filled: true } : {}) }));
  const request: Request = {
    kind: 'table',
    schema: 'Skerry.Stores',
    table: 'Requisitions',
    columns,
    lookUps: [],
  };
  return {
    dataSet: await dataSetOf(
      unique('Berths'),
      definitionOf(
        await sourceCalled('Stores'),
        request,
        columns.map(({ name, type }) => ({ name, type })),
        own,
        'Id',
        changesOf(own, { Vessel: vessel, DepotId: '1' }),
      ),
    ),
    keeping: { field: 'Vessel', test: { op: 'is', values: [vessel] } },
    fields: own,
    texts: { wrong: 'soon', why: '“soon” is not a date', right: '15 Jan 2031' },
    changeOutside: (name) => changeRequisition(name, { RaisedOn: '2027-07-07' }),
    end: () => removeRequisitions('Vessel', vessel),
  };
}

/** A dashboard over them that is published; gives its address. */
export async function publishBerths(page: Page, { dataSet, fields, keeping }: Berths): Promise<string> {
  const about = { dataSet, ...(keeping ? { keeping } : {}) };
  const { edited, read } = await draftOf({
    version: 4,
    title: unique('Berths'),
    scope: [],
    panes: [
      {
        kind: 'card',
        id: 'open',
        title: 'Open',
        ...about,
        measure: 'open',
        against: 'none',
        when: 'any',
        place: { x: 0, y: 0, w: 3, h: 3 },
      },
      {
        kind: 'table',
        id: 'all',
        title: 'All berths',
        ...about,
        columns: [{ field: fields.name, width: 200 }, { field: fields.state }, { field: fields.asked }],
        order: [{ by: fields.name }],
        actions: ['shut', 'say', 'add', 'remove'],
        inPlace: [fields.name, fields.asked],
        pageSize: 12,
        place: { x: 0, y: 3, w: 12, h: 12 },
      },
    ],
  });
  await page.goto(edited);
  await publishDraft(page);
  await expect(page.getByText('Published: version 1')).toBeVisible();
  return read;
}
