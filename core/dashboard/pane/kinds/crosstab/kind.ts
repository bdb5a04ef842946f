import { measureOf, plannedMeasure } from '#core/ask/measure/plan.ts';
import { allOf, type Group, type GroupsPlan, mostNumbers } from '#core/plan/plan.ts';
import { type Cell, labelOf } from '#core/value/field/value.ts';
import type { Cycle, Unit } from '#core/value/period/units.ts';
import { capital } from '#core/words/capital.ts';
import { listWords } from '#core/words/condition.ts';
import { behindParts } from '../../behind-parts.ts';
import { spanOf } from '../../group-values.ts';
import { groupsWords } from '../../group-words.ts';
import type { BriefPart, SuggestionContext, Unplaced } from '../../kind.ts';
import { groupedByWords, groupOrderWords } from '../../level-words.ts';
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
import { byHeads, byMeasure, rowOrderOf } from './order.ts';
import { crosstabPage } from './page.ts';
import type { CrosstabPane, Level } from './schema.ts';
import { depthsOf, groupsAt } from './sets.ts';
import { type CrosstabData, type RowOrder, shapeCrosstab } from './shape.ts';
import { levelsOf } from './use.ts';
import { cellWords } from './words.ts';

/** A level of heads as readers see it: its field, and the unit of time that it is divided by. */
export interface ShownLevel {
  readonly field: ShownField;
  readonly unit?: Unit;
  readonly cycle?: Cycle;
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

/** What a level groups records by. */
const groupOfLevel = ({ field, unit, cycle }: Level): Group => ({
  field,
  ...(unit ? { unit } : {}),
  ...(cycle ? { cycle } : {}),
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
  const by: Group[] = levelsOf(pane).map(groupOfLevel);
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
    spans: levels.map((level) => spanOf(applied, level, clock)),
  });
  const shown = ({ field, unit, cycle }: Level): ShownLevel => ({
    field: shownField(fieldOf(dataSet, field)),
    ...(unit ? { unit } : {}),
    ...(cycle ? { cycle } : {}),
  });
  const listed = [...new Set([...levelsOf(pane).map(({ field }) => field), ...(pane.behind ?? [])])]
    .map((name) => fieldOf(dataSet, name))
    .filter((field) => dataSet.fields.includes(field));
  /** The total of all is there even of no records. */
  const isEmpty = (records: readonly (readonly Cell[])[]): boolean => records.length <= 1;
  return {
    first: { groups: { plan } },
    after: ({ records: { groups = [] } }) => ({
      ask: isEmpty(groups) ? looseQuestions(asks) : {},
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
    page: (body) => crosstabPage(body, new Set(view.turned ?? []), clock),
    // As records it is those that its numbers are of.
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

/** How its numbers are written: a share as a percentage, whatever it is a share of. Bands are of the numbers themselves. */
const shownCells = (pane: CrosstabPane, shown: ShownMeasure): ShownMeasure =>
  pane.cells === 'value'
    ? shown
    : pane.cells === 'difference'
      ? { ...shown, bands: undefined }
      : {
          ...shown,
          type: 'decimal',
          unit: undefined,
          bands: undefined,
          format: { kind: 'percent', decimals: 1 },
        };

function crosstabSentence(pane: CrosstabPane, { dataSet, field, measure, which }: OneSentence): BriefPart[] {
  const { down, across, measures, order, top, cells } = pane;
  const levels = (of: readonly Level[]): string =>
    of.length === 0
      ? 'nothing'
      : listWords(
          of.map((level) => groupedByWords(groupOfLevel(level), field(level.field))),
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
    { slot: 'shaded', text: pane.shaded ? 'the darker the higher' : 'all alike' },
    { text: ', ' },
    {
      slot: 'order',
      text: order === 'value' ? 'highest first' : groupOrderWords(first, dataSet),
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
