import { type Filter, resolveCondition } from '#core/ask/condition/resolve.ts';
import type { ChangeLook, LookedAt } from '#core/change/answer.ts';
import type { Values } from '#core/change/change.ts';
import { rulesAbout } from '#core/change/rules.ts';
import { confirmWords } from '#core/change/words.ts';
import { appliedTo, relationOf } from '#core/dashboard/flow/applies.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import { keyAndTitle } from '#core/dataset/naming.ts';
import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import { cellText } from '#core/value/field/value.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { paneFilter } from '../panes/visible.ts';
import { runPlan } from '../records/run.ts';
import { openSource } from '../sources/open.ts';
import { askedFields, rulesShown } from './asked.ts';
import { linesLook, linesOf } from './lines.ts';
import { placeOf, type Subject } from './subject.ts';

/* What would be changed: the records as they are now, and what is asked for. */

/**
 * The records that a change is meant for, of those that the pane can show and the action is offered for, as they are now; and how many of
 * those that were meant are none of them. `by`: the field that the keys are of, where that is another than the key.
 */
export async function recordsFor(
  { use, dataSet, action, most }: Subject,
  keys: readonly string[] | 'all',
  context: Context,
  signal?: AbortSignal,
  by?: string,
): Promise<{ readonly records: LookedAt[]; readonly leftOut: number }> {
  const doing = `looking at the ${dataSet.noun.many} that “${action.label}” is for`;
  if (keys !== 'all' && keys.length > most) throw tooMany(doing, most, dataSet.noun.many);
  const { relation, missing } = relationOf(dataSet, context);
  if (missing)
    throw new ProblemError({
      code: 'bad-request',
      doing,
      why: `nothing says which ${missing.label} it is about`,
      mend: `Choose a ${missing.label} first.`,
    });
  const key = dataSet.key ?? '';
  const sets = action.sets.map(({ field }) => field);
  const beside = [
    ...new Set(rulesAbout(dataSet.changes?.rules, sets).flatMap(({ field, than }) => [field, than])),
  ].filter((name) => !sets.includes(name));
  const fields = [...new Set([...keyAndTitle(dataSet), ...sets, ...beside])];
  const shown =
    keys === 'all'
      ? allOf(appliedTo(use, dataSet, context).map(({ filter }) => filter))
      : allOf([
          paneFilter(use, dataSet, context),
          { field: by ?? key, test: { op: 'is', values: [...keys] } },
        ]);
  const offered = action.where
    ? resolveCondition(action.where, dataSet.fields, context.clock, { person: context.person })
    : null;
  const plan = (where: RecordsPlan['where'], wanted: readonly string[]): RecordsPlan => ({
    kind: 'records',
    from: relation,
    zone: context.clock.zone,
    where,
    fields: [...wanted],
    order: [],
    key,
    offset: 0,
    limit: most + 1,
  });
  const [found, every] = await Promise.all([
    runPlan(plan(allOf([shown, offered]), fields), { doing, signal }),
    keys === 'all' && offered ? runPlan(plan(shown, [key]), { doing, signal }) : null,
  ]);
  if (found.records.length > most) throw tooMany(doing, most, dataSet.noun.many);
  const titleAt = fields.indexOf(dataSet.title ?? key);
  const records = found.records.map((cells): LookedAt => {
    const own = cellText(cells[fields.indexOf(key)] ?? null) ?? '';
    const of = (names: readonly string[]): Values =>
      Object.fromEntries(names.map((name) => [name, cellText(cells[fields.indexOf(name)] ?? null)]));
    return {
      key: own,
      title: cellText(cells[titleAt] ?? null) ?? own,
      saw: of(sets),
      beside: of(beside),
    };
  });
  const all = keys === 'all' ? (every?.records.length ?? records.length) : new Set(keys).size;
  return { records, leftOut: Math.max(0, all - records.length) };
}

/** This many records are sent one by one, since each waits for the one before. */
export const mostOneByOne = 200;

export const tooMany = (doing: string, most: number, many: string): ProblemError =>
  new ProblemError({
    code: 'too-much',
    doing,
    why: `it may be done to ${formatNumber(String(most))} ${most === 1 ? 'at a time' : `${many} at once`}, and these are more`,
    mend: 'Mark fewer, or narrow what the page shows.',
  });

/** What is asked for, and what is about to be done, of a change of these records. */
export async function lookAt(
  subject: Subject,
  keys: readonly string[] | 'all',
  context: Context,
  signal?: AbortSignal,
): Promise<ChangeLook> {
  const { dataSet, action } = subject;
  const isNew = action.way === 'insert';
  const { records, leftOut } = isNew
    ? { records: [], leftOut: 0 }
    : await recordsFor(subject, keys, context, signal);
  const shown = subject.use.shows(dataSet);
  const { changes: changer } = await openSource(dataSet.source);
  const oneByOne = changer?.together === false;
  if (oneByOne && records.length > mostOneByOne)
    throw tooMany(`“${action.label}”`, mostOneByOne, dataSet.noun.many);
  const place = placeOf(dataSet, context.dataSets);
  const meantFor = isNew ? appliedTo(subject.use, dataSet, context).map(({ filter }) => filter) : [];
  const beginsWith = (name: string): string | null => {
    const [first, ...others] = isNew
      ? [givenValue(meantFor, name)]
      : records.map(({ saw }) => saw[name] ?? null);
    return others.every((other) => other === first) ? (first ?? null) : null;
  };
  const [fields, lines] = await Promise.all([
    askedFields({ dataSet, action, place, beginsWith }, context.clock, signal),
    linesOf(subject, context),
  ]);
  return {
    label: action.label,
    tone: action.tone ?? null,
    way: action.way,
    sentence: confirmWords(action, records.length, dataSet, context.clock),
    // What no pane shows is compared on the server alone.
    records: records.map((record) => ({ ...record, beside: onlyOf(record.beside, shown) })),
    leftOut,
    noun: dataSet.noun,
    fields,
    rules: rulesShown(dataSet, action),
    lines: lines && (await linesLook(lines, context, signal)),
    oneByOne: oneByOne && records.length > 1,
  };
}

/** Those of some values that have these names. */
export const onlyOf = (values: Values, names: readonly string[]): Values =>
  Object.fromEntries(Object.entries(values).filter(([name]) => names.includes(name)));

/** What a field is in all that the pane shows, where what is picked or filtered says one value: what is added there is meant to be of it. */
function givenValue(filters: readonly Filter[], field: string): string | null {
  for (const filter of filters) {
    if ('all' in filter) {
      const found = givenValue(filter.all, field);
      if (found !== null) return found;
    } else if ('field' in filter && filter.field === field) {
      const { test } = filter;
      if (test.op === 'same') return test.value;
      if (test.op === 'is' && test.values.length === 1) return test.values[0] ?? null;
    }
  }
  return null;
}
