import { randomUUID } from 'node:crypto';
import type { ReadableStream } from 'node:stream/web';
import type { FoundTable } from '#core/dataset/found.ts';
import { dataSetFromTable } from '#core/dataset/from-table.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/field/field.ts';
import { dayOf } from '#core/period/period.ts';
import { shape } from '#core/step/kinds.ts';
import { withOutcome } from '#core/step/plan.ts';
import type { Step } from '#core/step/schema.ts';
import { openKind } from '#server/sources/open.ts';
import { addDataSet, allDataSets, type StoredDataSet, saveDataSet } from '#server/store/data-sets.ts';
import { listSources } from '#server/store/sources.ts';
import { receiveFile } from '#server/uploads/files.ts';
import { acceptNew, lookAtFile } from '#server/uploads/look.ts';
import { zone } from './line.ts';
import { lateMinutes } from './sailings.ts';
import { trainingSheet } from './training.ts';

/* Data sets that steps make fit to be read: what is dirty in the demo's records is mended here, where it can be seen. */

type Known = Map<string, { id: string; definition: DataSet }>;

/** A step without its id, which its place gives. */
type Told<S = Step> = S extends Step ? Omit<S, 'id'> : never;
const numbered = (steps: readonly Told[]): Step[] =>
  steps.map((step, index) => ({ ...step, id: `step-${index + 1}` }) as Step);

interface Shaped
  extends Pick<DataSet, 'noun'>,
    Partial<Pick<DataSet, 'measures' | 'cuts' | 'checks' | 'key' | 'title'>> {
  readonly name: string;
  readonly steps: readonly Told[];
  readonly said?: Readonly<Record<string, Partial<Field>>>;
}

/** A data set made of another one. Throws where a step cannot be done: the demo ships none such. */
async function shaped(
  of: { id: string; definition: DataSet },
  known: Known,
  { name, steps, said = {}, ...rest }: Shaped,
): Promise<string> {
  const world = new Map([...known.values()].map(({ id, definition }) => [id, definition]));
  const start = of.definition.fields;
  const definition = withOutcome(
    {
      version: 1,
      source: of.definition.source,
      request: { kind: 'of', dataSet: of.id, columns: [] },
      inputs: [],
      fields: start,
      measures: [
        { name: 'count', label: rest.noun.many, calculation: { kind: 'count' } },
        ...(rest.measures ?? []),
      ],
      start,
      steps: numbered(steps),
      noun: rest.noun,
      ...(rest.cuts ? { cuts: rest.cuts } : {}),
      ...(rest.checks ? { checks: rest.checks } : {}),
      ...(rest.key ? { key: rest.key } : {}),
      ...(rest.title ? { title: rest.title } : {}),
    },
    world,
  );
  const wrong = shape(start, definition.steps ?? [], world).problems.find((problem) => problem !== null);
  if (wrong) throw new Error(`the demo's data set “${name}”: ${wrong}`);
  const fields = definition.fields.map((field) => ({ ...field, ...said[field.name] }));
  const id = randomUUID();
  await addDataSet({ id, name, definition: { ...definition, fields }, by: null });
  known.set(name, { id, definition: { ...definition, fields } });
  return id;
}

const is = (field: string, ...values: string[]) => ({ field, test: { op: 'is' as const, values } });
const isNot = (field: string, ...values: string[]) => ({ field, test: { op: 'isNot' as const, values } });
const filled = (field: string) => ({ field, test: { op: 'filled' as const } });
const percent = { kind: 'percent' as const, decimals: 1 };

