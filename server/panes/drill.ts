import { z } from 'zod';
import type { Filter } from '#core/ask/condition/resolve.ts';
import { recordPlace } from '#core/change/place.ts';
import { valueSaid } from '#core/change/words.ts';
import { ask } from '#core/dashboard/flow/ask.ts';
import { casesOf, inCase } from '#core/dashboard/flow/cases.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import { counterpart } from '#core/dashboard/flow/counterpart.ts';
import { recordFields } from '#core/dashboard/flow/offered.ts';
import { type ListOrder, orderOf } from '#core/dashboard/pane/list-view.ts';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { searchFilter } from '#core/dashboard/pane/search.ts';
import {
  fieldOf,
  type RecordList,
  type ShownMeasure,
  type ShownRecord,
  shownField,
  shownMeasure,
} from '#core/dashboard/pane/shown.ts';
import type { PaneUse } from '#core/dashboard/pane/use.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import { keyAndTitle } from '#core/dataset/naming.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { type CellGroups, recordsBehind } from '#core/plan/behind.ts';
import { allOf, type GroupsPlan, type RecordsPlan } from '#core/plan/plan.ts';
import { Bins } from '#core/value/bins/schema.ts';
import { type Cell, labelOf } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { countRecords, runPlan } from '../records/run.ts';
import { historyOf } from '../store/changes.ts';
import { type OffersFrom, offersFrom, recordOffers } from './offers-from.ts';
import { recordsPlan } from './records-plan.ts';
import { runPane } from './run.ts';

/** A number of a pane is of at most this many groups. */
const mostGroups = 8;

/** A number of a pane: the values of its groups. `before` asks for the period it is compared with. */
export const CellAddress = z.object({
  pane: z.string().max(60),
  values: z
    .array(z.union([z.string().max(2000), z.number(), z.boolean(), z.null()]))
    .max(mostGroups)
    .default([]),
  of: z
    .array(
      z
        .int()
        .min(0)
        .max(mostGroups - 1),
    )
    .max(mostGroups)
    .optional(),
  measure: z.int().min(0).max(20).optional(),
  restOf: z
    .array(z.union([z.string().max(2000), z.number(), z.boolean(), z.null()]))
    .max(50)
    .optional(),
  before: z.boolean().optional(),
  bins: Bins.optional(),
});
export type CellAddress = z.infer<typeof CellAddress>;

/** The number that an address speaks of; null where it speaks of none. */
export function cellOf(params: URLSearchParams): CellAddress | null {
  try {
    return CellAddress.parse(JSON.parse(params.get('_cell') ?? ''));
  } catch {
    return null;
  }
}

export interface Behind {
  readonly table: RecordList;
  readonly key: string | null;
  readonly title: string | null;
  readonly measure: ShownMeasure;
  /** The measure over these very records: the number that was opened. */
  readonly value: Cell;
  /** Of a share: how many records are in it, and of how many, as exact texts. */
  readonly part: string | null;
  readonly outOf: string | null;
  /** What the number is of: "cause weather". */
  readonly of: string;
  readonly offers: OffersFrom | null;
}

/** How the records behind a number are looked at. */
export interface BehindView {
  /** From 1. */
  readonly page: number;
  readonly search?: string | undefined;
  readonly order?: ListOrder | undefined;
}

const pageSize = 25;

/** Reads how the records behind a number are looked at from the parameters of an address. */
export const behindViewOf = (params: URLSearchParams): BehindView => ({
  page: Math.min(1_000_000, Math.max(1, Math.trunc(Number(params.get('_page'))) || 1)),
  search: (params.get('_find') ?? '').slice(0, 500),
  order: orderOf(params.getAll('_order').slice(0, 8)),
});

const gone = (what: string): ProblemError =>
  new ProblemError({
    code: 'missing',
    doing: 'opening what is behind',
    why: `${what} is not on this dashboard`,
    mend: 'Close this and choose again.',
  });

/** What a number is worked out of, and the plan of the records behind it. Throws a {@link ProblemError}. */
export function behindPlan({ pane: id, ...address }: CellAddress, view: BehindView, context: Context) {
  const pane = context.dashboard.panes.find((each) => each.id === id);
  if (!pane) throw gone('that pane');
  const question = ask(pane, context);
  const opened = question.state === 'asking' ? question.number?.(address) : null;
  if (!opened) throw gone('that number');
  const use = usesOf(pane)[opened.use];
  const dataSet = use && context.dataSets.get(use.dataSet);
  if (!use || !dataSet) throw gone('that number');
  const fields = recordFields(use, context.dashboard, dataSet);
  const chosen = {
    values: address.values,
    of: address.of,
    ...(address.restOf ? { restOf: address.restOf } : {}),
  };
  const found = recordsBehind(opened.plan, chosen, opened.planned, {
    fields,
    order: view.order?.filter(({ by }) => fields.includes(by)) ?? [],
    ...(dataSet.key === undefined ? {} : { key: dataSet.key }),
    offset: (view.page - 1) * pageSize,
    limit: pageSize,
  });
  const plan: RecordsPlan = {
    ...found,
    where: allOf([found.where, searchFilter(view.search, fields, dataSet)]),
  };
  return { pane, use, dataSet, opened, chosen, plan };
}

