import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
import type { DayUnit } from '#core/value/period/units.ts';
import { capital } from '#core/words/capital.ts';
import { listWords } from '#core/words/condition.ts';
import type { BriefPart, PaneAnswers, SuggestionContext, Unplaced } from '../../kind.ts';
import { groupedByWords } from '../../level-words.ts';
import { askList } from '../../list-plan.ts';
import { listParts, listViewOf } from '../../list-view.ts';
import { type OneContext, type OnePlan, type OneSentence, ofOne } from '../../of-one.ts';
import { orderWords } from '../../order-words.ts';
import { fieldOf, type Loosen, type RecordList, type ShownField, shownField } from '../../shown.ts';
import { suggestionContext } from '../../suggestion-context.ts';
import { type FootAnswer, footPlan } from './foot.ts';
import { type GroupBy, type GroupHead, groupValue, headsPlan } from './group.ts';
import type { TableColumn, TablePane } from './schema.ts';
import { shownColumns } from './use.ts';

export interface TableBody extends RecordList, Partial<FootAnswer> {
  readonly kind: 'table';
  readonly loosen?: readonly Loosen[];
  /** The fields whose values records stand together by, the outermost first, and the heads of those on the page; null until they have come. */
  readonly groups?: readonly {
    readonly field: ShownField;
    readonly unit?: DayUnit;
    readonly heads: readonly GroupHead[] | null;
  }[];
}

/** Records, a page at a time. */
export const table = ofOne<TablePane, TableBody>({
  view: (pane) => ({
    ...listParts(shownColumns(pane)),
    widths: { takes: 'opened' },
    ...(pane.groups === undefined ? {} : { closed: { takes: 'opened' } }),
  }),
  forReaders: (pane) => {
    const shown = shownColumns(pane);
    return {
      ...pane,
      columns: pane.columns.filter(({ hidden }) => !hidden),
      order: pane.order.filter(({ by }) => shown.includes(by)),
    };
  },
  ask: askTable,
  sentence: tableSentence,
  questions: [{ ask: 'which', words: 'Which records?', leads: 'A table', size: { w: 8, h: 11 } }],
  suggest: (_, from) => suggestTable(from),
  propose: (from) => [
    {
      pane: { ...suggestTable(from), dataSet: from.dataSetId, title: latestTitle(from) },
      size: { w: 8, h: 12 },
      part: 'records',
    },
    ...from.related.map(({ data, meaning }) => ({
      pane: {
        ...suggestTable(
          suggestionContext({ dataSetId: data.id, dataSet: data.dataSet, offered: from.offered }),
        ),
        title: `Its ${data.dataSet.noun.many}`,
        dataSet: data.id,
        waitsFor: meaning,
      },
      size: { w: 12, h: 7 },
      part: 'related' as const,
    })),
  ],
});

const latestTitle = ({ dataSet, time }: SuggestionContext): string =>
  `${capital(dataSet.noun.many)}${time ? ', latest first' : ''}`;

const suggestTable = ({
  dataSet,
  visibleFields,
  time,
}: SuggestionContext): Omit<Unplaced<TablePane>, 'dataSet'> => ({
  kind: 'table',
  title: capital(dataSet.noun.many),
  columns: visibleFields
    .filter(({ format }) => format?.kind !== 'picture')
    .slice(0, 7)
    .map(({ name }) => ({ field: name })),
  order: time ? [{ by: time.name, descending: true }] : [],
  pageSize: 10,
});

