import { keyAndTitle } from '#core/dataset/naming.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import { labelOf } from '#core/value/field/value.ts';
import { capital } from '#core/words/capital.ts';
import { listWords } from '#core/words/condition.ts';
import { directionWords } from '#core/words/order.ts';
import type { BriefPart, PaneQuestions } from '../../kind.ts';
import { listParts, listViewOf } from '../../list-view.ts';
import { loosen, looseQuestions } from '../../loosen.ts';
import { type OneContext, type OnePlan, type OneSentence, ofOne } from '../../of-one.ts';
import { searchFilter } from '../../search.ts';
import { fieldOf, type Loosen, type RecordList, type ShownField, shownField } from '../../shown.ts';
import type { TableColumn, TablePane } from './schema.ts';
import { shownColumns } from './use.ts';

export interface TableBody extends RecordList {
  readonly kind: 'table';
  readonly loosen?: readonly Loosen[];
}

/** Records, a page at a time. */
export const table = ofOne<TablePane, TableBody>({
  view: (pane) => listParts(shownColumns(pane)),
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
  suggest: (_, { dataSet, visibleFields, time }) => ({
    kind: 'table',
    title: capital(dataSet.noun.many),
    columns: visibleFields
      .filter(({ format }) => format?.kind !== 'picture')
      .slice(0, 7)
      .map(({ name }) => ({ field: name })),
    order: time ? [{ by: time.name, descending: true }] : [],
    pageSize: 10,
  }),
});

function askTable(pane: TablePane, asks: OneContext): OnePlan<TableBody> {
  const { dataSet, from, applied, clock } = asks;
  const { page, order, search, columns } = listViewOf(asks.view);
  const shown = shownColumns(pane);
  const isKnown = (name: string): boolean =>
    shown.includes(name) && dataSet.fields.some((each) => each.name === name);
  const chosen = order.filter(({ by }) => isKnown(by));
  const plan: RecordsPlan = {
    kind: 'records',
    from,
    zone: clock.zone,
    where: allOf([allOf(applied.map(({ filter }) => filter)), searchFilter(search, shown, dataSet)]),
    fields: [...new Set([...shown, ...keyAndTitle(dataSet)])],
    order: chosen.length > 0 ? chosen : pane.order,
    ...(dataSet.key === undefined ? {} : { key: dataSet.key }),
    offset: (page - 1) * pane.pageSize,
    limit: pane.pageSize,
  };
  const fields = shownFields(pane, dataSet, plan.fields);
  /** Known without counting where the first page is not full. */
  const totalOf = (records: readonly unknown[]): string | null =>
    plan.offset === 0 && records.length < plan.limit ? String(records.length) : null;
  return {
    first: { page: { plan } },
    after: ({ records: { page: records = [] } }) => {
      const total = totalOf(records);
      if (total === '0') return { ask: looseQuestions(plan, asks), isShown: false };
      // The page is what a person waits for; counting comes after it, so as not to slow it down.
      const ask: PaneQuestions = total === null ? { total: { count: plan } } : {};
      return { ask, isShown: total === null };
    },
    shape: (answers) => {
      const { page: records = [] } = answers.records;
      const total = totalOf(records) ?? answers.counts.total ?? null;
      return {
        kind: 'table',
        fields,
        records,
        total,
        page,
        noun: dataSet.noun,
        ...(total === '0' && records.length === 0 ? { loosen: loosen(asks, answers) } : {}),
      };
    },
    list: {
      plan,
      columns: listColumns(pane, dataSet, columns ?? pane.columns.map(({ field }) => field)),
    },
  };
}

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
    .map((column) => ({
      label: columnLabel(dataSet, column),
      name: column.field,
      type: fieldOf(dataSet, column.field).type,
    }));
}

/** What a column is headed: its own label, else the field's. */
function columnLabel(dataSet: DataSet, column: TableColumn): string {
  if (column.label) return column.label;
  const field = dataSet.fields.find(({ name }) => name === column.field);
  return field ? labelOf(field) : column.field;
}

function tableSentence(pane: TablePane, { dataSet, field, which }: OneSentence): BriefPart[] {
  const columns = pane.columns.filter(({ hidden }) => !hidden);
  const order = pane.order.map(
    ({ by, descending }) => `${field(by)}, ${directionWords(fieldOf(dataSet, by), descending ?? false)}`,
  );
  return [
    { text: `List ${dataSet.noun.many} with ` },
    {
      slot: 'columns',
      text: listWords(columns.map((column) => column.label?.toLowerCase() ?? field(column.field))),
    },
    { text: ', sorted by ' },
    { slot: 'order', text: order.length === 0 ? 'nothing' : listWords(order, 'then by') },
    { text: ', ' },
    { slot: 'pageSize', text: `${pane.pageSize} to a page` },
    ...which(','),
    { text: '.' },
  ];
}
