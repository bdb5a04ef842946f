import type { Filter } from '#core/condition/resolve.ts';
import { withinSpan } from '#core/condition/resolve.ts';
import { keyAndTitle } from '#core/dataset/naming.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/field/value.ts';
import { type Applied, appliedTo, relationOf, waitsFor } from '#core/flow/applies.ts';
import { giversOf, nounOf } from '#core/flow/check.ts';
import type { Context } from '#core/flow/context.ts';
import { measureOf, plannedMeasure } from '#core/measure/plan.ts';
import {
  dayOf,
  periodBefore,
  resolvePeriod,
  type Span,
  shiftDay,
  startOfDayIn,
} from '#core/period/period.ts';
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
  /** `from`: the titles of the panes in which it can be chosen. */
  | { state: 'waiting'; choose: string; from: readonly string[] }
  | { state: 'card'; plan: GroupsPlan; spans: CardSpans | null }
  | { state: 'chart'; plan: GroupsPlan; span: Span | null }
  | { state: 'table'; plan: RecordsPlan; page: number }
  | { state: 'detail'; plan: RecordsPlan };

/** The two stretches that a card compares; `isPartial`: both end at the moment up to which it has got. */
export interface CardSpans {
  readonly now: Span;
  readonly before: Span;
  readonly isPartial: boolean;
}

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
  if (waiting !== null)
    return {
      state: 'waiting',
      choose: nounOf(waiting, context.dataSets),
      from: giversOf(waiting, context.dashboard, context.dataSets),
    };
  const { relation, missing } = relationOf(dataSet, context);
  if (missing !== null)
    return {
      state: 'waiting',
      choose: missing.label,
      from: missing.refers === undefined ? [] : giversOf(missing.refers, context.dashboard, context.dataSets),
    };
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
  const groups = (where: Filter, measures: PlannedMeasure[]): GroupsPlan => ({
    kind: 'groups',
    ...whole,
    where,
    by: [],
    measures,
    order: [],
    limit: 1,
  });
  const about = periodOfCard(applied);
  const field = about?.period && dataSet.fields.find(({ name }) => name === about.period?.field);
  const spans = about?.period && cardSpans(pane, about.period.period, clock);
  // A comparison is fair only where both periods are whole under every other condition.
  const others = applied.filter((each) => each !== about);
  if (!field || !spans?.before || others.some((each) => each.isTimed))
    return { state: 'card', plan: groups(filters(applied), [measure]), spans: null };
  const now: Filter = { field: field.name, test: withinSpan(field, spans.now) };
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
    spans: { now: spans.now, before: spans.before, isPartial: spans.isPartial },
  };
}

/** The period that a card's number is about: its own, else the scope's. */
const periodOfCard = (applied: readonly Applied[]): Applied | undefined =>
  applied.find(({ from }) => from === 'period') ??
  applied.findLast(({ from, period }) => from === 'clause' && period !== undefined);

function cardSpans(pane: CardPane, period: Parameters<typeof resolvePeriod>[0], clock: Context['clock']) {
  const now = resolvePeriod(period, clock);
  const before = pane.against === 'none' ? null : periodBefore(period, clock);
  if (pane.against !== 'sameTime' || !before?.from || !now.from || !now.to || now.to <= clock.now)
    return { now, before, isPartial: false };
  return {
    now: { ...now, to: clock.now },
    before: { ...before, to: sameTimeBefore(now.from, before, clock) },
    isPartial: true,
  };
}

/** As far as it had got: as many days into the period before, at the same time by the clock on the wall. */
function sameTimeBefore(from: Date, before: Span, { now, zone }: Context['clock']): Date {
  const begun = before.from ?? now;
  const days = daysBetween(dayOf(from, zone), dayOf(now, zone));
  const passed =
    days === 0
      ? now.getTime() - from.getTime()
      : now.getTime() - startOfDayIn(dayOf(now, zone), zone).getTime();
  const day = days === 0 ? begun : startOfDayIn(shiftDay(dayOf(begun, zone), 'day', days), zone);
  const at = new Date(day.getTime() + passed);
  return before.to && at > before.to ? before.to : at;
}

const daysBetween = (from: string, to: string): number =>
  Math.round((Date.parse(`${to}T00:00:00Z`) - Date.parse(`${from}T00:00:00Z`)) / 86_400_000);

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
  const page = view.page ?? 1;
  const shown = pane.columns.filter(({ hidden }) => !hidden).map(({ field }) => field);
  const known = (name: string): boolean =>
    shown.includes(name) && dataSet.fields.some((each) => each.name === name);
  const chosen = view.order?.filter(({ by }) => known(by)) ?? [];
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