/** Makes the shaped data sets, once the ones they are made of are there. */
export async function addShaped(operations: string, tables: readonly FoundTable[], now: Date): Promise<void> {
  const known: Known = new Map((await allDataSets()).map((each) => [each.name, each]));
  const of = (name: string): { id: string; definition: DataSet } => {
    const found = known.get(name);
    if (!found) throw new Error(`the demo has no data set ${name}`);
    return found;
  };
  const plain = async (
    source: string,
    found: readonly FoundTable[],
    table: string,
    name: string,
    change: (definition: DataSet) => DataSet = (same) => same,
  ): Promise<void> => {
    const one = found.find((each) => each.name === table);
    if (!one) throw new Error(`the demo has no table ${table}`);
    const choice = { columns: one.columns.map((column) => column.name), lookUps: [] };
    const definition = change(dataSetFromTable(source, one, found, choice));
    const id = randomUUID();
    await addDataSet({ id, name, definition, by: null });
    known.set(name, { id, definition });
  };
  await plain(operations, tables, 'vessels', 'Vessels', (vessels) => ({
    ...vessels,
    checks: [
      { name: 'One vessel for each name', expects: { kind: 'unique', fields: ['name'] }, holds: false },
    ],
  }));
  await plain(operations, tables, 'crew', 'Crew', (crew) => ({
    ...crew,
    checks: [
      { name: 'One of each staff number', expects: { kind: 'unique', fields: ['staff_no'] }, holds: false },
      { name: 'Everybody has a post', expects: { kind: 'filled', field: 'post' }, holds: false },
    ],
  }));
  await plain(operations, tables, 'work_orders', 'Work orders as typed');

  await shaped(of('Sailings'), known, {
    name: 'Punctuality',
    noun: { one: 'sailing', many: 'sailings' },
    key: 'id',
    title: 'reference',
    steps: [
      {
        kind: 'where',
        condition: { all: [isNot('status', 'planned', 'boarding', 'cancelled'), filled('delay_minutes')] },
      },
      { kind: 'derive', name: 'month', making: { kind: 'period', field: 'departs_at', unit: 'month' } },
      {
        kind: 'derive',
        name: 'lateness',
        making: {
          kind: 'bands',
          field: 'delay_minutes',
          bands: [
            { below: String(lateMinutes + 1), word: 'on time' },
            { below: '15', word: 'a little late' },
            { below: '45', word: 'late' },
          ],
          rest: 'very late',
        },
      },
      {
        kind: 'derive',
        name: 'cause',
        making: {
          kind: 'expression',
          text: `CASE WHEN delay_minutes > ${lateMinutes} THEN COALESCE(cause, 'not said') END`,
        },
      },
      { kind: 'derive', name: 'hour', making: { kind: 'expression', text: 'EXTRACT(HOUR FROM departs_at)' } },
      {
        kind: 'fields',
        keep: [
          'reference',
          'route',
          'vessel',
          'departs_at',
          'month',
          'hour',
          'delay_minutes',
          'lateness',
          'cause',
          'passengers',
          'fares',
          'id',
        ],
      },
    ],
    said: {
      lateness: {
        states: [
          { value: 'on time', word: 'On time', tone: 'settled' },
          { value: 'a little late', word: 'A little late', tone: 'moving' },
          { value: 'late', word: 'Late', tone: 'slipping' },
          { value: 'very late', word: 'Very late', tone: 'broken' },
        ],
      },
      id: { hidden: true },
    },
    measures: [
      {
        name: 'on_time',
        label: 'on-time rate',
        calculation: { kind: 'share', where: is('lateness', 'on time') },
        format: percent,
        good: 'up',
        target: '0.90',
      },
      {
        name: 'delay',
        label: 'average delay',
        calculation: { kind: 'average', field: 'delay_minutes' },
        unit: 'min',
        format: { kind: 'number', decimals: 1 },
        good: 'down',
      },
      {
        name: 'felt_delay',
        label: 'delay as travellers felt it',
        calculation: { kind: 'weighted', field: 'delay_minutes', by: 'passengers' },
        unit: 'min',
        format: { kind: 'number', decimals: 1 },
        good: 'down',
      },
      {
        name: 'nine_in_ten',
        label: 'nine in ten are within',
        calculation: { kind: 'percentile', field: 'delay_minutes', at: 90 },
        unit: 'min',
        good: 'down',
      },
      {
        name: 'fare_each',
        label: 'fares per traveller',
        calculation: {
          kind: 'ratio',
          of: { kind: 'sum', field: 'fares' },
          to: { kind: 'sum', field: 'passengers' },
        },
        unit: 'crowns',
        format: { kind: 'number', decimals: 2 },
      },
    ],
    cuts: [
      { name: 'late', label: 'late sailings', where: isNot('lateness', 'on time') },
      { name: 'unexplained', label: 'late sailings without a cause', where: is('cause', 'not said') },
    ],
    checks: [
      { name: 'One record for each sailing', expects: { kind: 'unique', fields: ['id'] }, holds: false },
      { name: 'Every sailing has a route', expects: { kind: 'filled', field: 'route' }, holds: false },
      { name: 'Sailings go on', expects: { kind: 'fresh', field: 'departs_at', hours: 24 }, holds: false },
    ],
  });
  await shaped(of('Sailings'), known, {
    name: 'Punctuality by route and month',
    noun: { one: 'month of a route', many: 'months of routes' },
    steps: [
      {
        kind: 'where',
        condition: { all: [isNot('status', 'planned', 'boarding', 'cancelled'), filled('delay_minutes')] },
      },
      {
        kind: 'summarise',
        by: [
          { field: 'route', as: 'route' },
          { field: 'departs_at', unit: 'month', as: 'month' },
        ],
        measures: [
          { name: 'sailings', calculation: { kind: 'count' } },
          {
            name: 'on time',
            calculation: {
              kind: 'share',
              where: { field: 'delay_minutes', test: { op: 'atMost', value: String(lateMinutes) } },
            },
          },
          { name: 'median delay', calculation: { kind: 'median', field: 'delay_minutes' } },
          { name: 'worst vessel delay', calculation: { kind: 'greatest', field: 'delay_minutes' } },
        ],
      },
      { kind: 'periods', field: 'month', unit: 'month', within: ['route'], zero: ['sailings'] },
      { kind: 'rank', as: 'place', order: [{ by: 'on time', descending: true }], within: ['month'] },
      {
        kind: 'running',
        as: 'against the month before',
        what: 'difference',
        field: 'on time',
        order: [{ by: 'month' }],
        within: ['route'],
      },
    ],
    said: {
      'on time': { format: percent },
      'against the month before': { format: percent },
      'median delay': { unit: 'min' },
    },
    measures: [
      {
        name: 'best',
        label: 'best on-time rate',
        calculation: { kind: 'greatest', field: 'on time' },
        format: percent,
        good: 'up',
      },
    ],
    cuts: [
      {
        name: 'below',
        label: 'months below nine in ten',
        where: { field: 'on time', test: { op: 'below', value: '0.9' } },
      },
    ],
    checks: [
      {
        name: 'One record for each route and month',
        expects: { kind: 'unique', fields: ['route', 'month'] },
        holds: false,
      },
    ],
  });
  await shaped(of('Work orders as typed'), known, {
    name: 'Work orders, how long they wait',
    noun: { one: 'work order', many: 'work orders' },
    key: 'id',
    title: 'title',
    steps: [
      {
        kind: 'lookUp',
        from: { dataSet: of('Vessels').id },
        on: [{ field: 'vessel_id', other: 'id' }],
        mode: 'one',
        take: [{ field: 'name', as: 'vessel' }],
        order: [],
      },
      {
        kind: 'lookUp',
        from: { dataSet: of('Crew').id },
        on: [{ field: 'assigned_to', other: 'id' }],
        mode: 'one',
        take: [
          { field: 'name', as: 'given to' },
          { field: 'post', as: 'post' },
        ],
        order: [],
      },
      { kind: 'type', field: 'estimate_hours', to: 'decimal', misfit: 'list' },
      {
        kind: 'derive',
        name: 'days waiting',
        making: {
          kind: 'expression',
          text: 'CASE WHEN done_at IS NULL THEN CURRENT_DATE - CAST(opened_at AS date) END',
        },
      },
      {
        kind: 'derive',
        name: 'age',
        making: {
          kind: 'bands',
          field: 'days waiting',
          bands: [
            { below: '7', word: 'under a week' },
            { below: '30', word: 'under a month' },
            { below: '90', word: 'under three months' },
          ],
          rest: 'three months and more',
        },
      },
      { kind: 'fill', field: 'given to', with: { kind: 'value', value: 'nobody' } },
    ],
    said: {
      vessel_id: { hidden: true },
      assigned_to: { hidden: true },
      estimate_hours: { label: 'Estimate', unit: 'h' },
      'estimate_hours as written': { label: 'Estimate as written' },
      cost: { unit: 'crowns' },
    },
    measures: [
      {
        name: 'waiting',
        label: 'average days waiting',
        calculation: { kind: 'average', field: 'days waiting' },
        unit: 'days',
        format: { kind: 'number', decimals: 1 },
        good: 'down',
      },
      {
        name: 'oldest',
        label: 'longest wait',
        calculation: { kind: 'greatest', field: 'days waiting' },
        unit: 'days',
        good: 'down',
      },
      {
        name: 'estimated',
        label: 'hours estimated',
        calculation: { kind: 'sum', field: 'estimate_hours' },
        unit: 'h',
      },
    ],
    cuts: [
      { name: 'open', label: 'open work orders', where: isNot('status', 'done') },
      {
        name: 'nobody',
        label: 'open work orders given to nobody',
        where: { all: [isNot('status', 'done'), is('given to', 'nobody')] },
      },
    ],
    checks: [
      { name: 'Every order names a vessel', expects: { kind: 'filled', field: 'vessel' }, holds: false },
      {
        name: 'What is done has a cost',
        expects: { kind: 'all', where: { any: [isNot('status', 'done'), filled('cost')] } },
        holds: false,
      },
    ],
  });
  if (!known.has('Gate scans')) return;
  await withServices(known, of, plain);
  const { id } = await receiveFile(
    new Blob([trainingSheet(dayOf(now, zone))]).stream() as ReadableStream<Uint8Array>,
  );
  const seen = await lookAtFile(id);
  await acceptNew({
    id: randomUUID(),
    file: id,
    reading: seen.reading,
    fields: seen.fields,
    name: 'Crew certificates',
    noun: { one: 'row', many: 'rows' },
    by: null,
  });
  const sent = (await allDataSets()).find(({ name }) => name === 'Crew certificates');
  if (sent) await training(sent, of);
}

