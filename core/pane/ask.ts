import type { Filter } from '#core/condition/resolve.ts';
import { withinSpan } from '#core/condition/resolve.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/field/value.ts';
import { type Applied, appliedTo, relationOf, waitsFor } from '#core/flow/applies.ts';
import { nounOf } from '#core/flow/check.ts';
import type { Context } from '#core/flow/context.ts';
import { measureOf, plannedMeasure } from '#core/measure/plan.ts';
import { periodBefore, resolvePeriod, type Span } from '#core/period/period.ts';
import {
  allOf,
  type GroupsPlan,
  type Order,
  type PlannedMeasure,
  type RecordsPlan,
} from '#core/plan/plan.ts';
import { ProblemError } from '#core/problem/problem.ts';
import type { CardPane, ChartPane, DetailPane, Pane, TablePane } from './schema.ts';

/** What to ask for a pane, or what it waits for. */
export type Asked =
  | { state: 'waiting'; choose: string }
  | { state: 'card'; plan: GroupsPlan; spans: { now: Span; before: Span } | null }
  | { state: 'chart'; plan: GroupsPlan; span: Span | null }
  | { state: 'table'; plan: RecordsPlan; page: number }
  | { state: 'detail'; plan: RecordsPlan };

/** The most categories, and points in time, that a chart asks for. */
export const mostGroups = 2000;

/** Works out the plan of a pane from its brief, the scope and the clock. Pure: the same context gives the same plan. */
export function ask(pane: Pane, context: Context): Asked {
  const dataSet = context.dataSets.get(pane.dataSet);
  if (!dataSet)
    throw new ProblemError({
      code: 'missing',
      doing: `reading “${pane.title}”`,
      why: 'its data set is gone',
      mend: 'Choose another data set in the brief.',
    });
  const waiting = waitsFor(pane, dataSet, context);
  if (waiting !== null) return { state: 'waiting', choose: nounOf(waiting, context.dataSets) };
  const { relation, missing } = relationOf(dataSet, context);
  if (missing !== null) return { state: 'waiting', choose: missing };
  const applied = appliedTo(pane, dataSet, context);
  const whole = { from: relation, zone: context.clock.zone };
  switch (pane.kind) {
    case 'card':
      return askCard(pane, dataSet, applied, whole, context);
    case 'chart':
      return askChart(pane, dataSet, applied, whole, context);
    case 'table':
      return askTable(pane, dataSet, applied, whole, context);
    case 'detail':
      return askDetail(pane, dataSet, applied, whole);
  }
}

type Whole = Pick<GroupsPlan, 'from' | 'zone'>;
const filters = (applied: readonly Applied[]): Filter => allOf(applied.map(({ filter }) => filter));

/** Now and before in one question: each is the measure over its own span, of the records of either. */
function askCard(
  pane: CardPane,
  dataSet: DataSet,
  applied: Applied[],
  whole: Whole,
  context: Context,
): Asked {
  const { clock } = context;
  const measure = plannedMeasure(measureOf(dataSet, pane.measure), dataSet, clock);
  const own = pane.when;
  const scoped = applied.findLast(({ from, period }) => from === 'clause' && period !== undefined);
  const about = own ?? scoped?.period;
  // A card about its own period (today) is not narrowed by the scope's period of the same field (the last 28 days).
  const others = applied.filter((each) => each !== scoped || (own && each.period?.field !== own.field));
  const field = about && dataSet.fields.find(({ name }) => name === about.field);
  const groups = (where: Filter, measures: PlannedMeasure[]): GroupsPlan => ({
    kind: 'groups',
    ...whole,
    where,
    by: [],
    measures,
    order: [],
    limit: 1,
  });
  if (!about || !field) return { state: 'card', plan: groups(filters(applied), [measure]), spans: null };
  const spans = cardSpans(pane, about.period, clock);
  const now: Filter = { field: field.name, test: withinSpan(field, spans.now) };
  if (!spans.before)
    return { state: 'card', plan: groups(allOf([filters(others), now]), [measure]), spans: null };
  const before: Filter = { field: field.name, test: withinSpan(field, spans.before) };
  const during = (name: string, when: Filter): PlannedMeasure => ({
    ...measure,
    name,
    where: allOf([measure.where, when]),
  });
  return {
    state: 'card',
    plan: groups(allOf([filters(others), { any: [now, before] }]), [
      during('now', now),
      during('before', before),
    ]),
    spans: { now: spans.now, before: spans.before },
  };
}