/** The records behind a number, a page at a time, with the number computed over them again. */
export async function openBehind(
  address: CellAddress,
  view: BehindView,
  context: Context,
  signal?: AbortSignal,
): Promise<Behind> {
  const { pane, use, dataSet, opened, chosen, plan } = behindPlan(address, view, context);
  const measure = opened.planned;
  const asking = {
    doing: `opening what is behind “${pane.title}”`,
    signal,
  };
  const again: GroupsPlan = {
    kind: 'groups',
    from: plan.from,
    zone: plan.zone,
    where: cellWhere(opened.plan, chosen),
    by: [],
    measures: [
      measure,
      ...(measure.calculation.kind === 'share'
        ? [
            {
              name: 'out of',
              calculation: { kind: 'count' as const },
              where: allOf([measure.where ?? null]),
            },
            {
              name: 'part',
              calculation: { kind: 'count' as const },
              where: allOf([measure.where ?? null, measure.calculation.where]),
            },
          ]
        : []),
    ],
    order: [],
    limit: 1,
  };
  const [found, total, numbers] = await Promise.all([
    runPlan(plan, asking),
    countRecords(plan, asking),
    runPlan(again, asking),
  ]);
  const [value = null, outOf = null, part = null] = numbers.records[0] ?? [];
  return {
    table: {
      fields: plan.fields.map((name) => shownField(fieldOf(dataSet, name))),
      records: found.records,
      total,
      page: view.page,
      noun: dataSet.noun,
    },
    key: dataSet.key ?? null,
    title: dataSet.title ?? null,
    measure: shownMeasure(opened.measure, dataSet.fields),
    value,
    part: part === null ? null : String(part),
    outOf: outOf === null ? null : String(outOf),
    of: opened.words,
    offers: dataSet.key === undefined ? null : (offersFrom(pane, use.dataSet, context)[0] ?? null),
  };
}

/** The condition of the cell's groups alone: a share or average is computed over all of them. */
function cellWhere(plan: GroupsPlan, cell: CellGroups) {
  const page = { fields: [], order: [], offset: 0, limit: 1 };
  return recordsBehind(plan, cell, { name: 'all', calculation: { kind: 'count' } }, page).where;
}

export interface RelatedRecords {
  /** The pane whose records these are: its fields, under its conditions. */
  readonly pane: string;
  readonly noun: string;
  readonly table: RecordList;
  readonly key: string | null;
  readonly title: string | null;
}
/** What was done to a record, as its history tells it: of the fields that it shows. */
export interface PastChange {
  readonly at: string;
  readonly by: string;
  readonly words: string;
  readonly fields: readonly { readonly label: string; readonly before: string; readonly after: string }[];
}
export interface OpenedRecord {
  readonly detail: ShownRecord;
  readonly offers: OffersFrom | null;
  /** People note what they learnt about it. */
  readonly isFollowedUp: boolean;
  /** What was done to it here, latest first. */
  readonly history: readonly PastChange[];
  /** The panes that follow what it is, or is of, each as it is of that. */
  readonly cases: readonly { readonly pane: string; readonly result: PaneResult }[];
  /** Records of other panes that refer to this one. */
  readonly related: readonly RelatedRecords[];
}

const mostRelated = 10;

interface RecordAddress {
  readonly pane: string;
  readonly key: string;
}

/** A record as the pane that it is opened from has it: under the pane's conditions, with the pane's fields. */
export async function findRecord(
  from: RecordAddress,
  context: Context,
  signal?: AbortSignal,
): Promise<{ pane: Pane; use: PaneUse; dataSet: DataSet; detail: ShownRecord }> {
  const { dashboard, dataSets } = context;
  const pane = dashboard.panes.find(({ id }) => id === from.pane);
  const opened = pane && withKeyOf(pane, dataSets);
  if (!opened) throw gone('what this record was opened from');
  const { use, dataSet, key } = opened;
  const fields = recordFields(use, dashboard, dataSet);
  const where: Filter = { field: key, test: { op: 'same', value: from.key } };
  const plan = recordsPlan(use, dataSet, { where, fields, limit: 1 }, context);
  const { records } = await runPlan(plan, { doing: `opening ${dataSet.noun.one} ${from.key}`, signal });
  const [record = null] = records;
  return {
    pane,
    use,
    dataSet,
    detail: {
      fields: fields.map((name) => shownField(fieldOf(dataSet, name))),
      record,
      title: titleIn(record, fields, dataSet),
      noun: dataSet.noun,
    },
  };
}

