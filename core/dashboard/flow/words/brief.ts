import type { BriefPart, RecordsWords } from '#core/dashboard/pane/kind.ts';
import { kindOf } from '#core/dashboard/pane/kinds.ts';
import { type RecordsPart, recordsSlot } from '#core/dashboard/pane/records-slot.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { PaneRecords } from '#core/dashboard/pane/shared.ts';
import type { PaneUse } from '#core/dashboard/pane/use.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { isTemporal, labelOf, meaningOf } from '#core/value/field/value.ts';
import type { Clock } from '#core/value/period/period.ts';
import { conditionWords } from '#core/words/condition.ts';
import { periodWords } from '#core/words/period.ts';
import { hasReaderPeriod } from '../applies.ts';
import type { Context } from '../context.ts';

export type BriefContext = Pick<Context, 'dashboard' | 'dataSets' | 'clock'>;

/** The sentence that defines a pane, in parts; null where a data set of it is gone. The slots are the names of what can be chosen. */
export function briefParts(pane: Pane, context: BriefContext): BriefPart[] | null {
  const records: RecordsWords[] = [];
  for (const use of usesOf(pane)) {
    const dataSet = context.dataSets.get(use.dataSet);
    if (!dataSet) return null;
    records.push(recordsWords({ use, at: records.length }, dataSet, context));
  }
  return kindOf(pane).sentence(pane, { clock: context.clock, records });
}

function recordsWords(
  { use, at }: { use: PaneUse; at: number },
  dataSet: DataSet,
  context: BriefContext,
): RecordsWords {
  const field = (name: string): string => {
    const known = dataSet.fields.find((each) => each.name === name);
    return (known ? labelOf(known) : name).toLowerCase();
  };
  return {
    dataSet,
    field,
    measure: (name) => ({
      slot: 'measure',
      text: dataSet.measures.find((each) => each.name === name)?.label ?? name,
    }),
    which: (comma) =>
      [...whenParts(use, dataSet, context, { field, comma }), ...whichParts(use, dataSet, context.clock)].map(
        ({ part, text }) => ({ text, ...(part ? { slot: recordsSlot(part, at) } : {}) }),
      ),
    pickWords: waitsWords(use, dataSet),
  };
}

interface RecordsWordsPart {
  readonly text: string;
  /** What of the records can be chosen there. */
  readonly part?: RecordsPart;
}

/** Of when the records are: said only where the data set has times to go by. */
function whenParts(
  use: PaneRecords,
  dataSet: DataSet,
  context: BriefContext,
  { field, comma }: { field: (name: string) => string; comma: string },
): RecordsWordsPart[] {
  const { when } = use;
  if (when === undefined && !dataSet.fields.some(({ type, hidden }) => isTemporal(type) && !hidden))
    return [];
  if (typeof when === 'object')
    return [
      { text: `${comma} for ` },
      {
        part: 'when',
        text: `${periodWords(when.period, String(context.clock.now.getUTCFullYear()))}, by ${field(when.field)}`,
      },
    ];
  if (when === undefined && hasReaderPeriod(use, dataSet, context))
    return [{ text: `${comma} for ` }, { part: 'when', text: 'the period that readers choose' }];
  return [{ text: `${comma} ` }, { part: 'when', text: 'at any time' }];
}

const waitsWords = ({ waitsFor }: PaneRecords, dataSet: DataSet): string => {
  const own = dataSet.fields.find(({ name }) => name === dataSet.key);
  return waitsFor === undefined || (own && meaningOf(own) === waitsFor)
    ? `${dataSet.noun.one} that is picked`
    : `${dataSet.noun.one} of the record that is picked`;
};

/** Which records: the subset, the pane's own condition, and what it waits for. */
function whichParts(use: PaneRecords, dataSet: DataSet, clock: Clock): RecordsWordsPart[] {
  const { keeping, waitsFor } = use;
  const subset = dataSet.subsets?.find(({ name }) => name === use.subset);
  return [
    { text: ', for ' },
    ...(subset || (dataSet.subsets?.length ?? 0) > 0
      ? [{ part: 'subset' as const, text: subset?.label ?? `all ${dataSet.noun.many}` }, { text: ' ' }]
      : [{ text: `${keeping ? '' : 'all '}${dataSet.noun.many} ` }]),
    {
      part: 'keeping',
      text: keeping ? `where ${conditionWords(keeping, dataSet.fields, clock)}` : 'with no condition',
    },
    ...(waitsFor === undefined ? [] : [{ text: ', of the record that is picked' }]),
  ];
}

/** The sentence that tells readers how a pane is made. */
export function briefSentence(pane: Pane, context: BriefContext): string | null {
  const parts = briefParts(pane, context);
  if (!parts) return null;
  return parts
    .map(({ text }) => text)
    .join('')
    .replace(' with no condition', '')
    .replace(', without a comparison', '')
    .replace(', without its trend', '')
    .replace(', without the period before', '')
    .replace(', once for all', '')
    .replace(', all alike', '')
    .replace(/ The records behind it show .*$/u, '');
}