function cardSpans(pane: CardPane, period: Parameters<typeof resolvePeriod>[0], clock: Context['clock']) {
  const now = resolvePeriod(period, clock);
  const before = pane.against === 'none' ? null : periodBefore(period, clock);
  if (pane.against !== 'sameTime' || !before?.from || !now.from || !now.to || now.to <= clock.now)
    return { now, before };
  // As far as it had got: the same stretch of the period before as has passed of this one.
  const passed = clock.now.getTime() - now.from.getTime();
  return {
    now: { ...now, to: clock.now },
    before: { ...before, to: new Date(before.from.getTime() + passed) },
  };
}

function askChart(
  pane: ChartPane,
  dataSet: DataSet,
  applied: Applied[],
  whole: Whole,
  { clock }: Context,
): Asked {
  const measure = plannedMeasure(measureOf(dataSet, pane.measure), dataSet, clock);
  const { field, unit } = pane.by;
  const order: Order[] =
    unit === undefined && pane.order === 'value'
      ? [{ by: measure.name, descending: true }]
      : [{ by: 'group:0' }];
  const period = applied.findLast((each) => each.period?.field === field)?.period?.period;
  return {
    state: 'chart',
    span: unit && period ? resolvePeriod(period, clock) : null,
    plan: {
      kind: 'groups',
      ...whole,
      where: filters(applied),
      by: [
        { field, ...(unit ? { unit } : {}) },
        ...(pane.split === undefined ? [] : [{ field: pane.split }]),
      ],
      measures: [measure],
      order,
      limit: mostGroups + 1,
      ...(pane.top && unit === undefined ? { top: pane.top } : {}),
    },
  };
}

function askTable(
  pane: TablePane,
  dataSet: DataSet,
  applied: Applied[],
  whole: Whole,
  { scope }: Context,
): Asked {
  const view = scope.tables[pane.id] ?? {};
  const known = (name: string): boolean => dataSet.fields.some((each) => each.name === name);
  const chosen = view.order?.filter(({ by }) => known(by)) ?? [];
  const page = view.page ?? 1;
  const shown = pane.columns.filter(({ hidden }) => !hidden).map(({ field }) => field);
  const fields = [...new Set([...shown, ...keyAndTitle(dataSet)])];
  return {
    state: 'table',
    page,
    plan: {
      kind: 'records',
      ...whole,
      where: allOf([filters(applied), searchFilter(view.search, shown, dataSet)]),
      fields,
      order: chosen.length > 0 ? chosen : pane.order,
      ...(dataSet.key === undefined ? {} : { key: dataSet.key }),
      offset: (page - 1) * pane.pageSize,
      limit: pane.pageSize,
    },
  };
}

/** Text search across the fields shown: every word typed must stand in one of them. */
export function searchFilter(
  search: string | undefined,
  fields: readonly string[],
  dataSet: DataSet,
): Filter | null {
  const words = search?.trim().split(/\s+/).filter(Boolean).slice(0, 8) ?? [];
  if (words.length === 0) return null;
  const searched = dataSet.fields.filter(
    ({ name, type }) => fields.includes(name) && (type === 'text' || type === 'integer'),
  );
  return {
    all: words.map((text) => ({
      any: searched.map(({ name }) => ({ field: name, test: { op: 'contains', text } })),
    })),
  };
}

/** Read whether shown or not: a record needs its key to be picked and its title to be named. */
export const keyAndTitle = ({ key, title }: DataSet): string[] =>
  [key, title].filter((name): name is string => name !== undefined);

function askDetail(pane: DetailPane, dataSet: DataSet, applied: Applied[], whole: Whole): Asked {
  return {
    state: 'detail',
    plan: {
      kind: 'records',
      ...whole,
      where: filters(applied),
      fields: [...new Set([...pane.fields, ...keyAndTitle(dataSet)])],
      order: [],
      offset: 0,
      limit: 2,
    },
  };
}

/** What a table's column is headed: its own label, else the field's. */
export function columnLabel(dataSet: DataSet, column: { field: string; label?: string | undefined }): string {
  if (column.label) return column.label;
  const field = dataSet.fields.find(({ name }) => name === column.field);
  return field ? labelOf(field) : column.field;
}
