import { withinSpan } from '#core/ask/condition/resolve.ts';
import { measureOf, plannedMeasure } from '#core/ask/measure/plan.ts';
import { binFacts } from '#core/plan/bin-facts.ts';
import { allOf, type Group, type GroupsPlan, type Order } from '#core/plan/plan.ts';
import type { Bins } from '#core/value/bins/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import { periodBefore, spanOfGroup } from '#core/value/period/period.ts';
import type { Cycle, Unit } from '#core/value/period/units.ts';
import { capital } from '#core/words/capital.ts';
import { periodOf, spanOf } from '../../group-values.ts';
import { groupsWords } from '../../group-words.ts';
import type {
  Applied,
  CellAddress,
  OpenedNumber,
  PaneAnswers,
  PaneQuestions,
  Proposal,
  ProposalContext,
  SuggestionContext,
  Unplaced,
} from '../../kind.ts';
import { loosen, looseQuestions } from '../../loosen.ts';
import { type OneContext, type OnePlan, ofOne } from '../../of-one.ts';
import {
  fieldOf,
  type Loosen,
  type ShownField,
  type ShownMeasure,
  shownField,
  shownMeasure,
} from '../../shown.ts';
import { spanWords } from '../../span-words.ts';
import { canHaveBefore, canHaveSecond, canRun } from './marks.ts';
import type { ChartPane } from './schema.ts';
import { chartSentence } from './sentence.ts';
import { type ChartData, type ChartOfOne, mostGroups, shapeChart, shapeCharts } from './shape.ts';

export interface ChartBody {
  readonly kind: 'chart';
  readonly measure: ShownMeasure;
  readonly second?: ShownMeasure;
  readonly by: ShownField & { readonly unit?: Unit; readonly cycle?: Cycle; readonly bins?: Bins };
  readonly split?: ShownField;
  /** Where there is a chart for each value of a field: the categories and series that they share, without values. */
  readonly data: ChartData;
  readonly each?: { readonly field: ShownField; readonly charts: readonly ChartOfOne[] };
  /** What it was in the period before, category by category. */
  readonly before?: readonly Cell[];
  readonly beforeWords?: string;
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
  propose: proposeCharts,
});

/** The most numbers of a chart that is drawn once for each value. */
const mostOfEach = 8000;

function askChart(brief: ChartPane, asks: OneContext): OnePlan<ChartBody> {
  const { dataSet, from, applied, clock } = asks;
  const measure = measureOf(dataSet, brief.measure);
  const running = brief.running === true && canRun(brief, measure.calculation);
  const pane = { ...brief, running };
  const planned = plannedMeasure(measure, dataSet, clock);
  const second = pane.second !== undefined && canHaveSecond(pane) ? measureOf(dataSet, pane.second) : null;
  const plannedSecond = second && plannedMeasure(second, dataSet, clock);
  const { field, unit } = pane.by;
  const order: Order[] =
    unit === undefined && !pane.by.bins && pane.order === 'value'
      ? [{ by: planned.name, descending: true }]
      : [{ by: pane.each ? 'group:1' : 'group:0' }];
  const about = periodOf(applied, field);
  const span = spanOf(applied, pane.by, clock);
  const where = allOf(applied.map(({ filter }) => filter));
  const top = pane.each
    ? { count: pane.each.count, rest: pane.each.rest ?? false }
    : unit === undefined && !pane.by.bins
      ? pane.top
      : undefined;
  const planIn = (bins?: Bins): GroupsPlan => ({
    kind: 'groups',
    from,
    zone: clock.zone,
    where,
    by: groupsOf(pane, bins),
    measures: plannedSecond ? [planned, plannedSecond] : [planned],
    order,
    limit: pane.each ? mostOfEach : mostGroups + 1,
    ...(top ? { top } : {}),
  });
  const plan = planIn();
  const by = fieldOf(dataSet, field);
  const split = pane.split === undefined ? undefined : fieldOf(dataSet, pane.split);
  const each = pane.each && fieldOf(dataSet, pane.each.field);
  const states = { by: by.states, split: split?.states };
  /** What the measure is of each value that has a chart, the highest first: no sum of what stands in its chart. */
  const sizes: PaneQuestions = pane.each?.order
    ? {
        sizes: {
          plan: {
            ...plan,
            by: plan.by.slice(0, 1),
            measures: [planned],
            order: [{ by: planned.name, descending: true }],
            limit: pane.each.count,
            top: undefined,
          },
        },
      }
    : {};
  const twin = beforeOf(pane, plan, { about, applied, by }, asks);
  /** All that was up to the end of a unit of time. */
  const runningNumber = (
    groupsPlan: GroupsPlan,
    { values: [start] }: CellAddress,
  ): Omit<OpenedNumber, 'use'> => {
    const { to, toDay } = spanOfGroup(String(start), unit ?? 'day', clock.zone);
    const upTo = withinSpan(by, { from: null, fromDay: null, to, toDay });
    return {
      plan: { ...groupsPlan, by: [], where: allOf([groupsPlan.where, { field, test: upTo }]) },
      planned,
      measure,
      words: `up to ${groupsWords(groupsPlan.by, { values: [start ?? null] }, dataSet, clock)}`,
    };
  };
  const facts = pane.by.bins && binFacts(plan, by);
  const binsOf = ({ records }: PaneAnswers): Bins | undefined =>
    facts?.bins(facts.read(records.facts), pane.by.bins?.width) ?? undefined;
  return {
    first: { ...(facts ? { facts: { plan: facts.plan } } : { groups: { plan } }), ...sizes },
    after: (answers) => {
      const { groups = [] } = answers.records;
      // Where none of the records has a number, all of them are blank.
      if (facts && facts.read(answers.records.facts).count !== '0')
        return { ask: { groups: { plan: planIn(binsOf(answers)) } }, isShown: false };
      if (groups.length > 0 && twin) return { ask: { before: { plan: twin.plan } }, isShown: true };
      if (groups.length > 0) return { ask: {}, isShown: false };
      return { ask: looseQuestions(asks), isShown: false };
    },
    shape: (answers) => {
      const { groups = [], before } = answers.records;
      const bins = binsOf(answers);
      const asked = bins ? planIn(bins) : plan;
      const charts = each
        ? shapeCharts(pane, asked, groups, span, {
            states,
            now: clock.now,
            order: each.states,
            sizes: answers.records.sizes,
          })
        : null;
      const data = charts?.shared ?? shapeChart(pane, asked, groups, span, { states, now: clock.now });
      return {
        kind: 'chart',
        measure: {
          ...shownMeasure(measure, dataSet.fields),
          ...(running ? { label: `${measure.label}, added up` } : {}),
        },
        ...(second ? { second: shownMeasure(second, dataSet.fields) } : {}),
        by: {
          ...shownField(by),
          ...(unit ? { unit } : {}),
          ...(pane.by.cycle ? { cycle: pane.by.cycle } : {}),
          ...(bins ? { bins } : {}),
        } as ChartBody['by'],
        ...(split ? { split: shownField(split) } : {}),
        data,
        ...(each && charts ? { each: { field: shownField(each), charts: charts.charts } } : {}),
        ...(twin && before ? { before: twin.shape(before, data), beforeWords: twin.words } : {}),
        noun: dataSet.noun.many,
        ...(groups.length > 0 ? {} : { loosen: loosen(asks, answers) }),
      };
    },
    number: (address) => {
      if (pane.by.bins && !address.bins) return null;
      const asked = planIn(pane.by.bins ? address.bins : undefined);
      if (running && unit) return runningNumber(asked, address);
      const isSecond = address.measure === 1;
      if (isSecond && !(second && plannedSecond)) return null;
      return {
        plan: pane.each ? { ...asked, top: undefined } : asked,
        planned: (isSecond && plannedSecond) || planned,
        measure: (isSecond && second) || measure,
        words: groupsWords(asked.by, address, dataSet, clock),
      };
    },
  };
}

