import { openSource } from '#server/sources/open.ts';
import { listSources } from '#server/store/sources.ts';
import { filled, is, isNot, percent, type Shelf } from './shelf.ts';

/** Tide readings unfolded, requisitions with their totals, passages traced through three systems, oil by vessel and day. */
export async function shapeServices(shelf: Shelf): Promise<void> {
  await shelf.shaped('Tide observations', {
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
    labels: {
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
    subsets: [{ name: 'water', label: 'water temperatures', where: is('kind', 'water temperature') }],
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
  const found = stores ? ((await (await openSource(stores.id)).discover?.()) ?? []) : [];
  if (stores) {
    await shelf.plain(stores.id, found, 'Depots', 'Depots', (depots) => ({
      ...depots,
      fresh: 86_400,
      checks: [
        { name: 'One depot for each code', expects: { kind: 'unique', fields: ['Code'] }, holds: false },
      ],
    }));
    await shelf.plain(stores.id, found, 'Parts', 'Parts', (parts) => ({ ...parts, fresh: 86_400 }));
    await shelf.shaped('Requisition lines', {
      name: 'Requisitions with their lines',
      noun: { one: 'line', many: 'lines' },
      key: 'Id',
      title: 'part name',
      steps: [
        { kind: 'derive', name: 'total', making: { kind: 'expression', text: 'Quantity * UnitPrice' } },
        {
          kind: 'lookUp',
          from: { dataSet: shelf.of('Requisitions').id },
          on: [{ field: 'RequisitionId', other: 'Id' }],
          mode: 'one',
          take: [
            { field: 'Number', as: 'requisition number' },
            { field: 'State', as: 'state' },
            { field: 'Vessel', as: 'vessel' },
            { field: 'RaisedOn', as: 'raised on' },
            { field: 'DepotId', as: 'depot id' },
          ],
          order: [],
        },
        {
          kind: 'lookUp',
          from: { dataSet: shelf.of('Depots').id },
          on: [{ field: 'depot id', other: 'Id' }],
          mode: 'one',
          take: [{ field: 'Name', as: 'depot' }],
          order: [],
        },
        {
          kind: 'lookUp',
          from: { dataSet: shelf.of('Parts').id },
          on: [{ field: 'PartId', other: 'Id' }],
          mode: 'one',
          take: [{ field: 'Name', as: 'part name' }],
          order: [],
        },
        { kind: 'running', as: 'share of all', what: 'share', field: 'total', order: [], within: [] },
        {
          kind: 'fields',
          keep: [
            'requisition number',
            'part name',
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
      labels: {
        'requisition number': { label: 'Requisition' },
        'part name': { label: 'Part' },
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
      subsets: [{ name: 'open', label: 'lines of open requisitions', where: is('state', 'open') }],
      checks: [
        {
          name: 'Every line has a requisition',
          expects: { kind: 'filled', field: 'requisition number' },
          holds: false,
        },
      ],
    });
  }
  await shelf.shaped('Gate scans', {
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
    subsets: [{ name: 'refused', label: 'refused scans', where: is('outcome', 'refused') }],
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
  await shelf.shaped('Passage web requests', {
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
  await shelf.shaped('Passage events', {
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
  await shelf.shaped('Gate scans', {
    name: 'Passages traced',
    noun: traced,
    title: 'what',
    steps: [
      { kind: 'derive', name: 'what', making: { kind: 'join', fields: ['gate', 'outcome'], between: ' ' } },
      { kind: 'fields', keep: ['at', 'passage_ref', 'what', 'outcome'] },
      {
        kind: 'stack',
        with: [
          { ref: { dataSet: shelf.of('Web requests, for the trace').id }, word: 'web server' },
          { ref: { dataSet: shelf.of('Service events, for the trace').id }, word: 'passage service' },
        ],
        origin: { name: 'system', word: 'gate scanner' },
      },
      { kind: 'where', condition: filled('passage_ref') },
      {
        kind: 'lookUp',
        from: { dataSet: shelf.of('Passages').id },
        on: [{ field: 'passage_ref', other: 'passage_ref' }],
        mode: 'one',
        take: [
          { field: 'sailing', as: 'sailing' },
          { field: 'traveller_name', as: 'traveller' },
        ],
        order: [],
      },
    ],
    labels: { passage_ref: { label: 'Passage' } },
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
    subsets: [{ name: 'refused', label: 'events that were refused', where: is('outcome', 'refused') }],
    checks: [
      { name: 'Every event names a passage', expects: { kind: 'filled', field: 'passage_ref' }, holds: true },
    ],
  });
  await shelf.shaped('Engine readings', {
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
    labels: {
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
