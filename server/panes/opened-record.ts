import type { Filter } from '#core/ask/condition/resolve.ts';
import { valueSaid } from '#core/change/words.ts';
import { casesOf, inCase } from '#core/dashboard/flow/cases.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import { counterpart } from '#core/dashboard/flow/counterpart.ts';
import { recordFields } from '#core/dashboard/flow/offered.ts';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { fieldOf, type RecordList, type ShownRecord, shownField } from '#core/dashboard/pane/shown.ts';
import type { PaneUse } from '#core/dashboard/pane/use.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import { keyAndTitle } from '#core/dataset/naming.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { type Cell, labelOf } from '#core/value/field/value.ts';
import { countRecords, runPlan } from '../records/run.ts';
import { historyOf } from '../store/changes.ts';
import { placeOfRecords } from '../store/record-place.ts';
import { gone } from './gone.ts';
import { type OffersFrom, recordOffers } from './offers-from.ts';
import { recordsPlan } from './records-plan.ts';
import { runPane } from './run.ts';

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
    // Of a record that is not shown nothing is told, whatever was done to it.
    isThere
      ? placeOfRecords(use.dataSet, dataSet).then((place) => pastOf(place, dataSet, from.key, shown, context))
      : [],
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
