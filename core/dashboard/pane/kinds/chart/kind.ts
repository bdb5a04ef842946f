import { measureOf, plannedMeasure } from '#core/ask/measure/plan.ts';
import { allOf, type GroupsPlan, type Order } from '#core/plan/plan.ts';
import { resolvePeriod } from '#core/value/period/period.ts';
import type { Unit } from '#core/value/period/units.ts';
import { capital } from '#core/words/capital.ts';
import { directionWords } from '#core/words/order.ts';
import { behindParts } from '../../behind-parts.ts';
import { groupsWords } from '../../group-words.ts';
import type { BriefPart, CellAddress, SuggestionContext, Unplaced } from '../../kind.ts';
import { loosen, looseQuestions } from '../../loosen.ts';
import { type OneContext, type OnePlan, type OneSentence, ofOne } from '../../of-one.ts';
import {
  fieldOf,
  type Loosen,
  type ShownField,
  type ShownMeasure,
  shownField,
  shownMeasure,
} from '../../shown.ts';
import type { ChartPane } from './schema.ts';
import { type ChartData, mostGroups, shapeChart } from './shape.ts';
import { groupFields } from './use.ts';

export interface ChartBody {
  readonly kind: 'chart';
  readonly measure: ShownMeasure;
  readonly by: ShownField & { readonly unit?: Unit };
  readonly split?: ShownField;
  readonly data: ChartData;
  readonly noun: string;
  readonly loosen?: readonly Loosen[];
}

/** Numbers by category or over time. */
export const chart = ofOne<ChartPane, ChartBody>({
  forReaders: ({ behind: _, ...pane }) => pane,
  ask: askChart,
  sentence: chartSentence,
  questions: [
    { ask: 'split', words: 'How is it split?', leads: 'Bars by category', size: { w: 5, h: 7 } },
    { ask: 'change', words: 'How does it change?', leads: 'Columns over time', size: { w: 7, h: 7 } },
  ],
  suggest: (ask, from) => (ask === 'change' && from.time ? overTime(from, from.time.name) : byCategory(from)),
});

function askChart(pane: ChartPane, asks: OneContext): OnePlan<ChartBody> {
  const { dataSet, from, applied, clock } = asks;
  const measure = measureOf(dataSet, pane.measure);
  const planned = plannedMeasure(measure, dataSet, clock);
  const { field, unit } = pane.by;
  const order: Order[] =
    unit === undefined && pane.order === 'value'
      ? [{ by: planned.name, descending: true }]
      : [{ by: 'group:0' }];
  const period = applied.findLast((each) => each.period?.field === field)?.period?.period;
  const span = unit && period ? resolvePeriod(period, clock) : null;
  const where = allOf(applied.map(({ filter }) => filter));
  const plan: GroupsPlan = {
    kind: 'groups',
    from,
    zone: clock.zone,
    where,
    by: [{ field, ...(unit ? { unit } : {}) }, ...(pane.split === undefined ? [] : [{ field: pane.split }])],
    measures: [planned],
    order,
    limit: mostGroups + 1,
    ...(pane.top && unit === undefined ? { top: pane.top } : {}),
  };
  const [by, split] = groupFields(pane).map((name) => fieldOf(dataSet, name));
  return {
    first: { groups: { plan } },
    after: ({ records: { groups = [] } }) => ({
      ask:
        groups.length > 0
          ? {}
          : looseQuestions(
              { kind: 'records', from, zone: clock.zone, where, fields: [], order: [], offset: 0, limit: 1 },
              asks,
            ),
      isShown: false,
    }),
    shape: (answers) => {
      const { groups = [] } = answers.records;
      return {
        kind: 'chart',
        measure: shownMeasure(measure, dataSet.fields),
        by: { ...shownField(by ?? fieldOf(dataSet, field)), ...(unit ? { unit } : {}) } as ChartBody['by'],
        ...(split ? { split: shownField(split) } : {}),
        data: shapeChart(pane, plan, groups, span, {
          states: { by: by?.states, split: split?.states },
          now: clock.now,
        }),
        noun: dataSet.noun.many,
        ...(groups.length > 0 ? {} : { loosen: loosen(asks, answers) }),
      };
    },
    number: (address) => ({ plan, planned, measure, words: cellWords(pane, asks, address) }),
  };
}

const cellWords = (pane: ChartPane, { dataSet, clock }: OneContext, address: CellAddress): string =>
  groupsWords(
    [pane.by, ...(pane.split === undefined ? [] : [{ field: pane.split }])],
    address,
    dataSet,
    clock,
  );

function chartSentence(pane: ChartPane, { dataSet, field, measure, which }: OneSentence): BriefPart[] {
  const { by, split, mark, order, top } = pane;
  const ordered = [
    { text: ', ' },
    {
      slot: 'order',
      text: order === 'value' ? 'highest first' : directionWords(fieldOf(dataSet, by.field), false),
    },
    { text: ', showing ' },
    { slot: 'top', text: top ? `the top ${top.count}${top.rest ? ' and the rest' : ''}` : 'all' },
  ];
  return [
    { text: 'Draw ' },
    { slot: 'mark', text: { columns: 'columns', bars: 'bars', line: 'a line', pie: 'a pie' }[mark] },
    { text: ' of ' },
    measure(pane.measure),
    { text: ' by ' },
    { slot: 'by', text: `${by.unit ? `${by.unit} of ` : ''}${field(by.field)}` },
    { text: ', split by ' },
    { slot: 'split', text: split === undefined ? 'nothing' : field(split) },
    ...(by.unit ? [] : ordered),
    ...which(','),
    { text: '.' },
    ...behindParts(pane.behind, field),
  ];
}

type Suggested = Omit<Unplaced<ChartPane>, 'dataSet'>;

const byCategory = ({ dataSet, category, measure, behind }: SuggestionContext): Suggested => ({
  kind: 'chart',
  title: `${capital(dataSet.noun.many)} by ${category?.label?.toLowerCase() ?? category?.name ?? ''}`,
  mark: 'bars',
  measure,
  by: { field: category?.name ?? '' },
  order: 'value',
  top: { count: 10, rest: true },
  behind,
});

const overTime = ({ dataSet, measure, behind }: SuggestionContext, field: string): Suggested => ({
  kind: 'chart',
  title: `${capital(dataSet.noun.many)}, week by week`,
  mark: 'columns',
  measure,
  by: { field, unit: 'week' },
  order: 'label',
  behind,
});
