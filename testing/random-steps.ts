import fc from 'fast-check';
import type { Condition } from '#core/ask/condition/schema.ts';
import type { Calculation } from '#core/ask/measure/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { readable } from '#core/dataset/step/kinds/fields.ts';
import { shape } from '#core/dataset/step/kinds.ts';
import type { Making, Step, StepOf } from '#core/dataset/step/schema.ts';
import type { World } from '#core/dataset/world.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { isNumeric, isTemporal } from '#core/value/field/value.ts';

/* Random steps over random readings of the tide, for property tests. */

export const start: Field[] = [
  { name: 'id', type: 'integer' },
  { name: 'gauge', type: 'text' },
  { name: 'said', type: 'text' },
  { name: 'rank', type: 'integer' },
  { name: 'height', type: 'decimal' },
  { name: 'valid', type: 'boolean' },
  { name: 'day', type: 'date' },
  { name: 'at', type: 'instant' },
  { name: 'more', type: 'nested' },
];

const texts = [
  'NRK-1',
  'nrk-1',
  'Ærø',
  '7',
  ' 12 ',
  '007',
  '-3.50',
  '1.9999999999999',
  '2026-02-28',
  '2026-02-30',
  '2026-11-23T06:40:00+01:00',
  '2026-11-23 06:40',
  'yes',
  'No',
  'a,b,,c',
  '🚢 مرسى',
  '%',
  '',
  "O'Brien",
  '99999999999999999999',
  '[1,{"a":"x"}]',
];
/** As words that are made, in another case. */
const made = ['UNDER', 'Much', 'one'];
const nested = [
  '[]',
  '[1,2]',
  '{"a":"x","b":[{"c":1},{"c":2}]}',
  '[{"a":"NRK-1","b":{"c":4}},{"a":null},"deep",null,7]',
  '{"a":12,"b":null}',
  'null',
  '"plain"',
  '[[1],[2,3]]',
];
const integers = ['0', '1', '2', '-3', '42', '180'];
const decimals = ['0', '0.1', '0.25', '-4.05', '19.99', '12345.678901'];
const days = ['2026-03-29', '2026-10-25', '2026-01-31', '2025-12-29', '2026-11-23'];
const instants = [
  '2026-03-29T00:30:00Z',
  '2026-03-29T01:00:00Z',
  '2026-10-25T00:30:00Z',
  '2026-11-23T06:40:00.123456Z',
  '2025-12-31T23:30:00Z',
];

const maybe = (list: readonly string[]): fc.Arbitrary<string | null> =>
  fc.option(fc.constantFrom(...list), { freq: 5, nil: null });

/** Records in the order of `start`, except for the id. */
export const readings = fc.array(
  fc.tuple(
    maybe(['NRK-1', 'NRK-2', 'nrk-1', 'Ærø', '']),
    maybe(texts),
    maybe(integers),
    maybe(decimals),
    maybe(['true', 'false']),
    maybe(days),
    maybe(instants),
    maybe(nested),
  ),
  { maxLength: 14 },
);

const literals: Record<FieldType, readonly string[]> = {
  text: texts,
  integer: integers,
  decimal: decimals,
  float: decimals,
  boolean: ['true', 'false'],
  date: days,
  instant: instants,
  nested: ['x'],
};

/** Chooses one of `count` things. */
type Pick = (count: number) => number;

const of = <T>(pick: Pick, list: readonly T[]): T => list[pick(list.length)] as T;

function condition(pick: Pick, fields: readonly Field[]): Condition {
  const field = of(
    pick,
    fields.filter(({ type }) => type !== 'float'),
  );
  const value = of(pick, field.type === 'text' ? [...texts, ...made] : literals[field.type]);
  const alike = fields.filter(({ type }) => type === field.type && type !== 'nested');
  const tests: Condition[] = [
    { field: field.name, test: { op: 'filled' } },
    { field: field.name, test: { op: 'is', values: [value, null] } },
    { field: field.name, test: { op: 'isNot', values: [value] } },
  ];
  if (isNumeric(field.type) || isTemporal(field.type))
    tests.push({ field: field.name, test: { op: 'atLeast', value } });
  if (field.type === 'text') tests.push({ field: field.name, test: { op: 'contains', text: 'r' } });
  if (field.type !== 'nested' && field.type !== 'boolean')
    tests.push({
      field: field.name,
      test: {
        op: 'against',
        is: of(pick, ['same', 'differs', 'atMost', 'above'] as const),
        to: { field: of(pick, alike).name },
      },
    });
  if (isTemporal(field.type))
    tests.push({ field: field.name, test: { op: 'during', period: { kind: 'past' } } });
  const chosen = of(pick, tests);
  return pick(4) === 0 ? { none: [chosen] } : chosen;
}

