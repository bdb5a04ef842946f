import { measureOf, plannedMeasure } from '#core/ask/measure/plan.ts';
import { allOf, type Group, type GroupsPlan, mostNumbers } from '#core/plan/plan.ts';
import { type Cell, labelOf } from '#core/value/field/value.ts';
import { resolvePeriod } from '#core/value/period/period.ts';
import type { Unit } from '#core/value/period/units.ts';
import { capital } from '#core/words/capital.ts';
import { listWords } from '#core/words/condition.ts';
import { directionWords } from '#core/words/order.ts';
import { behindParts } from '../../behind-parts.ts';
import { groupsWords } from '../../group-words.ts';
import type { BriefPart, SuggestionContext, Unplaced } from '../../kind.ts';
import { orderOf } from '../../list-view.ts';
import { loosen, looseQuestions } from '../../loosen.ts';
import { type OneContext, type OnePlan, type OneSentence, ofOne } from '../../of-one.ts';
import {
  fieldOf,
  type Loosen,
  type Noun,
  type ShownField,
  type ShownMeasure,
  shownField,
  shownMeasure,
} from '../../shown.ts';
import type { PaneView } from '../../view.ts';
import type { CrosstabPane, Level } from './schema.ts';
import { depthsOf, groupsAt } from './sets.ts';
import { type CrosstabData, type RowOrder, shapeCrosstab } from './shape.ts';
import { levelsOf } from './use.ts';
import { cellWords } from './words.ts';

/** A level of heads as readers see it: its field, and the unit of time that it is divided by. */
export interface ShownLevel {
  readonly field: ShownField;
  readonly unit?: Unit;
}

export interface CrosstabBody {
  readonly kind: 'crosstab';
  readonly down: readonly ShownLevel[];
  readonly across: readonly ShownLevel[];
  readonly measures: readonly ShownMeasure[];
  readonly data: CrosstabData;
  /** What the rows are put in order by. */
  readonly order: RowOrder;
  readonly noun: Noun;
  readonly loosen?: readonly Loosen[];
}

/** What an order can go by: the heads, or a measure by its place. */
const byHeads = 'label';
const byMeasure = (at: number): string => `number:${at}`;

/** An order of the rows as parts of the view, and back. */
export const rowOrderParts = ({ measure, descending, along }: RowOrder): PaneView => ({
  order: [`${descending ? '-' : '+'}${measure === null ? byHeads : byMeasure(measure)}`],
  along: along.length === 0 ? [] : [JSON.stringify(along)],
});

function rowOrderOf(pane: CrosstabPane, { order = [], along = [] }: PaneView): RowOrder {
  const [chosen] = orderOf(order);
  if (!chosen)
    return pane.order === 'value'
      ? { measure: 0, descending: true, along: [] }
      : { measure: null, descending: false, along: [] };
  const measure = pane.measures.findIndex((_, at) => byMeasure(at) === chosen.by);
  return {
    measure: measure < 0 ? null : measure,
    descending: chosen.descending ?? false,
    along: pathOf(along[0]),
  };
}

/** The values of a column out of an address, where anything may stand. */
function pathOf(text: string | undefined): Cell[] {
  try {
    const path: unknown = JSON.parse(text ?? '[]');
    return Array.isArray(path)
      ? path.filter(
          (each): each is Cell => each === null || ['string', 'number', 'boolean'].includes(typeof each),
        )
      : [];
  } catch {
    return [];
  }
}

/** Records summarised down and across, with every total worked out from the records themselves. */
export const crosstab = ofOne<CrosstabPane, CrosstabBody>({
  view: (pane) => ({
    order: { takes: 'order', of: [byHeads, ...pane.measures.map((_, at) => byMeasure(at))] },
    along: { takes: 'text' },
    turned: { takes: 'opened' },
  }),
  forReaders: ({ behind: _, ...pane }) => pane,
  ask: askCrosstab,
  sentence: crosstabSentence,
  questions: [
    {
      ask: 'two ways',
      words: 'How does it split two ways?',
      leads: 'Rows and columns with totals',
      size: { w: 8, h: 10 },
    },
  ],
  suggest: (_, from) => suggestCrosstab(from),
});

