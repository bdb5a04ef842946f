import { z } from 'zod';
import { ask } from '#core/dashboard/flow/ask.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import { recordFields } from '#core/dashboard/flow/offered.ts';
import { type ListOrder, orderOf } from '#core/dashboard/pane/list-view.ts';
import { searchFilter } from '#core/dashboard/pane/search.ts';
import {
  fieldOf,
  type RecordList,
  type ShownMeasure,
  shownField,
  shownMeasure,
} from '#core/dashboard/pane/shown.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import { type CellGroups, recordsBehind } from '#core/plan/behind.ts';
import { allOf, type GroupsPlan, type RecordsPlan } from '#core/plan/plan.ts';
import { Bins } from '#core/value/bins/schema.ts';
import type { Cell } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { countRecords, runPlan } from '../records/run.ts';
import { gone } from './gone.ts';
import { type OffersFrom, offersFrom } from './offers-from.ts';

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