function calculation(pick: Pick, fields: readonly Field[]): Calculation {
  const plain = fields.filter(({ type }) => type !== 'nested' && type !== 'boolean' && type !== 'float');
  const numbers = plain.filter(({ type }) => isNumeric(type));
  const whole = fields.filter(({ type }) => type === 'integer');
  const options: Calculation[] = [{ kind: 'count' }, { kind: 'share', where: condition(pick, fields) }];
  if (plain.length > 0)
    options.push(
      { kind: 'distinct', field: of(pick, plain).name },
      { kind: 'first', field: of(pick, plain).name, by: of(pick, plain).name },
      { kind: 'last', field: of(pick, plain).name, by: of(pick, plain).name },
    );
  if (numbers.length > 0) {
    const field = of(pick, numbers).name;
    options.push(
      { kind: of(pick, ['sum', 'average', 'least', 'greatest', 'median'] as const), field },
      { kind: 'ratio', of: { kind: 'sum', field }, to: { kind: 'count' } },
    );
    if (whole.length > 0) options.push({ kind: 'weighted', field, by: of(pick, whole).name });
    options.push({ kind: 'percentile', field, at: 1 + pick(99) });
  }
  return of(pick, options);
}

function expression(pick: Pick, fields: readonly Field[], depth = 0): { text: string; type: string } {
  const named = (...types: FieldType[]): string => {
    const found = fields.filter(({ type }) => types.includes(type));
    return found.length > 0 ? `"${of(pick, found).name.replaceAll('"', '""')}"` : 'NULL';
  };
  const number = (): string =>
    depth < 2 && pick(3) === 0
      ? `(${numeric()})`
      : of(pick, [named('integer'), named('decimal'), String(pick(9)), '2.5']);
  const numeric = (): string => {
    const inner = expression(pick, fields, depth + 1);
    return inner.type === 'number' ? inner.text : '1';
  };
  const text = (): string => of(pick, [named('text'), named('text'), `'NRK'`, `''`]);
  const options: (() => { text: string; type: string })[] = [
    () => ({ text: `${number()} ${of(pick, ['+', '-', '*', '/', '%'])} ${number()}`, type: 'number' }),
    () => ({ text: `round(${number()}, ${pick(4)})`, type: 'number' }),
    () => ({ text: `floor(${number()}) + ceiling(${number()}) - abs(${number()})`, type: 'number' }),
    () => ({ text: `coalesce(${number()}, ${number()}, 0)`, type: 'number' }),
    () => ({ text: `greatest(${number()}, ${number()}) - least(${number()}, 1)`, type: 'number' }),
    () => ({ text: `char_length(${text()}) + position(${text()} IN ${text()})`, type: 'number' }),
    () => ({ text: `upper(trim(${text()})) || lower(${text()})`, type: 'text' }),
    () => ({ text: `substring(${text()} FROM ${pick(5) - 2} FOR ${pick(4)})`, type: 'text' }),
    () => ({ text: `left(${text()}, ${pick(3)}) || right(${text()}, ${pick(3)})`, type: 'text' }),
    () => ({ text: `replace(${text()}, ${of(pick, ["'R'", "''", "'a'"])}, 'x')`, type: 'text' }),
    () => ({
      text: `CASE WHEN ${number()} >= ${number()} AND ${named('boolean')} THEN ${text()} WHEN ${text()} LIKE 'NR_-%' THEN 'like' ELSE ${text()} END`,
      type: 'text',
    }),
    () => ({ text: `CASE ${named('integer')} WHEN 1 THEN 0.5 WHEN 2 THEN 3 END`, type: 'number' }),
    () => ({
      text: `${text()} < ${text()} OR ${number()} BETWEEN 0 AND 20 OR ${text()} IN ('7', ${text()})`,
      type: 'boolean',
    }),
    () => ({
      text: `${text()} IS NOT NULL AND NOT ${named('integer', 'decimal')} IS DISTINCT FROM ${number()}`,
      type: 'boolean',
    }),
    () => ({ text: `nullif(${text()}, 'NRK-1')`, type: 'text' }),
    () => ({
      text: `CAST(${text()} AS ${of(pick, ['integer', 'numeric', 'boolean', 'date', 'timestamp'])})`,
      type: 'any',
    }),
    () => ({
      text: `CAST(${named('integer', 'decimal')} AS ${of(pick, ['text', 'integer', 'numeric'])})`,
      type: 'any',
    }),
    () => ({ text: `CAST(${named('instant')} AS ${of(pick, ['text', 'date'])})`, type: 'any' }),
    () => ({
      text: `EXTRACT(${of(pick, ['YEAR', 'QUARTER', 'MONTH', 'WEEK', 'DAY', 'ISODOW'])} FROM ${of(pick, [named('date'), named('instant')])})`,
      type: 'number',
    }),
    () => ({
      text: `EXTRACT(${of(pick, ['HOUR', 'MINUTE', 'SECOND'])} FROM ${named('instant')})`,
      type: 'number',
    }),
    () => ({ text: `EXTRACT(EPOCH FROM ${named('instant')} - ${named('instant')})`, type: 'number' }),
    () => ({ text: `${named('date')} - DATE '2026-01-01'`, type: 'number' }),
    () => ({ text: `${named('date')} + ${pick(40)}`, type: 'date' }),
    () => ({ text: `${named('date')} - INTERVAL '${pick(14)}' MONTH`, type: 'date' }),
    () => ({
      text: `${named('instant')} + INTERVAL '${pick(90)}' ${of(pick, ['MINUTE', 'DAY', 'MONTH'])}`,
      type: 'instant',
    }),
    () => ({ text: `CURRENT_DATE - ${named('date')}`, type: 'number' }),
  ];
  return of(pick, options)();
}