function askCrosstab(pane: CrosstabPane, asks: OneContext): OnePlan<CrosstabBody> {
  const { dataSet, from, applied, clock, view } = asks;
  const measures = pane.measures.map((name) => measureOf(dataSet, name));
  // Two of the same are told apart by their places.
  const planned = measures.map((measure, at) => ({
    ...plannedMeasure(measure, dataSet, clock),
    name: byMeasure(at),
  }));
  const where = allOf(applied.map(({ filter }) => filter));
  const by: Group[] = levelsOf(pane).map(({ field, unit }) => ({ field, ...(unit ? { unit } : {}) }));
  const plan: GroupsPlan = {
    kind: 'groups',
    from,
    zone: clock.zone,
    where,
    by,
    measures: planned,
    order: [],
    limit: mostNumbers + 1,
    sets: depthsOf(pane.down.length, pane.across.length).map((depth) => groupsAt(depth, pane.down.length)),
    ...(pane.top && pane.down[0]?.unit === undefined ? { top: pane.top } : {}),
  };
  const order = rowOrderOf(pane, view);
  const side = (levels: readonly Level[]) => ({
    levels,
    fields: levels.map(({ field }) => fieldOf(dataSet, field)),
    spans: levels.map(({ field, unit }) => {
      const period = applied.findLast((each) => each.period?.field === field)?.period?.period;
      return unit && period ? resolvePeriod(period, clock) : null;
    }),
  });
  const shown = ({ field, unit }: Level): ShownLevel => ({
    field: shownField(fieldOf(dataSet, field)),
    ...(unit ? { unit } : {}),
  });
  const listed = [...new Set([...levelsOf(pane).map(({ field }) => field), ...(pane.behind ?? [])])]
    .map((name) => fieldOf(dataSet, name))
    .filter((field) => dataSet.fields.includes(field));
  /** The total of all is there even of no records. */
  const isEmpty = (records: readonly (readonly Cell[])[]): boolean => records.length <= 1;
  return {
    first: { groups: { plan } },
    after: ({ records: { groups = [] } }) => ({
      ask: isEmpty(groups)
        ? looseQuestions(
            { kind: 'records', from, zone: clock.zone, where, fields: [], order: [], offset: 0, limit: 1 },
            asks,
          )
        : {},
      isShown: false,
    }),
    shape: (answers) => {
      const { groups = [] } = answers.records;
      return {
        kind: 'crosstab',
        down: pane.down.map(shown),
        across: pane.across.map(shown),
        measures: measures.map((measure) => shownCells(pane, shownMeasure(measure, dataSet.fields))),
        data: shapeCrosstab(plan.top ? pane : { ...pane, top: undefined }, isEmpty(groups) ? [] : groups, {
          down: side(pane.down),
          across: side(pane.across),
          measures: planned,
          order,
          zone: clock.zone,
          now: clock.now,
        }),
        order,
        noun: dataSet.noun,
        ...(isEmpty(groups) ? { loosen: loosen(asks, answers) } : {}),
      };
    },
    // As a file it is the records that its numbers are of.
    list: {
      plan: {
        kind: 'records',
        from,
        zone: clock.zone,
        where,
        fields: listed.map(({ name }) => name),
        order: [],
        ...(dataSet.key === undefined ? {} : { key: dataSet.key }),
        offset: 0,
        limit: 1,
      },
      columns: listed.map((field) => ({ name: field.name, label: labelOf(field), type: field.type })),
    },
    number: (address) => {
      const at = address.measure ?? 0;
      const [measure, one] = [measures[at], planned[at]];
      if (!measure || !one) return null;
      const words = groupsWords(by, address, dataSet, clock);
      return { plan: { ...plan, sets: undefined, top: undefined }, planned: one, measure, words };
    },
  };
}

/** How its numbers are written: a share as a percentage, whatever it is a share of. */
const shownCells = (pane: CrosstabPane, shown: ShownMeasure): ShownMeasure =>
  pane.cells === 'value' || pane.cells === 'difference'
    ? shown
    : { ...shown, type: 'decimal', unit: undefined, format: { kind: 'percent', decimals: 1 } };

function crosstabSentence(pane: CrosstabPane, { dataSet, field, measure, which }: OneSentence): BriefPart[] {
  const { down, across, measures, order, top, cells } = pane;
  const levels = (of: readonly Level[]): string =>
    of.length === 0
      ? 'nothing'
      : listWords(
          of.map((level) => `${level.unit ? `${level.unit} of ` : ''}${field(level.field)}`),
          'then',
        );
  const first = down[0];
  return [
    { text: 'Show ' },
    { slot: 'measures', text: listWords(measures.map((name) => measure(name).text)) },
    { text: ' down by ' },
    { slot: 'down', text: levels(down) },
    { text: ' and across by ' },
    { slot: 'across', text: levels(across) },
    { text: ', ' },
    { slot: 'cells', text: cellWords[cells] },
    { text: ', ' },
    {
      slot: 'order',
      text:
        order === 'value'
          ? 'highest first'
          : directionWords(first ? fieldOf(dataSet, first.field) : undefined, false),
    },
    ...(first && first.unit === undefined
      ? [
          { text: ', showing ' },
          { slot: 'top', text: top ? `the top ${top.count}${top.rest ? ' and the rest' : ''}` : 'all' },
        ]
      : []),
    ...which(','),
    { text: '.' },
    ...behindParts(pane.behind, field),
  ];
}

function suggestCrosstab({
  dataSet,
  visibleFields,
  time,
  category,
  measure,
  behind,
}: SuggestionContext): Omit<Unplaced<CrosstabPane>, 'dataSet'> {
  // Rows by what sorts them into a few kinds; across by time where there is one, else by another such field.
  const other = visibleFields.find(
    ({ name, type, format, states }) =>
      name !== category?.name &&
      name !== dataSet.title &&
      (states !== undefined || type === 'boolean' || (type === 'text' && format === undefined)),
  );
  const across: Level[] = time ? [{ field: time.name, unit: 'month' }] : other ? [{ field: other.name }] : [];
  return {
    kind: 'crosstab',
    title: `${capital(dataSet.noun.many)} by ${category?.label?.toLowerCase() ?? category?.name ?? ''}${time ? ' and month' : ''}`,
    down: [{ field: category?.name ?? '' }],
    across,
    measures: [measure],
    cells: 'value',
    order: 'value',
    behind,
  };
}
