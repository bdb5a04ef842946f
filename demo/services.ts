import { randomUUID } from 'node:crypto';
import type { Measure } from '#core/ask/measure/schema.ts';
import type { Changes } from '#core/dataset/change/schema.ts';
import { dataSetFromTable, usualChoice } from '#core/dataset/from-table.ts';
import type { Keep } from '#core/dataset/kept/schema.ts';
import type { DataSet, Request } from '#core/dataset/schema.ts';
import { httpRequest, logRequest } from '#core/dataset/start.ts';
import type { Field } from '#core/value/field/field.ts';
import { openSource } from '#server/sources/open.ts';
import { addDataSet } from '#server/store/data-sets.ts';
import { askForRefresh } from '#server/store/due.ts';
import { addSource, changeSource, setChanger } from '#server/store/sources.ts';
import type { Connection } from '#sources/connection.ts';
import { hashOfKey } from '#sources/intake/key.ts';
import { linesSaid, requisitionsSaid } from './requisitions.ts';
import {
  passageChanger,
  passageClient,
  type StandInAccess,
  storesChanger,
  storesUser,
  tideCallsADay,
} from './stand-in-access.ts';

/* The sources and data sets of the demo that are no database: logs, what is sent, services. */

export interface ServiceIds {
  readonly scans: string;
  readonly access: string;
  readonly telemetry: string;
  readonly events: string;
  readonly passages: string;
  readonly requisitions: string;
  readonly lines: string;
}

const count = (label: string): Measure => ({ name: 'count', label, calculation: { kind: 'count' } });
const following: Keep = { mode: { kind: 'follow' }, schedule: { kind: 'minutes', minutes: 1 } };
/** One passage is one, whichever system tells of it. */
const passage = 'passage';

interface Described {
  readonly name: string;
  readonly request: Request;
  readonly noun: DataSet['noun'];
  readonly title?: string;
  readonly key?: string;
  readonly labels?: Readonly<Record<string, Partial<Field>>>;
  readonly measures?: readonly Measure[];
  readonly keep?: Keep;
  readonly fresh?: number;
  readonly changes?: Changes;
}

/** Adds a source of the demo, and returns its id. */
async function source(name: string, connection: Connection, secret: string): Promise<string> {
  const id = randomUUID();
  const nothing = { facts: [], warnings: [], clockSkewMs: null, tookMs: 0, at: new Date().toISOString() };
  await addSource({ id, name, connection, secret, report: nothing, madeBy: null });
  if (connection.kind === 'intake') return id;
  const { test } = await openSource(id);
  await changeSource(id, { name, connection, report: await test(), secret: null });
  return id;
}

/** Makes a data set as an analyst would: the request is tried, and what was found is said more of. */
async function dataSet(sourceId: string, described: Described): Promise<string> {
  const { try: attempt } = await openSource(sourceId);
  const tried = await attempt({
    request: described.request,
    inputs: {},
    find: described.request.kind === 'http',
  });
  return storeDataSet(sourceId, described, tried.request, tried.fields);
}

async function storeDataSet(
  sourceId: string,
  { name, noun, title, key, labels = {}, measures = [], keep, fresh, changes }: Omit<Described, 'request'>,
  request: Request,
  fields: readonly Field[],
): Promise<string> {
  const id = randomUUID();
  await addDataSet({
    id,
    name,
    by: null,
    definition: {
      version: 2,
      source: sourceId,
      request,
      inputs: [],
      fields: fields.map((field) => ({ ...field, ...labels[field.name] })),
      ...(key ? { key } : {}),
      ...(title ? { title } : {}),
      noun,
      measures: [count(noun.many), ...measures],
      ...(keep ? { keep } : {}),
      ...(fresh === undefined ? {} : { fresh }),
      ...(changes ? { changes } : {}),
    },
  });
  if (keep) await askForRefresh(id);
  return id;
}