/** The sheet itself, mended in place: steps work on what was sent, however often a later one comes. */
async function training(
  { id, name, revision, definition: sent }: StoredDataSet,
  of: (name: string) => { id: string; definition: DataSet },
): Promise<void> {
  const crew = of('Crew');
  const world = new Map([[crew.id, crew.definition]]);
  const definition = withOutcome(
    {
      ...sent,
      start: sent.fields,
      noun: { one: 'certificate', many: 'certificates' },
      measures: [
        { name: 'count', label: 'certificates', calculation: { kind: 'count' } },
        { name: 'people', label: 'people trained', calculation: { kind: 'distinct', field: 'Staff no' } },
        {
          name: 'run out',
          label: 'share that has run out',
          calculation: { kind: 'share', where: { field: 'days left', test: { op: 'below', value: '0' } } },
          format: percent,
          good: 'down',
        },
      ],
      steps: numbered([
        { kind: 'distinct', by: [], order: [] },
        { kind: 'type', field: 'Passed on', to: 'date', misfit: 'list' },
        { kind: 'type', field: 'Hours', to: 'decimal', misfit: 'blank' },
        {
          kind: 'derive',
          name: 'valid until',
          making: { kind: 'expression', text: '"Passed on" + "Valid for years" * 365' },
        },
        {
          kind: 'derive',
          name: 'days left',
          making: { kind: 'expression', text: '"valid until" - CURRENT_DATE' },
        },
        { kind: 'type', field: 'Staff no', to: 'text', misfit: 'blank' },
        {
          kind: 'lookUp',
          from: { dataSet: crew.id },
          on: [{ field: 'Staff no', other: 'staff_no' }],
          mode: 'one',
          take: [{ field: 'post', as: 'post' }],
          order: [],
        },
      ]),
      cuts: [
        {
          name: 'soon',
          label: 'certificates that run out within 90 days',
          where: { field: 'days left', test: { op: 'between', from: '0', to: '90' } },
        },
      ],
      checks: [
        { name: 'Every course has a date', expects: { kind: 'filled', field: 'Passed on' }, holds: false },
        {
          name: 'One of each course for each person',
          expects: { kind: 'unique', fields: ['Staff no', 'Course'] },
          holds: true,
        },
      ],
    },
    world,
  );
  await saveDataSet({ id, name, definition, revision, by: null });
}