function askTable(pane: TablePane, asks: OneContext): OnePlan<TableBody> {
  const { dataSet } = asks;
  const { plan, first, after, body } = askList(
    { shown: shownColumns(pane), order: pane.order, pageSize: pane.pageSize, groups: pane.groups },
    asks,
  );
  const fields = shownFields(pane, dataSet, plan.fields);
  const columns = listViewOf(asks.view).columns ?? pane.columns.map(({ field }) => field);
  const inView = pane.columns.filter(({ field, hidden }) => !hidden && columns.includes(field));
  const foot = footPlan(inView, dataSet.fields, plan);
  const groups = (pane.groups ?? []).map(
    ({ field, unit }): GroupBy => ({ field: fieldOf(dataSet, field), unit }),
  );
  const places = groups.map(({ field }) => plan.fields.indexOf(field.name));
  /** Of each level of groups, the outermost first. */
  const heads = ({ records: { page = [] } }: PaneAnswers): ReturnType<typeof headsPlan>[] => {
    const paths = page.map((record) =>
      groups.map((group, level) => groupValue(record[places[level] ?? -1] ?? null, group, plan.zone)),
    );
    return groups.map((_, level) =>
      headsPlan(
        groups.slice(0, level + 1),
        paths.map((path) => path.slice(0, level + 1)),
        inView,
        dataSet.fields,
        plan,
      ),
    );
  };
  const shownGroups = (answers: PaneAnswers): TableBody['groups'] => {
    const plans = heads(answers);
    return groups.map(({ field: { name }, unit }, level) => {
      const found = answers.records[headsName(level)];
      return {
        field: shownField(fieldOf(dataSet, name)),
        ...(unit ? { unit } : {}),
        heads: found ? (plans[level]?.shape(found) ?? null) : null,
      };
    });
  };
  return {
    first,
    // The foot is of all records and comes after the page, so as not to slow it down.
    after: (answers) => {
      const later = after?.(answers) ?? { ask: {}, isShown: false };
      if (!answers.records.page?.length) return later;
      const ask = {
        ...later.ask,
        ...(foot ? { foot: { plan: foot.plan } } : {}),
        ...Object.fromEntries(heads(answers).map(({ plan }, level) => [headsName(level), { plan }])),
      };
      return { ask, isShown: later.isShown || foot !== null || groups.length > 0 };
    },
    shape: (answers) => {
      const [numbers] = answers.records.foot ?? [];
      return {
        kind: 'table',
        fields,
        ...body(answers),
        ...(foot && numbers ? foot.shape(numbers) : {}),
        ...(groups.length === 0 ? {} : { groups: shownGroups(answers) }),
      };
    },
    list: { plan, columns: listColumns(pane, dataSet, columns) },
  };
}

/** What the heads of a level of groups are asked as. */
const headsName = (level: number): string => `heads ${level}`;

function shownFields(pane: TablePane, dataSet: DataSet, names: readonly string[]): ShownField[] {
  const columns = new Map(pane.columns.map((column) => [column.field, column]));
  return names.map((name) => {
    const column = columns.get(name);
    const field = shownField(fieldOf(dataSet, name), column && columnLabel(dataSet, column));
    return column?.format ? { ...field, format: column.format } : field;
  });
}

function listColumns(pane: TablePane, dataSet: DataSet, shown: readonly string[]) {
  return pane.columns
    .filter(({ field, hidden }) => !hidden && shown.includes(field))
    .sort((a, b) => shown.indexOf(a.field) - shown.indexOf(b.field))
    .map((column) => {
      const { type, bands } = fieldOf(dataSet, column.field);
      return { label: columnLabel(dataSet, column), name: column.field, type, bands };
    });
}

/** What a column is headed: its own label, else the field's. */
function columnLabel(dataSet: DataSet, column: TableColumn): string {
  if (column.label) return column.label;
  const field = dataSet.fields.find(({ name }) => name === column.field);
  return field ? labelOf(field) : column.field;
}

function tableSentence(pane: TablePane, { dataSet, field, which }: OneSentence): BriefPart[] {
  const columns = pane.columns.filter(({ hidden }) => !hidden);
  return [
    { text: `List ${dataSet.noun.many} with ` },
    {
      slot: 'columns',
      text: listWords(columns.map((column) => column.label?.toLowerCase() ?? field(column.field))),
    },
    { text: ', sorted by ' },
    { slot: 'order', text: orderWords(pane.order, dataSet, field) },
    { text: ', ' },
    {
      slot: 'group',
      text: pane.groups
        ? `grouped by ${pane.groups.map((group) => groupedByWords(group, field(group.field))).join(', then by ')}`
        : 'not grouped',
    },
    { text: ', ' },
    { slot: 'pageSize', text: `${pane.pageSize} to a page` },
    ...which(','),
    { text: '.' },
  ];
}