/** How the passage service is told, and what people may do. */
const passageChanges: Changes = {
  calls: {
    read: { path: 'passages/{passage_ref}', record: '$' },
    update: { method: 'PATCH', path: 'passages/{passage_ref}' },
  },
  inPlace: [],
  actions: [
    {
      name: 'move',
      label: 'Move to another sailing',
      way: 'update',
      where: { field: 'state', test: { op: 'is', values: ['booked'] } },
      sets: [{ field: 'sailing', to: { kind: 'ask', required: true } }],
    },
    {
      name: 'cancel',
      label: 'Cancel it',
      tone: 'broken',
      way: 'update',
      where: { field: 'state', test: { op: 'is', values: ['booked'] } },
      sets: [{ field: 'state', to: { kind: 'value', value: 'cancelled' } }],
    },
  ],
};

const outcomes: Field['states'] = [
  { value: 'passed', word: 'Passed', tone: 'settled' },
  { value: 'retry', word: 'Tried again', tone: 'moving' },
  { value: 'refused', word: 'Refused', tone: 'broken' },
];

/** Adds the stores, with who may change what is asked of them. */
export async function addStores({
  port,
  storesPassword,
}: Pick<StandInAccess, 'port' | 'storesPassword'>): Promise<Pick<ServiceIds, 'requisitions' | 'lines'>> {
  const base = `http://127.0.0.1:${port}/stores`;
  const auth = { kind: 'basic', user: storesUser } as const;
  const stores = await source('Stores', { kind: 'odata', base, auth }, storesPassword);
  await setChanger(stores, { user: storesChanger, secret: storesPassword });
  const tables = (await (await openSource(stores)).discover?.()) ?? [];
  const ofTable = (table: string, described: Omit<Described, 'request'>): Promise<string> => {
    const found = tables.find((each) => each.name === table);
    if (!found) throw new Error(`the stores have no ${table}`);
    const { request, fields, key } = dataSetFromTable(stores, found, tables, usualChoice(found, tables));
    return storeDataSet(stores, { ...described, ...(key ? { key } : {}), fresh: 600 }, request, fields);
  };
  const lines = await ofTable('RequisitionLines', linesSaid);
  return { requisitions: await ofTable('Requisitions', requisitionsSaid(lines)), lines };
}