/** One way of making a field, or the one that is wanted. */
function making(pick: Pick, fields: readonly Field[], wanted?: number): Making {
  const named = (...types: FieldType[]): string =>
    fields.filter(({ type }) => types.includes(type))[
      pick(4) % Math.max(1, fields.filter(({ type }) => types.includes(type)).length)
    ]?.name ?? 'id';
  const options: (() => Making)[] = [
    () => ({
      kind: 'join',
      fields: [
        of(
          pick,
          fields.filter(({ type }) => type !== 'nested'),
        ).name,
        named('text'),
        named('decimal', 'integer'),
      ],
      between: ' · ',
    }),
    () => ({ kind: 'split', field: named('text'), at: ',', part: 1 + pick(3) }),
    () => ({ kind: 'between', from: named('date'), unit: 'day', ...(pick(2) ? { to: named('date') } : {}) }),
    () => ({
      kind: 'between',
      from: named('instant'),
      unit: of(pick, ['day', 'hour', 'minute', 'second'] as const),
      ...(pick(2) ? { to: named('instant') } : {}),
    }),
    () => ({
      kind: 'bands',
      field: named('integer', 'decimal'),
      bands: [
        { below: '0', word: 'under' },
        { below: '20.5', word: 'some' },
      ],
      rest: 'much',
    }),
    () => ({ kind: 'bins', field: named('integer', 'decimal'), size: of(pick, ['5', '0.25', '10']) }),
    () => ({
      kind: 'choose',
      when: [
        { where: condition(pick, fields), word: 'one' },
        { where: condition(pick, fields), word: 'two' },
      ],
      otherwise: 'other',
    }),
    () => ({
      kind: 'link',
      template: `https://logs.skerry.example/{${named('text')}}/x{?${named('text')},${named('integer')}}`,
    }),
    () => ({
      kind: 'period',
      field: named('date', 'instant'),
      unit: of(pick, ['day', 'week', 'month', 'quarter', 'year'] as const),
    }),
    () => ({
      kind: 'shift',
      field: named('instant'),
      minutes: -180,
      ...(pick(2) ? { where: condition(pick, fields) } : {}),
    }),
    () => ({
      kind: 'clock',
      field: named('instant'),
      zone: of(pick, ['Asia/Kolkata', 'UTC', 'Pacific/Chatham']),
    }),
    () => ({ kind: 'expression', text: expression(pick, fields).text }),
  ];
  if (wanted !== undefined) return (options[wanted] ?? of(pick, options))();
  return pick(3) === 0 ? { kind: 'expression', text: expression(pick, fields).text } : of(pick, options)();
}

