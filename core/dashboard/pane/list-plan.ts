import { keyAndTitle } from '#core/dataset/naming.ts';
import { allOf, type RecordOrder, type RecordsPlan } from '#core/plan/plan.ts';
import type { DayUnit } from '#core/value/period/units.ts';
import type { PaneAnswers, PaneQuestions } from './kind.ts';
import { type ListOrder, listViewOf } from './list-view.ts';
import { loosen, looseQuestions } from './loosen.ts';
import type { OneContext, OnePlan } from './of-one.ts';
import { searchFilter } from './search.ts';
import type { Loosen, RecordList } from './shown.ts';

/* A list of records, a page at a time, as panes of several kinds ask for it. */

interface List {
  /** The fields that it shows, which can be sorted by and are searched. */
  readonly shown: readonly string[];
  /** Fields that are searched and sorted by instead, where it is in step with another list. */
  readonly searched?: readonly string[] | undefined;
  /** As long as the reader has not sorted it otherwise. */
  readonly order: ListOrder;
  readonly pageSize: number;
  /** Records of one value of these fields stand together, whatever they are sorted by: the first before the second. */
  readonly groups?: readonly { readonly field: string; readonly unit?: DayUnit | undefined }[] | undefined;
}

interface ListBody extends Omit<RecordList, 'fields'> {
  readonly loosen?: readonly Loosen[];
}

interface AskedList extends Pick<OnePlan<unknown>, 'first' | 'after'> {
  readonly plan: RecordsPlan;
  readonly body: (answers: PaneAnswers) => ListBody;
}

/** An order in which records of one group stand together. */
function together(order: ListOrder, groups: NonNullable<List['groups']>): RecordOrder[] {
  const levels = groups.map(({ field, unit }, at): RecordOrder => {
    const own = order.find(({ by }) => by === field) ?? { by: field };
    // In the innermost group the moments themselves stand in the order of their units.
    return unit && at < groups.length - 1 ? { ...own, unit } : own;
  });
  return [...levels, ...order.filter((each) => !levels.includes(each))];
}

/** What a list asks: its page, and how many there are in all, which comes after it so as not to slow it down. */
export function askList(
  { shown, searched = shown, order, pageSize, groups = [] }: List,
  asks: OneContext,
): AskedList {
  const { dataSet, from, applied, clock } = asks;
  const view = listViewOf(asks.view);
  const isKnown = (name: string): boolean =>
    searched.includes(name) && dataSet.fields.some((each) => each.name === name);
  const chosen = view.order.filter(({ by }) => isKnown(by));
  const plan: RecordsPlan = {
    kind: 'records',
    from,
    zone: clock.zone,
    where: allOf([allOf(applied.map(({ filter }) => filter)), searchFilter(view.search, searched, dataSet)]),
    fields: [...new Set([...shown, ...groups.map(({ field }) => field), ...keyAndTitle(dataSet)])],
    order: together(chosen.length > 0 ? chosen : order, groups).map(({ by, descending, unit }) => ({
      by,
      ...(descending === undefined ? {} : { descending }),
      ...(unit ? { unit } : {}),
    })),
    ...(dataSet.key === undefined ? {} : { key: dataSet.key }),
    offset: (view.page - 1) * pageSize,
    limit: pageSize,
  };
  /** Known without counting where the first page is not full. */
  const totalOf = (records: readonly unknown[]): string | null =>
    plan.offset === 0 && records.length < plan.limit ? String(records.length) : null;
  return {
    plan,
    first: { page: { plan } },
    after: ({ records: { page: records = [] } }) => {
      const total = totalOf(records);
      if (total === '0') return { ask: looseQuestions(asks), isShown: false };
      const ask: PaneQuestions = total === null ? { total: { count: plan } } : {};
      return { ask, isShown: total === null };
    },
    body: (answers) => {
      const { page: records = [] } = answers.records;
      const total = totalOf(records) ?? answers.counts.total ?? null;
      return {
        records,
        total,
        page: view.page,
        noun: dataSet.noun,
        ...(total === '0' && records.length === 0 ? { loosen: loosen(asks, answers) } : {}),
      };
    },
  };
}
