import { z } from 'zod';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Cell } from '#core/field/value.ts';
import { relationOf } from '#core/flow/applies.ts';
import { type Context, dataSetOf, shortNames } from '#core/flow/context.ts';
import { counterpart } from '#core/flow/reach.ts';
import { formatCell, formatUnit } from '#core/format/format.ts';
import { measureOf } from '#core/measure/plan.ts';
import { ask, keyAndTitle } from '#core/pane/ask.ts';
import type { DetailBody, TableBody } from '#core/pane/result.ts';
import type { Pane } from '#core/pane/schema.ts';
import { type ShownMeasure, shownMeasure } from '#core/pane/shape.ts';
import { recordsBehind } from '#core/plan/behind.ts';
import type { GroupsPlan, RecordsPlan } from '#core/plan/plan.ts';
import { ProblemError } from '#core/problem/problem.ts';
import { countRecords, runPlan } from '../records.ts';
import { shownField } from './run.ts';

/** A number of a pane: the values of its groups. `before` asks for the period it is compared with. */
export const CellAddress = z.object({
  pane: z.string().max(60),
  values: z
    .array(z.union([z.string().max(2000), z.number(), z.boolean(), z.null()]))
    .max(2)
    .default([]),
  restOf: z
    .array(z.union([z.string().max(2000), z.number(), z.boolean(), z.null()]))
    .max(50)
    .optional(),
  before: z.boolean().optional(),
});
export type CellAddress = z.infer<typeof CellAddress>;

export interface Behind {
  readonly table: TableBody;
  readonly dataSet: string;
  readonly key: string | null;
  readonly measure: ShownMeasure;
  /** The measure over these very records: the number that was opened. */
  readonly value: Cell;
  /** What the number is of: "cause weather". */
  readonly of: string;
}

const pageSize = 25;
const mostColumns = 12;
const gone = (what: string): ProblemError =>
  new ProblemError({
    code: 'missing',
    doing: 'opening what is behind',
    why: `${what} is not on this dashboard`,
    mend: 'Close this and choose again.',
  });

/** The records behind a number, a page at a time, with the number computed over them again. */
export async function openBehind(
  address: CellAddress,
  page: number,
  context: Context,
  signal?: AbortSignal,
): Promise<Behind> {
  const pane = context.dashboard.panes.find(({ id }) => id === address.pane);
  const dataSet = pane && context.dataSets.get(pane.dataSet);
  if (!pane || !dataSet || (pane.kind !== 'card' && pane.kind !== 'chart')) throw gone('that pane');
  const asked = ask(pane, context);
  if (asked.state !== 'card' && asked.state !== 'chart') throw gone('that number');
  const measure = asked.plan.measures[address.before ? 1 : 0];
  if (!measure) throw gone('that number');
  const fields = dataSet.fields
    .filter(({ hidden }) => !hidden)
    .slice(0, mostColumns)
    .map(({ name }) => name);
  const chosen = address.restOf
    ? { values: address.values, restOf: address.restOf }
    : { values: address.values };
  const plan: RecordsPlan = recordsBehind(asked.plan, chosen, measure, {
    fields: [...new Set([...fields, ...keyAndTitle(dataSet)])],
    order: [],
    ...(dataSet.key === undefined ? {} : { key: dataSet.key }),
    offset: (page - 1) * pageSize,
    limit: pageSize,
  });
  const asking = {
    doing: `opening what is behind “${pane.title}”`,
    signal,
  };
  const again: GroupsPlan = {
    kind: 'groups',
    from: plan.from,
    zone: plan.zone,
    where: cellWhere(asked.plan, chosen),
    by: [],
    measures: [measure],
    order: [],
    limit: 1,
  };
  const [found, total, numbers] = await Promise.all([
    runPlan(plan, asking),
    countRecords(plan, asking),
    runPlan(again, asking),
  ]);
  return {
    table: {
      kind: 'table',
      fields: plan.fields.map((name) =>
        shownField(dataSet.fields.find((field) => field.name === name) ?? { name, type: 'text' }),
      ),
      records: found.records,
      total,
      page,
      noun: dataSet.noun,
    },
    dataSet: shortNames(context.dashboard, context.dataSets).get(pane.dataSet) ?? '',
    key: dataSet.key ?? null,
    measure: shownMeasure(measureOf(dataSet, pane.measure), dataSet.fields),
    value: numbers.records[0]?.[0] ?? null,
    of: cellWords(pane, dataSet, address, context),
  };
}

