import type { LinesLook } from '#core/change/answer.ts';
import type { ChangedRecord, LineChange, Values } from '#core/change/change.ts';
import { lineAction, linesProblem } from '#core/change/lines.ts';
import { isFor } from '#core/change/offers.ts';
import { recordPlace } from '#core/change/place.ts';
import { brokenRules, rulesAbout, ruleWords } from '#core/change/rules.ts';
import { type Doing, valuesOf } from '#core/change/values.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { Action } from '#core/dataset/change/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { ChangedLines } from '#sources/change.ts';
import { kindOf } from '#sources/registry.ts';
import type { ChangedOne } from '../store/changes.ts';
import { findDataSets } from '../store/data-sets.ts';
import { findSource } from '../store/sources.ts';
import { askedFields, rulesShown } from './asked.ts';
import { columnsOf, type PlaceOfFields, placeOf, type Subject, toColumns, toFields } from './subject.ts';

/* What is added together with a record: a requisition with its lines. */

/** Where lines are, and what is asked of each. */
export interface LinesSubject {
  readonly dataSetId: string;
  readonly dataSet: DataSet;
  readonly action: Action;
  readonly refers: string;
  readonly member: string | null;
  readonly place: PlaceOfFields;
}

/** What is added together with the records of an action; null where nothing is. Throws a {@link ProblemError} where it cannot be. */
export async function linesOf(
  { dataSet, action }: Pick<Subject, 'dataSet' | 'action'>,
  { person }: Pick<Context, 'person'>,
): Promise<LinesSubject | null> {
  const { lines: said } = action;
  if (!said) return null;
  const [world, source] = await Promise.all([findDataSets([said.dataSet]), findSource(dataSet.source)]);
  const lines = world.get(said.dataSet);
  const adding = lines?.changes?.actions.find(({ name }) => name === said.action);
  const linesAs = source ? kindOf(source.connection).linesAs : null;
  const why =
    linesProblem(action, dataSet, lines, world, linesAs) ??
    (adding && !isFor(adding, person) ? 'its lines may be added by people of other groups alone' : null);
  if (why !== null || !lines || !adding)
    throw new ProblemError({
      code: 'bad-request',
      doing: `“${action.label}”`,
      why: why ?? 'the data set of its lines no longer exists',
      mend: 'Tell whoever looks after this dashboard.',
    });
  return {
    dataSetId: said.dataSet,
    dataSet: lines,
    action: lineAction(adding, said.refers),
    refers: said.refers,
    member: said.member ?? null,
    place: placeOf(lines, world),
  };
}

/** What is asked of each line. */
export const linesLook = async (
  { dataSet, action, place }: LinesSubject,
  { clock }: Pick<Context, 'clock'>,
  signal?: AbortSignal,
): Promise<LinesLook> => ({
  noun: dataSet.noun,
  fields: await askedFields({ dataSet, action, place, beginsWith: () => null }, clock, signal),
  rules: rulesShown(dataSet, action),
});

/** Lines as they are to be added, with what an action sets by itself; or what is wrong with each, by field. */
export function readLines(
  { dataSet, action, place }: LinesSubject,
  given: readonly Values[],
  doing: Doing,
):
  | { readonly ok: true; readonly lines: readonly Values[] }
  | { readonly ok: false; readonly wrong: readonly Readonly<Record<string, string>>[] } {
  const lines: Values[] = [];
  const wrong = given.map((each): Record<string, string> => {
    const read = valuesOf(action, each, place.targetOf, doing);
    if (!read.ok) return read.wrong;
    lines.push(read.values);
    const rules = rulesAbout(dataSet.changes?.rules, Object.keys(read.values));
    return Object.fromEntries(
      brokenRules(rules, read.values, dataSet.fields).map((rule) => [
        rule.field in read.values ? rule.field : rule.than,
        ruleWords(rule, dataSet.fields),
      ]),
    );
  });
  return wrong.some((each) => Object.keys(each).length > 0) ? { ok: false, wrong } : { ok: true, lines };
}

/** Lines of a batch: what is sent of them, and how each is noted once it was. */
export interface SentLines {
  readonly dataSetId: string;
  readonly dataSet: DataSet;
  readonly place: PlaceOfFields;
  readonly fields: readonly string[];
  readonly changed: ChangedLines;
  readonly named: (record: ChangedRecord) => ChangedOne;
}

function sentLines(
  {
    dataSetId,
    dataSet,
    refers,
    member,
    place,
  }: Omit<LinesSubject, 'action' | 'refers'> & { readonly refers: string | null },
  fields: readonly string[],
  changes: readonly LineChange[],
): SentLines {
  const all = [...new Set([...fields, ...(refers === null ? [] : [refers])])];
  const where = recordPlace(dataSetId, dataSet);
  const titleColumn = fields.includes(dataSet.title ?? '') ? place.columnOf(dataSet.title ?? '').name : '';
  return {
    dataSetId,
    dataSet,
    place,
    fields: all,
    changed: {
      place: place.place,
      columns: columnsOf(fields, place),
      refers: refers === null ? null : place.columnOf(refers),
      member,
      changes,
    },
    named: ({ key, before, after }) => ({
      place: where,
      key,
      title: (after ?? before)?.[titleColumn] ?? key,
      before: toFields(before, all, place),
      after: toFields(after, all, place),
    }),
  };
}

/** Lines that are added together with a record. */
export const linesToAdd = (subject: LinesSubject, lines: readonly Values[]): SentLines =>
  sentLines(
    subject,
    subject.action.sets.map(({ field }) => field),
    lines.map((values): LineChange => ({ way: 'insert', values: toColumns(values, subject.place) })),
  );

/** Lines that go before the record that they came with, as they were when they came. */
export function linesToRemove(
  { dataSetId, dataSet, place }: Pick<LinesSubject, 'dataSetId' | 'dataSet' | 'place'>,
  records: readonly ChangedOne[],
): SentLines {
  const fields = [...new Set(records.flatMap(({ after }) => Object.keys(after ?? {})))];
  return sentLines(
    { dataSetId, dataSet, refers: null, member: null, place },
    fields,
    records.map(({ key, after }) => ({ way: 'remove', key, expected: toColumns(after ?? {}, place) })),
  );
}