/**
 * A record (see {@link findRecord}) with what was done to it, what can be, what happened to it, and the records of other tables of the
 * dashboard that refer to it. What no pane shows is not found.
 */
export async function openRecord(
  from: RecordAddress,
  context: Context,
  signal?: AbortSignal,
): Promise<OpenedRecord> {
  const { pane, use, dataSet, detail } = await findRecord(from, context, signal);
  const isThere = detail.record !== null;
  const asking = { doing: `opening ${dataSet.noun.one} ${from.key}`, signal };
  const shown = detail.fields.map(({ name }) => name);
  const related = isThere ? relatedLists(use, dataSet, context) : [];
  const [offers, history, cases, lists] = await Promise.all([
    isThere ? recordOffers(pane, { id: use.dataSet, dataSet, key: from.key }, context, signal) : null,
    pastOf(recordPlace(use.dataSet, dataSet), dataSet, from.key, shown, context),
    Promise.all(
      casesOf(detail, dataSet, context.dashboard).map(async (of) => ({
        pane: of.pane.id,
        result: await runPane({ pane: of.pane, context: inCase(context, of), signal }),
      })),
    ),
    Promise.all(
      related.map(async ({ pane: list, use: other, dataSet: data, link }): Promise<RelatedRecords> => {
        const where: Filter = { field: link, test: { op: 'same', value: from.key } };
        const columns = (other.lists ?? []).filter((field) => field !== link);
        const fields = [...new Set([...columns, ...keyAndTitle(data)])];
        const relatedPlan = recordsPlan(other, data, { where, fields, limit: mostRelated }, context);
        const [found, total] = await Promise.all([
          runPlan(relatedPlan, asking),
          countRecords(relatedPlan, asking),
        ]);
        return {
          pane: list,
          noun: data.noun.many,
          key: data.key ?? null,
          title: data.title ?? null,
          table: {
            fields: fields.map((name) => shownField(fieldOf(data, name))),
            records: found.records,
            total,
            page: 1,
            noun: data.noun,
          },
        };
      }),
    ),
  ]);
  return {
    detail,
    offers,
    isFollowedUp: isThere && dataSet.followUp === true,
    history,
    cases,
    related: lists,
  };
}

const mostPast = 20;

async function pastOf(
  place: string,
  { fields }: DataSet,
  key: string,
  shown: readonly string[],
  { clock }: Context,
): Promise<PastChange[]> {
  const past = await historyOf(place, key, mostPast);
  return past.map(({ at, by, label, way, before, after }) => ({
    at: at.toISOString(),
    by,
    words: label,
    fields:
      way === 'remove'
        ? []
        : fields
            .filter(
              ({ name }) => shown.includes(name) && (before?.[name] ?? null) !== (after?.[name] ?? null),
            )
            .map((field) => ({
              label: labelOf(field),
              before: before ? valueSaid(field, before[field.name] ?? null, clock) : '',
              after: valueSaid(field, after?.[field.name] ?? null, clock),
            })),
  }));
}

/** The first of what a pane uses whose records can be opened. */
export function withKeyOf(
  pane: Pane,
  dataSets: Context['dataSets'],
): { use: PaneUse; dataSet: DataSet; key: string } | null {
  for (const use of usesOf(pane)) {
    const dataSet = dataSets.get(use.dataSet);
    if (dataSet?.key !== undefined) return { use, dataSet, key: dataSet.key };
  }
  return null;
}

interface Related {
  /** The pane's id. */
  readonly pane: string;
  readonly use: PaneUse;
  readonly dataSet: DataSet;
  readonly link: string;
}

/** The lists of records of other data sets which refer to those of a pane; the first of each data set. */
function relatedLists(
  { dataSet: ownId }: PaneUse,
  dataSet: DataSet,
  { dashboard, dataSets }: Context,
): Related[] {
  const seen = new Set([ownId]);
  return dashboard.panes.flatMap((pane) =>
    usesOf(pane).flatMap((use): Related[] => {
      const other = dataSets.get(use.dataSet);
      if (!use.lists || !other || seen.has(use.dataSet)) return [];
      const link = dataSet.key === undefined ? null : counterpart(dataSet.key, dataSet, other);
      if (link === null || link === other.key || other.inputs.some(({ required }) => required)) return [];
      seen.add(use.dataSet);
      return [{ pane: pane.id, use, dataSet: other, link }];
    }),
  );
}

function titleIn(
  record: readonly Cell[] | null,
  fields: readonly string[],
  { title }: DataSet,
): string | null {
  const cell = title === undefined ? null : record?.[fields.indexOf(title)];
  return cell === null || cell === undefined ? null : String(cell);
}