/** What its numbers are grouped by: the value of each chart, its categories, and what those are split by. */
const groupsOf = ({ each, by, split }: ChartPane, bins?: Bins): Group[] => [
  ...(each ? [{ field: each.field }] : []),
  {
    field: by.field,
    ...(by.unit ? { unit: by.unit } : {}),
    ...(by.cycle ? { cycle: by.cycle } : {}),
    ...(bins ? { bins } : {}),
  },
  ...(split === undefined ? [] : [{ field: split }]),
];

interface Twin {
  readonly plan: GroupsPlan;
  readonly words: string;
  readonly shape: (records: readonly (readonly Cell[])[], data: ChartData) => Cell[];
}

/** The same numbers in the period before, unit by unit. Null where there is no such period, or other conditions are of when. */
function beforeOf(
  pane: ChartPane,
  plan: GroupsPlan,
  { about, applied, by }: { about: Applied | undefined; applied: readonly Applied[]; by: Field },
  { clock }: OneContext,
): Twin | null {
  const { unit } = pane.by;
  const others = applied.filter((each) => each !== about);
  if (!pane.before || !canHaveBefore(pane) || !unit || !about?.period || others.some((each) => each.isTimed))
    return null;
  const span = periodBefore(about.period.period, clock);
  if (!span?.from || !span.to) return null;
  return {
    plan: {
      ...plan,
      where: allOf([...others.map(({ filter }) => filter), { field: by.name, test: withinSpan(by, span) }]),
    },
    words: spanWords(span, clock),
    shape: (records, data) => {
      const [series] = shapeChart(pane, plan, records, span).series;
      return data.categories.map((_, at) => series?.values[at] ?? null);
    },
  };
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

/** The charts of a first dashboard: how it changes, and how it splits. */
function proposeCharts(from: ProposalContext): Proposal<ChartPane>[] {
  const { dataSetId: dataSet, dataSet: of, time, categories } = from;
  const [first, second] = categories;
  const proposal = (pane: Suggested, w: number): Proposal<ChartPane> => ({
    pane: { ...pane, dataSet },
    size: { w, h: 7 },
    part: 'pictures',
  });
  const daily = time && {
    ...overTime(from, time.name),
    title: `${capital(of.noun.many)}, day by day`,
    by: { field: time.name, unit: 'day' as const },
  };
  const split = [first, second].flatMap((category) => (category ? [byCategory({ ...from, category })] : []));
  const width = split.length === 1 ? 5 : 6;
  return [
    ...(daily ? [proposal(daily, split.length === 1 ? 7 : 12)] : []),
    ...split.map((pane) => proposal(pane, daily || split.length > 1 ? width : 12)),
  ];
}
