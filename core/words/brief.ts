import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/field/value.ts';
import type { Pane } from '#core/pane/schema.ts';
import type { Clock } from '#core/period/period.ts';
import type { Unit } from '#core/period/units.ts';
import { conditionWords, listWords } from './condition.ts';
import { periodWords } from './period.ts';

/** A part of a brief: plain words, or a slot that the analyst can fill otherwise. */
export interface BriefPart {
  readonly text: string;
  readonly slot?: string;
}

const unitWords: Record<Unit, string> = {
  hour: 'hour',
  day: 'day',
  week: 'week',
  month: 'month',
  quarter: 'quarter',
  year: 'year',
};

/** The sentence that defines a pane, in parts. The slots are the names of what can be chosen. */
export function briefParts(pane: Pane, dataSet: DataSet, clock: Clock): BriefPart[] {
  const field = (name: string): string => {
    const found = dataSet.fields.find((each) => each.name === name);
    return (found ? labelOf(found) : name).toLowerCase();
  };
  const measure = (name: string): string =>
    dataSet.measures.find((each) => each.name === name)?.label ?? name;
  const thisYear = String(clock.now.getUTCFullYear());
  const subset = dataSet.subsets?.find(({ name }) => name === pane.subset);
  const keeping: BriefPart[] = [
    ...(subset
      ? [{ text: ', of ' }, { slot: 'subset', text: subset.label }]
      : (dataSet.subsets?.length ?? 0) > 0
        ? [{ text: ', of ' }, { slot: 'subset', text: `all ${dataSet.noun.many}` }]
        : []),
    { text: ', keeping ' },
    {
      slot: 'keeping',
      text: pane.keeping ? conditionWords(pane.keeping, dataSet.fields, clock) : 'all of them',
    },
  ];
  const waiting: BriefPart[] =
    pane.waitsFor === undefined
      ? []
      : [{ text: ', of ' }, { slot: 'waits', text: 'what is being looked at' }];
  switch (pane.kind) {
    case 'card':
      return [
        { text: 'Tell ' },
        { slot: 'measure', text: measure(pane.measure) },
        ...(pane.when
          ? [
              { text: ' by ' },
              { slot: 'when', text: `${field(pane.when.field)}, ${periodWords(pane.when.period, thisYear)}` },
            ]
          : [{ text: ' for ' }, { slot: 'when', text: 'the period in the scope' }]),
        { text: ', against ' },
        {
          slot: 'against',
          text: {
            none: 'nothing',
            whole: 'the period before',
            sameTime: 'the same time in the period before',
          }[pane.against],
        },
        ...keeping,
        ...waiting,
        { text: '.' },
      ];
    case 'chart':
      return [
        { text: 'Draw ' },
        { slot: 'mark', text: { columns: 'columns', bars: 'bars', line: 'a line', pie: 'a pie' }[pane.mark] },
        { text: ' of ' },
        { slot: 'measure', text: measure(pane.measure) },
        { text: ' per ' },
        {
          slot: 'by',
          text: `${pane.by.unit ? `${unitWords[pane.by.unit]} of ` : ''}${field(pane.by.field)}`,
        },
        { text: ', split by ' },
        { slot: 'split', text: pane.split === undefined ? 'nothing' : field(pane.split) },
        ...(pane.by.unit
          ? []
          : [
              { text: ', ' },
              { slot: 'order', text: pane.order === 'value' ? 'largest first' : 'in order of name' },
              { text: ', showing ' },
              {
                slot: 'top',
                text: pane.top ? `the top ${pane.top.count}${pane.top.rest ? ' and the rest' : ''}` : 'all',
              },
            ]),
        ...keeping,
        ...waiting,
        { text: '.' },
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
        { text: ', by ' },
        {
          slot: 'order',
          text:
            pane.order.length === 0
              ? 'no order'
              : listWords(
                  pane.order.map(
                    ({ by, descending }) => `${field(by)}${descending ? ', largest first' : ''}`,
                  ),
                  'then by',
                ),
        },
        { text: ', ' },
        { slot: 'pageSize', text: `${pane.pageSize} to a page` },
        ...keeping,
        ...waiting,
        { text: '.' },
      ];
    case 'detail':
      return [
        { text: `Tell of the ${dataSet.noun.one} being looked at: ` },
        { slot: 'fields', text: listWords(pane.fields.map(field)) },
        { text: '.' },
      ];
  }
}

export const briefSentence = (pane: Pane, dataSet: DataSet, clock: Clock): string =>
  briefParts(pane, dataSet, clock)
    .map(({ text }) => text)
    .join('');