/** Adds the sources and data sets of the services, each found out about as a person would. */
export async function addServices(access: StandInAccess): Promise<ServiceIds> {
  const base = `http://127.0.0.1:${access.port}`;
  const gates = await source('Gate scanners', { kind: 'logs', folder: `${access.logs}/gates` }, '');
  const web = await source('Passage web server', { kind: 'logs', folder: `${access.logs}/web` }, '');
  const engines = await source('Engine telemetry', { kind: 'logs', folder: `${access.logs}/engines` }, '');
  const tide = await source(
    'Tide and weather',
    {
      kind: 'http',
      base: `${base}/tide/v2`,
      auth: { kind: 'key', in: 'header', name: 'X-Tide-Key' },
      allowance: tideCallsADay,
    },
    access.tideKey,
  );
  const service = await source(
    'Passage service',
    {
      kind: 'http',
      base: `${base}/passage-service`,
      auth: { kind: 'client', tokenAddress: `${base}/passage-service/token`, client: passageClient },
    },
    access.clientSecret,
  );
  await setChanger(service, { user: passageChanger, secret: access.clientSecret });
  const sent = await source('Passage events', { kind: 'intake', keyHash: hashOfKey(access.intakeKey) }, '');

  await dataSet(tide, {
    name: 'Tide observations',
    request: httpRequest('observations', [
      { name: 'hours', value: '48' },
      { name: 'per_page', value: '500' },
    ]),
    noun: { one: 'observation', many: 'observations' },
    key: 'id',
    labels: {
      id: { hidden: true },
      station_id: { hidden: true },
      station_name: { label: 'Station' },
      level_m: { label: 'Water level', unit: 'm' },
      wind_speed_ms: { label: 'Wind', unit: 'm/s' },
    },
    measures: [
      {
        name: 'level',
        label: 'average water level',
        calculation: { kind: 'average', field: 'level_m' },
        unit: 'm',
        format: { kind: 'number', decimals: 2 },
      },
    ],
    keep: { mode: { kind: 'replace' }, schedule: { kind: 'minutes', minutes: 30 } },
  });
  await dataSet(tide, {
    name: 'Tide stations',
    request: httpRequest('stations'),
    noun: { one: 'station', many: 'stations' },
    key: 'id',
    title: 'name',
    fresh: 86_400,
  });
  const { requisitions, lines } = await addStores(access);
  return {
    requisitions,
    lines,
    scans: await dataSet(gates, {
      name: 'Gate scans',
      request: logRequest('scans.ndjson*', { kind: 'json' }),
      noun: { one: 'scan', many: 'scans' },
      title: 'passage_ref',
      labels: {
        at: { label: 'Scanned at' },
        passage_ref: { refers: passage, label: 'Passage', format: { kind: 'id' } },
        outcome: { states: outcomes },
        took_ms: { label: 'Took', unit: 'ms' },
        scanner_clock: { label: 'By the scanner’s clock' },
      },
      measures: [
        {
          name: 'refused',
          label: 'refused',
          calculation: {
            kind: 'share',
            where: { field: 'outcome', test: { op: 'is', values: ['refused'] } },
          },
          format: { kind: 'percent', decimals: 1 },
          good: 'down',
        },
        {
          name: 'slow',
          label: 'nine in ten scans are quicker than',
          calculation: { kind: 'percentile', field: 'took_ms', at: 90 },
          unit: 'ms',
          good: 'down',
        },
      ],
      keep: following,
    }),
    access: await dataSet(web, {
      name: 'Passage web requests',
      request: logRequest('access.log*', {
        kind: 'pattern',
        pattern: String.raw`^(?<host>\S+) \S+ \S+ \[(?<at>[^\]]+)\] "(?<method>[A-Z]+) /passages/(?<passage_ref>[A-Z0-9-]+) \S+" (?<status>\d{3}) (?<bytes>\d+) "[^"]*" "(?<agent>[^"]*)"$`,
      }),
      noun: { one: 'request', many: 'requests' },
      title: 'passage_ref',
      labels: {
        passage_ref: { refers: passage, label: 'Passage', format: { kind: 'id' } },
        host: { hidden: true },
        status: { format: { kind: 'id' } },
      },
      keep: following,
    }),
    telemetry: await dataSet(engines, {
      name: 'Engine readings',
      request: logRequest('telemetry.log*', { kind: 'pairs' }),
      noun: { one: 'reading', many: 'readings' },
      labels: { oil_c: { label: 'Oil', unit: '°C' }, rpm: { label: 'Revolutions', unit: 'per minute' } },
      keep: following,
    }),
    passages: await dataSet(service, {
      name: 'Passages',
      request: httpRequest('passages'),
      noun: { one: 'passage', many: 'passages' },
      key: 'passage_ref',
      title: 'passage_ref',
      labels: {
        passage_ref: { refers: passage, label: 'Passage', format: { kind: 'id' } },
        fare: { unit: 'crowns' },
        traveller_name: { label: 'Traveller' },
        traveller_tickets: { label: 'Tickets' },
        state: {
          states: [
            { value: 'boarded', word: 'Boarded', tone: 'settled' },
            { value: 'booked', word: 'Booked', tone: 'waiting' },
            { value: 'refused', word: 'Refused', tone: 'broken' },
            { value: 'cancelled', word: 'Cancelled', tone: 'slipping' },
          ],
        },
      },
      fresh: 300,
      changes: passageChanges,
    }),
    events: await storeDataSet(
      sent,
      {
        name: 'Passage events',
        noun: { one: 'event', many: 'events' },
        title: 'body',
        keep: following,
      },
      {
        kind: 'intake',
        columns: [
          { column: '/time', name: 'at', type: 'instant' },
          { column: '/body', name: 'body', type: 'text' },
          { column: '/severity', name: 'severity', type: 'text' },
          { column: '/attributes/passage_ref', name: 'passage_ref', type: 'text' },
          { column: '/attributes/sailing', name: 'sailing', type: 'text' },
        ],
      },
      [
        { name: 'at', type: 'instant' },
        { name: 'body', type: 'text', label: 'What happened' },
        {
          name: 'severity',
          type: 'text',
          states: [
            { value: 'INFO', word: 'Told', tone: 'settled' },
            { value: 'WARN', word: 'Warned', tone: 'slipping' },
          ],
        },
        { name: 'passage_ref', type: 'text', label: 'Passage', refers: passage, format: { kind: 'id' } },
        { name: 'sailing', type: 'text' },
      ],
    ),
  };
}