/** The condition of the cell's groups alone: a share or average is computed over all of them. */
function cellWhere(plan: GroupsPlan, cell: { values: readonly Cell[]; restOf?: readonly Cell[] }) {
  const page = { fields: [], order: [], offset: 0, limit: 1 };
  return recordsBehind(plan, cell, { name: 'all', calculation: { kind: 'count' } }, page).where;
}

function cellWords(
  pane: Pane,
  dataSet: DataSet,
  { values, restOf }: CellAddress,
  { clock }: Context,
): string {
  if (pane.kind !== 'chart') return '';
  const parts = values.map((value, index) => {
    const name = index === 0 ? pane.by.field : (pane.split ?? '');
    const field = dataSet.fields.find((each) => each.name === name);
    if (index === 0 && restOf) return 'the rest';
    if (index === 0 && pane.by.unit && typeof value === 'string')
      return `${pane.by.unit === 'week' ? 'week of ' : ''}${formatUnit(value, pane.by.unit, clock.zone)}`;
    return value === null
      ? `no ${field?.label?.toLowerCase() ?? name}`
      : formatCell(value, field ?? { type: 'text' }, clock.zone);
  });
  return parts.join(', ');
}

export interface RelatedRecords {
  readonly dataSet: string;
  readonly noun: string;
  readonly table: TableBody;
  readonly key: string | null;
}

export interface OpenedRecord {
  readonly detail: DetailBody;
  readonly dataSet: string;
  /** Records of other data sets on the dashboard that refer to this one. */
  readonly related: readonly RelatedRecords[];
}

/** One record with all its fields, and what refers to it. */
export async function openRecord(
  short: string,
  key: string,
  context: Context,
  signal?: AbortSignal,
): Promise<OpenedRecord> {
  const dataSet = dataSetOf(short, context);
  if (!dataSet || dataSet.key === undefined) throw gone(`the data set “${short}”`);
  const asking = {
    doing: `opening ${dataSet.noun.one} ${key}`,
    signal,
  };
  const { zone } = context.clock;
  const fields = dataSet.fields.filter(({ hidden }) => !hidden).map(({ name }) => name);
  const shown = [...new Set([...fields, ...keyAndTitle(dataSet)])];
  const from = relationOf(dataSet, context).relation;
  const where = { field: dataSet.key, test: { op: 'same' as const, value: key } };
  const others = [...shortNames(context.dashboard, context.dataSets)].flatMap(([id, name]) => {
    const other = context.dataSets.get(id);
    const link = other && other !== dataSet && dataSet.key ? counterpart(dataSet.key, dataSet, other) : null;
    return other && link && link !== other.key && other.inputs.every(({ required }) => !required)
      ? [{ name, other, link }]
      : [];
  });
  const [{ records }, ...related] = await Promise.all([
    runPlan({ kind: 'records', from, where, zone, fields: shown, order: [], offset: 0, limit: 1 }, asking),
    ...others.map(async ({ name, other, link }): Promise<RelatedRecords> => {
      const columns = other.fields
        .filter(({ hidden, name: field }) => !hidden && field !== link)
        .slice(0, 5)
        .map((field) => field.name);
      const plan: RecordsPlan = {
        kind: 'records',
        from: relationOf(other, context).relation,
        where: { field: link, test: { op: 'same', value: key } },
        zone,
        fields: [...new Set([...columns, ...keyAndTitle(other)])],
        order: [],
        ...(other.key === undefined ? {} : { key: other.key }),
        offset: 0,
        limit: 10,
      };
      const [found, total] = await Promise.all([runPlan(plan, asking), countRecords(plan, asking)]);
      const table: TableBody = {
        kind: 'table',
        fields: plan.fields.map((field) =>
          shownField(other.fields.find((each) => each.name === field) ?? { name: field, type: 'text' }),
        ),
        records: found.records,
        total,
        page: 1,
        noun: other.noun,
      };
      return { dataSet: name, noun: other.noun.many, table, key: other.key ?? null };
    }),
  ]);
  const titleAt = dataSet.title === undefined ? -1 : shown.indexOf(dataSet.title);
  const [record = null] = records;
  return {
    dataSet: short,
    detail: {
      kind: 'detail',
      fields: shown.map((name) =>
        shownField(dataSet.fields.find((field) => field.name === name) ?? { name, type: 'text' }),
      ),
      record,
      title: record && titleAt >= 0 ? String(record[titleAt] ?? '') : null,
      noun: dataSet.noun,
    },
    related,
  };
}
