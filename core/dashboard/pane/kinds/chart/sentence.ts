import { behindParts } from '../../behind-parts.ts';
import type { BriefPart } from '../../kind.ts';
import { groupedByWords, groupOrderWords } from '../../level-words.ts';
import type { OneSentence } from '../../of-one.ts';
import {
  canBeLogarithmic,
  canHaveBefore,
  canHaveSecond,
  canRun,
  canStack,
  markWords,
  secondWords,
  stackingWords,
} from './marks.ts';
import type { ChartPane } from './schema.ts';

/** A slot after a comma. */
const after = (slot: string, text: string): BriefPart[] => [{ text: ', ' }, { slot, text }];

/** The brief of a chart in words. */
export function chartSentence(pane: ChartPane, given: OneSentence): BriefPart[] {
  const { field, measure, which } = given;
  return [
    { text: 'Draw ' },
    { slot: 'mark', text: markWords[pane.mark] },
    { text: ' of ' },
    measure(pane.measure),
    { text: ' by ' },
    { slot: 'by', text: groupedByWords(pane.by, field(pane.by.field)) },
    ...(pane.mark === 'dots' ? dotParts(pane, given) : drawingParts(pane, given)),
    ...which(','),
    { text: '.' },
    ...behindParts(pane.behind, field),
  ];
}

const topWords = (top: ChartPane['top']): string =>
  top ? `the top ${top.count}${top.rest ? ' and the rest' : ''}` : 'all';

/** Dots stand by their two measures, and by nothing else. */
const dotParts = (pane: ChartPane, given: OneSentence): BriefPart[] => [
  ...secondParts(pane, given),
  { text: ', showing ' },
  { slot: 'top', text: topWords(pane.top) },
];

function secondParts({ mark, second }: ChartPane, { measure }: OneSentence): BriefPart[] {
  return after(
    'second',
    second === undefined ? 'with no second measure' : secondWords(mark, measure(second).text),
  );
}

function drawingParts(pane: ChartPane, given: OneSentence): BriefPart[] {
  const { by, split, mark, each, stack = 'stacked' } = pane;
  const { dataSet, field } = given;
  const measured = dataSet.measures.find(({ name }) => name === pane.measure);
  return [
    ...(by.bins
      ? after('width', by.bins.width === undefined ? 'each as wide as suits' : `each ${by.bins.width} wide`)
      : []),
    { text: ', split by ' },
    { slot: 'split', text: split === undefined ? 'nothing' : field(split) },
    ...(split !== undefined && canStack(mark)
      ? [{ text: ' ' }, { slot: 'stack', text: stackingWords[stack] }]
      : []),
    ...(by.unit || by.bins ? [] : orderParts(pane, given)),
    ...(canRun(pane, measured?.calculation)
      ? after('running', pane.running ? 'added up as time goes on' : 'each by itself')
      : []),
    ...(canHaveSecond(pane) ? secondParts(pane, given) : []),
    ...(canHaveBefore(pane)
      ? after('before', pane.before ? 'with the period before behind it' : 'without the period before')
      : []),
    ...(canBeLogarithmic(mark)
      ? after('steps', pane.logarithmic ? 'on a logarithmic scale' : 'on a plain scale')
      : []),
    ...after('each', each ? `once for each ${field(each.field)}` : 'once for all'),
    ...(each
      ? [
          ...after('charts', topWords({ count: each.count, rest: each.rest ?? false })),
          ...after(
            'chartOrder',
            each.order ? 'highest first' : groupOrderWords({ field: each.field }, dataSet),
          ),
          ...after('scale', pane.ownScales ? 'each on a scale of its own' : 'on one scale'),
        ]
      : []),
  ];
}

const orderParts = (pane: ChartPane, { dataSet }: OneSentence): BriefPart[] => [
  ...after('order', pane.order === 'value' ? 'highest first' : groupOrderWords(pane.by, dataSet)),
  { text: ', showing ' },
  ...(pane.each ? [{ text: 'all' }] : [{ slot: 'top', text: topWords(pane.top) }]),
];