const makings = 12;

interface Choosing {
  readonly fields: readonly Field[];
  readonly index: number;
  readonly other: string;
  /** Which kind it is to be. */
  readonly wanted: number;
}

function oneStep(pick: Pick, { fields, index, other, wanted }: Choosing): Step {
  const id = `step-${index}`;
  const fresh = `made ${index}`;
  const plain = fields.filter(({ type }) => type !== 'nested');
  const some = (): string => of(pick, plain).name;
  const order = (): { by: string; descending?: boolean }[] => [
    { by: some(), ...(pick(2) ? { descending: true } : {}) },
  ];
  const lists = fields.filter(({ type }) => type === 'nested');
  const number = (): string =>
    of(
      pick,
      plain.filter(({ type }) => isNumeric(type)),
    )?.name ?? 'id';
  const ours = (type: FieldType): string =>
    of(
      pick,
      plain.filter((field) => field.type === type),
    )?.name ?? 'id';
  const look = (over: Partial<StepOf<'lookUp'>> & { mode: StepOf<'lookUp'>['mode'] }): Step => ({
    kind: 'lookUp',
    id,
    from: { dataSet: other },
    on: [{ field: ours('text'), other: 'gauge' }],
    take: [],
    order: [],
    ...over,
  });
  const options: (() => Step)[] = [
    () => ({ kind: 'where', id, condition: condition(pick, fields) }),
    () => ({ kind: 'derive', id, name: pick(4) === 0 ? some() : fresh, making: making(pick, fields) }),
    () => ({ kind: 'rename', id, field: of(pick, fields).name, as: fresh }),
    () => ({
      kind: 'fields',
      id,
      keep: fields
        .filter((_, at) => at === 0 || pick(5) > 0)
        .map(({ name }) => name)
        .reverse(),
    }),
    () => {
      const field = of(pick, plain);
      return {
        kind: 'type',
        id,
        field: field.name,
        to: of(
          pick,
          readable[field.type].filter((type) => type !== 'float' && type !== 'nested'),
        ),
        misfit: of(pick, ['blank', 'list'] as const),
      };
    },
    () => ({
      kind: 'unfold',
      id,
      field: of(pick, lists)?.name ?? 'id',
      as: fresh,
      keepEmpty: pick(2) === 0,
      ...(pick(2) ? { place: `${fresh} at` } : {}),
    }),
    () => ({
      kind: 'spread',
      id,
      field: of(pick, lists)?.name ?? 'id',
      keepWhole: pick(2) === 0,
      take: [
        { path: '/a', name: `${fresh} a`, type: 'text' },
        { path: '/b', name: `${fresh} b`, type: 'nested' },
        { path: '/b/c', name: `${fresh} c`, type: 'integer' },
        { path: '', name: `${fresh} all`, type: 'text' },
      ],
    }),
    () => ({
      kind: 'stack',
      id,
      with: [{ ref: { dataSet: other, ...(pick(2) ? { subset: 'valid' } : {}) }, word: 'theirs' }],
      ...(pick(2) ? { origin: { name: fresh, word: 'ours' } } : {}),
    }),
    () => ({ kind: 'distinct', id, by: pick(3) === 0 ? [] : [some()], order: pick(2) ? order() : [] }),
    () => ({ kind: 'fill', id, field: some(), with: { kind: 'value', value: '7' } }),
    () => ({
      kind: 'fill',
      id,
      field: some(),
      with: { kind: 'before', order: order(), within: pick(2) ? [some()] : [] },
    }),
    () => ({
      kind: 'summarise',
      id,
      by: [{ field: some(), as: `${fresh} by` }],
      measures: [
        { name: fresh, calculation: calculation(pick, fields) },
        { name: `${fresh} too`, calculation: calculation(pick, fields), where: condition(pick, fields) },
      ],
    }),
    () => ({
      kind: 'summarise',
      id,
      by: [
        {
          field:
            of(
              pick,
              plain.filter(({ type }) => isTemporal(type)),
            )?.name ?? 'id',
          unit: of(pick, ['day', 'week', 'month'] as const),
          as: `${fresh} by`,
        },
      ],
      measures: [{ name: fresh, calculation: calculation(pick, fields) }],
    }),
    () => ({
      kind: 'rank',
      id,
      as: fresh,
      order: order(),
      within: pick(2) ? [some()] : [],
      ...(pick(2) ? { keep: 1 + pick(3) } : {}),
    }),
    () => ({
      kind: 'running',
      id,
      as: fresh,
      what: of(pick, ['total', 'difference', 'average', 'share'] as const),
      field: number(),
      order: order(),
      within: pick(2) ? [some()] : [],
      over: 1 + pick(3),
    }),
    () => ({
      kind: 'periods',
      id,
      field:
        of(
          pick,
          plain.filter(({ type }) => type === 'date'),
        )?.name ?? 'id',
      unit: of(pick, ['month', 'quarter', 'year'] as const),
      within: pick(2) ? [some()] : [],
      zero: plain
        .filter(({ type }) => isNumeric(type))
        .slice(0, 1)
        .map(({ name }) => name),
    }),
    () => ({
      kind: 'wide',
      id,
      by: [some()],
      across:
        of(
          pick,
          plain.filter(({ type }) => type === 'text'),
        )?.name ?? 'id',
      values: [
        { value: 'NRK-1', as: `${fresh} one` },
        { value: 'Ærø', as: `${fresh} two` },
      ],
      calculation: calculation(pick, fields),
    }),
    () => {
      const type = of(pick, plain).type;
      return {
        kind: 'long',
        id,
        fields: plain
          .filter((field) => field.type === type)
          .map(({ name }) => name)
          .slice(0, 3),
        name: `${fresh} name`,
        value: `${fresh} value`,
      };
    },
    () =>
      look({
        mode: 'first',
        take: [
          { field: 'height', as: `${fresh} height` },
          { field: 'said', as: `${fresh} said` },
        ],
        order: [{ by: 'rank', descending: pick(2) === 0 }],
      }),
    () =>
      look({
        on: [{ field: ours('integer'), other: 'id' }],
        mode: 'one',
        take: [
          { field: 'at', as: `${fresh} at` },
          { field: 'more', as: `${fresh} more` },
          { field: 'valid', as: `${fresh} valid` },
        ],
      }),
    () =>
      look({
        from: { dataSet: other, subset: 'valid' },
        mode: of(pick, ['count', 'any'] as const),
        as: fresh,
      }),
    () => look({ mode: 'aggregate', as: fresh, calculation: calculation(pick, start) }),
    () =>
      look({
        mode: 'all',
        take: ['rank', 'height', 'at', 'day', 'said'].map((field) => ({ field, as: field })),
        order: [{ by: 'id' }],
        as: fresh,
      }),
  ];
  if (wanted < makings) return { kind: 'derive', id, name: fresh, making: making(pick, fields, wanted) };
  return (options[wanted - makings] ?? of(pick, options))();
}