async function withServices(
  known: Known,
  of: (name: string) => { id: string; definition: DataSet },
  plain: (
    source: string,
    found: readonly FoundTable[],
    table: string,
    name: string,
    change?: (definition: DataSet) => DataSet,
  ) => Promise<void>,
): Promise<void> {
  await shaped(of('Tide observations'), known, {
    name: 'Tide readings',
    noun: { one: 'reading', many: 'readings' },
    steps: [
      { kind: 'where', condition: isNot('quality', 'suspect') },
      { kind: 'unfold', field: 'readings', as: 'reading', keepEmpty: true },
      {
        kind: 'spread',
        field: 'reading',
        take: [
          { path: '/kind', name: 'kind', type: 'text' },
          { path: '/value', name: 'value', type: 'decimal' },
        ],
        keepWhole: false,
      },
      { kind: 'derive', name: 'kind', making: { kind: 'expression', text: `REPLACE(kind, '_', ' ')` } },
      {
        kind: 'fields',
        keep: ['station_name', 'observed_at', 'kind', 'value', 'level_m', 'wind_speed_ms', 'id'],
      },
    ],
    said: {
      station_name: { label: 'Station' },
      id: { hidden: true },
      level_m: { label: 'Water level', unit: 'm' },
    },
    measures: [
      {
        name: 'latest',
        label: 'latest value',
        calculation: { kind: 'last', field: 'value', by: 'observed_at' },
      },
      {
        name: 'average',
        label: 'average value',
        calculation: { kind: 'average', field: 'value' },
        format: { kind: 'number', decimals: 2 },
      },
    ],
    cuts: [{ name: 'water', label: 'water temperatures', where: is('kind', 'water temperature') }],
    checks: [
      { name: 'Every reading has a value', expects: { kind: 'filled', field: 'value' }, holds: true },
      {
        name: 'Observations go on',
        expects: { kind: 'fresh', field: 'observed_at', hours: 3 },
        holds: false,
      },
    ],
  });
  const stores = (await listSources()).find(({ name }) => name === 'Stores');
  const found = stores ? ((await (await openKind(stores.id)).discover?.()) ?? []) : [];
  if (stores) {
    await plain(stores.id, found, 'Depots', 'Depots', (depots) => ({
      ...depots,
      fresh: 86_400,
      checks: [
        { name: 'One depot for each code', expects: { kind: 'unique', fields: ['Code'] }, holds: false },
      ],
    }));
    await plain(stores.id, found, 'Parts', 'Parts', (parts) => ({ ...parts, fresh: 86_400 }));
    await shaped(of('Requisition lines'), known, {
      name: 'Requisitions with their lines',
      noun: { one: 'line', many: 'lines' },
      key: 'Id',
      title: 'part',
      steps: [
        { kind: 'derive', name: 'total', making: { kind: 'expression', text: 'Quantity * UnitPrice' } },
        {
          kind: 'lookUp',
          from: { dataSet: of('Requisitions').id },
          on: [{ field: 'RequisitionId', other: 'Id' }],
          mode: 'one',
          take: [
            { field: 'Number', as: 'requisition' },
            { field: 'State', as: 'state' },
            { field: 'Vessel', as: 'vessel' },
            { field: 'RaisedOn', as: 'raised on' },
            { field: 'DepotId', as: 'depot id' },
          ],
          order: [],
        },
        {
          kind: 'lookUp',
          from: { dataSet: of('Depots').id },
          on: [{ field: 'depot id', other: 'Id' }],
          mode: 'one',
          take: [{ field: 'Name', as: 'depot' }],
          order: [],
        },
        {
          kind: 'lookUp',
          from: { dataSet: of('Parts').id },
          on: [{ field: 'PartId', other: 'Id' }],
          mode: 'one',
          take: [{ field: 'Name', as: 'part' }],
          order: [],
        },
        { kind: 'running', as: 'share of all', what: 'share', field: 'total', order: [], within: [] },
        {
          kind: 'fields',
          keep: [
            'requisition',
            'part',
            'Quantity',
            'UnitPrice',
            'total',
            'share of all',
            'state',
            'vessel',
            'depot',
            'raised on',
            'Id',
          ],
        },
      ],
      said: {
        total: { unit: 'crowns', format: { kind: 'number', decimals: 2 } },
        'share of all': { format: { kind: 'percent', decimals: 2 } },
        UnitPrice: { label: 'Price', unit: 'crowns' },
        Id: { hidden: true },
      },
      measures: [
        {
          name: 'total',
          label: 'value of lines',
          calculation: { kind: 'sum', field: 'total' },
          unit: 'crowns',
          format: { kind: 'number', decimals: 2 },
        },
        {
          name: 'price',
          label: 'average price by quantity',
          calculation: { kind: 'weighted', field: 'UnitPrice', by: 'Quantity' },
          unit: 'crowns',
          format: { kind: 'number', decimals: 2 },
        },
      ],
      cuts: [{ name: 'open', label: 'lines of open requisitions', where: is('state', 'open') }],
      checks: [
        {
          name: 'Every line has a requisition',
          expects: { kind: 'filled', field: 'requisition' },
          holds: false,
        },
      ],
    });
  }
  await shaped(of('Gate scans'), known, {
    name: 'Gate scans, clocks put right',
    noun: { one: 'scan', many: 'scans' },
    title: 'passage_ref',
    steps: [
      {
        kind: 'derive',
        name: 'scanner_clock',
        making: { kind: 'shift', field: 'scanner_clock', minutes: -180, where: is('gate', 'NRK-2') },
      },
      {
        kind: 'derive',
        name: 'seconds apart',
        making: { kind: 'expression', text: 'EXTRACT(EPOCH FROM scanner_clock - at)' },
      },
      { kind: 'derive', name: 'terminal', making: { kind: 'split', field: 'gate', at: '-', part: 1 } },
    ],
    measures: [
      {
        name: 'refused',
        label: 'refused',
        calculation: { kind: 'share', where: is('outcome', 'refused') },
        format: percent,
        good: 'down',
      },
    ],
    cuts: [{ name: 'refused', label: 'refused scans', where: is('outcome', 'refused') }],
    checks: [
      {
        name: 'Clocks agree to a minute',
        expects: {
          kind: 'all',
          where: { field: 'seconds apart', test: { op: 'between', from: '-60', to: '60' } },
        },
        holds: false,
      },
      { name: 'Every scan names a passage', expects: { kind: 'filled', field: 'passage_ref' }, holds: false },
    ],
  });
  const traced = { one: 'event', many: 'events' };
  await shaped(of('Passage web requests'), known, {
    name: 'Web requests, for the trace',
    noun: traced,
    steps: [
      {
        kind: 'derive',
        name: 'what',
        making: { kind: 'expression', text: `method || ' answered ' || CAST(status AS text)` },
      },
      {
        kind: 'derive',
        name: 'outcome',
        making: {
          kind: 'choose',
          when: [{ where: { field: 'status', test: { op: 'atLeast', value: '400' } }, word: 'refused' }],
          otherwise: 'passed',
        },
      },
      { kind: 'fields', keep: ['at', 'passage_ref', 'what', 'outcome'] },
    ],
  });
  await shaped(of('Passage events'), known, {
    name: 'Service events, for the trace',
    noun: traced,
    steps: [
      { kind: 'rename', field: 'body', as: 'what' },
      {
        kind: 'derive',
        name: 'outcome',
        making: {
          kind: 'choose',
          when: [{ where: is('severity', 'WARN'), word: 'refused' }],
          otherwise: 'passed',
        },
      },
      { kind: 'fields', keep: ['at', 'passage_ref', 'what', 'outcome'] },
    ],
  });
  await shaped(of('Gate scans'), known, {
    name: 'Passages traced',
    noun: traced,
    title: 'what',
    steps: [
      { kind: 'derive', name: 'what', making: { kind: 'join', fields: ['gate', 'outcome'], between: ' ' } },
      { kind: 'fields', keep: ['at', 'passage_ref', 'what', 'outcome'] },
      {
        kind: 'stack',
        with: [
          { ref: { dataSet: of('Web requests, for the trace').id }, word: 'web server' },
          { ref: { dataSet: of('Service events, for the trace').id }, word: 'passage service' },
        ],
        origin: { name: 'system', word: 'gate scanner' },
      },
      { kind: 'where', condition: filled('passage_ref') },
      {
        kind: 'lookUp',
        from: { dataSet: of('Passages').id },
        on: [{ field: 'passage_ref', other: 'passage_ref' }],
        mode: 'one',
        take: [
          { field: 'sailing', as: 'sailing' },
          { field: 'traveller_name', as: 'traveller' },
        ],
        order: [],
      },
    ],
    said: { passage_ref: { label: 'Passage' } },
    measures: [
      { name: 'passages', label: 'passages', calculation: { kind: 'distinct', field: 'passage_ref' } },
      {
        name: 'refused',
        label: 'refused',
        calculation: { kind: 'share', where: is('outcome', 'refused') },
        format: percent,
        good: 'down',
      },
    ],
    cuts: [{ name: 'refused', label: 'events that were refused', where: is('outcome', 'refused') }],
    checks: [
      { name: 'Every event names a passage', expects: { kind: 'filled', field: 'passage_ref' }, holds: true },
    ],
  });
  await shaped(of('Engine readings'), known, {
    name: 'Oil by vessel and day',
    noun: { one: 'day of a vessel', many: 'days of vessels' },
    steps: [
      {
        kind: 'summarise',
        by: [
          { field: 'vessel', as: 'vessel' },
          { field: 'time', unit: 'day', as: 'day' },
        ],
        measures: [
          { name: 'readings', calculation: { kind: 'count' } },
          { name: 'oil', calculation: { kind: 'average', field: 'oil_c' } },
          { name: 'high', calculation: { kind: 'count' }, where: is('state', 'high') },
        ],
      },
      { kind: 'periods', field: 'day', unit: 'day', within: ['vessel'], zero: ['readings', 'high'] },
      {
        kind: 'running',
        as: 'oil over three days',
        what: 'average',
        field: 'oil',
        order: [{ by: 'day' }],
        within: ['vessel'],
        over: 3,
      },
    ],
    said: {
      oil: { unit: '°C', format: { kind: 'number', decimals: 1 } },
      'oil over three days': { unit: '°C', format: { kind: 'number', decimals: 1 } },
    },
    checks: [
      {
        name: 'One record for each vessel and day',
        expects: { kind: 'unique', fields: ['vessel', 'day'] },
        holds: false,
      },
    ],
  });
}
