import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/field/field.ts';
import { isTemporal, labelOf, meaningOf } from '#core/field/value.ts';
import type { Pane } from '#core/pane/schema.ts';
import type { Clock } from '#core/period/period.ts';
import { conditionWords, listWords } from './condition.ts';
import { periodWords } from './period.ts';

/** A part of a brief: plain words, or a slot that the analyst can fill otherwise. */
export interface BriefPart {
  readonly text: string;
  readonly slot?: string;
}

export interface BriefContext {
  readonly clock: Clock;
  /** A period that readers choose reaches the pane. */
  readonly hasReaderPeriod: boolean;
}

/** Which way an order runs, in the words of what is ordered. */
export function directionWords(
  field: Pick<Field, 'type' | 'states'> | undefined,
  descending: boolean,
): string {
  if (field && isTemporal(field.type)) return descending ? 'latest first' : 'earliest first';
  if (field?.states?.length) return descending ? 'last state first' : 'first state first';
  if (field && (field.type === 'integer' || field.type === 'float' || field.type === 'decimal'))
    return descending ? 'highest first' : 'lowest first';
  if (field?.type === 'boolean') return descending ? 'yes first' : 'no first';
  return descending ? 'Z to A' : 'A to Z';
}

/** The sentence that defines a pane, in parts. The slots are the names of what can be chosen. */
export function briefParts(pane: Pane, dataSet: DataSet, context: BriefContext): BriefPart[] {
  const found = (name: string): Field | undefined => dataSet.fields.find((each) => each.name === name);
  const field = (name: string): string => {
    const known = found(name);
    return (known ? labelOf(known) : name).toLowerCase();
  };
  const measure = (name: string): BriefPart => ({
    slot: 'measure',
    text: dataSet.measures.find((each) => each.name === name)?.label ?? name,
  });
  const comma = pane.kind === 'card' ? '' : ',';
  const which = [
    ...whenParts(pane, dataSet, context, { field, comma }),
    ...whichParts(pane, dataSet, context.clock),
  ];
  const behind = (pane.kind === 'card' || pane.kind === 'chart') && [
    { text: ' The records behind it show ' },
    { slot: 'behind', text: pane.behind?.length ? listWords(pane.behind.map(field)) : 'what its panes show' },
    { text: '.' },
  ];
  switch (pane.kind) {
    case 'card':
      return [
        { text: 'Show ' },
        measure(pane.measure),
        ...which,
        ...comparisonParts(pane.against),
        { text: '.' },
        ...(behind || []),
      ];
    case 'chart':
      return [
        { text: 'Draw ' },
        { slot: 'mark', text: { columns: 'columns', bars: 'bars', line: 'a line', pie: 'a pie' }[pane.mark] },
        { text: ' of ' },
        measure(pane.measure),
        { text: ' by ' },
        {
          slot: 'by',
          text: `${pane.by.unit ? `${pane.by.unit} of ` : ''}${field(pane.by.field)}`,
        },
        { text: ', split by ' },
        { slot: 'split', text: pane.split === undefined ? 'nothing' : field(pane.split) },
        ...(pane.by.unit
          ? []
          : [
              { text: ', ' },
              {
                slot: 'order',
                text: pane.order === 'value' ? 'highest first' : directionWords(found(pane.by.field), false),
              },
              { text: ', showing ' },
              {
                slot: 'top',
                text: pane.top ? `the top ${pane.top.count}${pane.top.rest ? ' and the rest' : ''}` : 'all',
              },
            ]),
        ...which,
        { text: '.' },
        ...(behind || []),
      ];
    case 'table':
      return [
        { text: `List ${dataSet.noun.many} with ` },
        {
          slot: 'columns',
          text: listWords(
            pane.columns
              .filter(({ hidden }) => !hidden)
              .map((column) => column.label?.toLowerCase() ?? field(column.field)),
          ),
        },
        { text: ', sorted by ' },
        {
          slot: 'order',
          text:
            pane.order.length === 0
              ? 'nothing'
              : listWords(
                  pane.order.map(
                    ({ by, descending }) => `${field(by)}, ${directionWords(found(by), descending ?? false)}`,
                  ),
                  'then by',
                ),
        },
        { text: ', ' },
        { slot: 'pageSize', text: `${pane.pageSize} to a page` },
        ...which,
        { text: '.' },
      ];
    case 'detail':
      return [
        { text: `Show the ${waitsWords(pane, dataSet)}: ` },
        { slot: 'fields', text: listWords(pane.fields.map(field)) },
        { text: '.' },
      ];
  }
}

const comparisonParts = (against: 'none' | 'whole' | 'sameTime'): BriefPart[] => [
  { text: against === 'none' ? ', ' : ', compared with ' },
  {
    slot: 'against',
    text: {
      none: 'without a comparison',
      whole: 'the period before',
      sameTime: 'the same time in the period before',
    }[against],
  },
];

/** Of when the records are: said only where the data set has times to go by. */
function whenParts(
  pane: Pane,
  dataSet: DataSet,
  { clock, hasReaderPeriod }: BriefContext,
  { field, comma }: { field: (name: string) => string; comma: string },
): BriefPart[] {
  if (pane.when === undefined && !dataSet.fields.some(({ type, hidden }) => isTemporal(type) && !hidden))
    return [];
  if (typeof pane.when === 'object')
    return [
      { text: `${comma} for ` },
      {
        slot: 'when',
        text: `${periodWords(pane.when.period, String(clock.now.getUTCFullYear()))}, by ${field(pane.when.field)}`,
      },
    ];
  if (pane.when === undefined && hasReaderPeriod)
    return [{ text: `${comma} for ` }, { slot: 'when', text: 'the period that readers choose' }];
  return [{ text: `${comma} ` }, { slot: 'when', text: 'at any time' }];
}

const waitsWords = (pane: Pane, dataSet: DataSet): string => {
  const own = dataSet.fields.find(({ name }) => name === dataSet.key);
  return pane.waitsFor === undefined || (own && meaningOf(own) === pane.waitsFor)
    ? `${dataSet.noun.one} that is picked`
    : `${dataSet.noun.one} of the record that is picked`;
};

/** Which records: the subset, the pane's own condition, and what it waits for. */
function whichParts(pane: Pane, dataSet: DataSet, clock: Clock): BriefPart[] {
  const subset = dataSet.subsets?.find(({ name }) => name === pane.subset);
  return [
    { text: ', for ' },
    ...(subset || (dataSet.subsets?.length ?? 0) > 0
      ? [{ slot: 'subset', text: subset?.label ?? `all ${dataSet.noun.many}` }, { text: ' ' }]
      : [{ text: `${pane.keeping ? '' : 'all '}${dataSet.noun.many} ` }]),
    {
      slot: 'keeping',
      text: pane.keeping
        ? `where ${conditionWords(pane.keeping, dataSet.fields, clock)}`
        : 'with no condition',
    },
    ...(pane.waitsFor === undefined ? [] : [{ text: ', of the record that is picked' }]),
  ];
}

/** The sentence that tells readers how a pane is made. */
export function briefSentence(pane: Pane, dataSet: DataSet, context: BriefContext): string {
  return briefParts(pane, dataSet, context)
    .map(({ text }) => text)
    .join('')
    .replace(' with no condition', '')
    .replace(', without a comparison', '')
    .replace(/ The records behind it show .*$/u, '');
}