/** How many kinds of step there are to choose from, ways of making a field among them. */
export const kindsOfSteps = makings + 23;

/** Steps that can be done one after another over the readings; one of them, where it can be, is of the kind that is wanted. */
export const steps = (world: World, other: string, wanted: number): fc.Arbitrary<Step[]> =>
  fc.array(fc.nat(999_983), { minLength: 120, maxLength: 120 }).map((numbers) => {
    let at = 0;
    const pick: Pick = (count) => (count <= 1 ? 0 : (numbers[at++ % numbers.length] ?? 0) % count);
    const chosen: Step[] = [];
    let fields: readonly Field[] = start;
    const most = 1 + pick(4);
    const turn = pick(most);
    for (let tries = 0; tries < 16 && chosen.length < most; tries += 1) {
      const kind = chosen.length === turn ? wanted : pick(kindsOfSteps);
      const step = oneStep(pick, { fields, index: tries, other, wanted: kind });
      const { problems, fields: after } = shape(fields, [step], world);
      if (problems[0] !== null) continue;
      chosen.push(step);
      fields = after[1] ?? fields;
    }
    return chosen;
  });

/** A data set of the readings of another gauge, with a subset. */
export const otherDataSet = (source: string, table: string): DataSet => ({
  version: 2,
  source,
  request: {
    kind: 'table',
    schema: 'public',
    table,
    columns: start.map(({ name, type }) => ({ column: name, name, type })),
    lookUps: [],
  },
  inputs: [],
  fields: start,
  key: 'id',
  noun: { one: 'reading', many: 'readings' },
  measures: [],
  subsets: [
    {
      name: 'valid',
      label: 'valid readings',
      where: { field: 'valid', test: { op: 'is', values: ['true'] } },
    },
  ],
});
