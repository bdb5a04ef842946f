import type { BriefPart } from '#core/dashboard/pane/kind.ts';
import { kindOf } from '#core/dashboard/pane/kinds.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { isTemporal, labelOf, meaningOf } from '#core/value/field/value.ts';
import type { Clock } from '#core/value/period/period.ts';
import { conditionWords } from '#core/words/condition.ts';
import { periodWords } from '#core/words/period.ts';

export interface BriefContext {
  readonly clock: Clock;
  /** A period that readers choose reaches the pane. */
  readonly hasReaderPeriod: boolean;
}

/** The sentence that defines a pane, in parts. The slots are the names of what can be chosen. */
export function briefParts(pane: Pane, dataSet: DataSet, context: BriefContext): BriefPart[] {
  const { clock } = context;
  const field = (name: string): string => {
    const known = dataSet.fields.find((each) => each.name === name);
    return (known ? labelOf(known) : name).toLowerCase();
  };
  return kindOf(pane).sentence(pane, {
    dataSet,
    clock,
    field,
    measure: (name) => ({
      slot: 'measure',
      text: dataSet.measures.find((each) => each.name === name)?.label ?? name,
    }),
    which: (comma) => [
      ...whenParts(pane, dataSet, context, { field, comma }),
      ...whichParts(pane, dataSet, clock),
    ],
    pickWords: waitsWords(pane, dataSet),
  });
}

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
