import { type Filter, resolveCondition } from '#core/ask/condition/resolve.ts';
import type { AskedField, ChangeLook, LookedAt } from '#core/change/answer.ts';
import type { Values } from '#core/change/change.ts';
import { rulesAbout, ruleWords } from '#core/change/rules.ts';
import { allowedOf } from '#core/change/values.ts';
import { confirmWords, valueSaid } from '#core/change/words.ts';
import { appliedTo, relationOf } from '#core/dashboard/flow/applies.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import { keyAndTitle } from '#core/dataset/naming.ts';
import { columnsOfTable, oneTable } from '#core/dataset/one-table.ts';
import type { Column, DataSet } from '#core/dataset/schema.ts';
import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import { cellText, labelOf } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { paneFilter } from '../panes/visible.ts';
import { runPlan } from '../records/run.ts';
import { openSource } from '../sources/open.ts';
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
    why: `it may be done to ${most.toLocaleString('en-GB')} ${most === 1 ? 'at a time' : `${many} at once`}, and these are more`,
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
  const inputs = action.sets.filter(({ to }) => to.kind === 'ask');
  const named = new Map(
    await Promise.all(
      inputs.map(
        async ({ field }) => [field, await namedChoices(dataSet, place.columnOf(field), signal)] as const,
      ),
    ),
  );
  const fields = inputs.flatMap(({ field: name, to }): AskedField[] => {
    if (to.kind !== 'ask') return [];
    const target = place.targetOf(name);
    const known = dataSet.fields.find((field) => field.name === name);
    const field = known ?? target.field;
    const [first, ...others] = isNew
      ? [givenValue(meantFor, name)]
      : records.map(({ saw }) => saw[name] ?? null);
    const allowed = allowedOf(target);
    return [
      {
        field: {
          name,
          type: field.type,
          ...(known?.unit ? { unit: known.unit } : {}),
          ...(known?.format ? { format: known.format } : {}),
          ...(known?.states ? { states: known.states } : {}),
          ...(known?.group === undefined ? {} : { group: known.group }),
        },
        label: labelOf(field),
        isRequired: to.required === true || target.column.filled === true,
        choices:
          allowed?.map((value) => ({ value, words: valueSaid(known, value, context.clock) })) ??
          named.get(name) ??
          null,
        value: others.every((other) => other === first) ? (first ?? null) : null,
        longest: target.column.longest ?? null,
      },
    ];
  });
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
    rules: rulesAbout(
      dataSet.changes?.rules,
      action.sets.map(({ field }) => field),
    ).map((rule) => ({
      rule,
      words: ruleWords(rule, dataSet.fields),
      fields: dataSet.fields
        .filter(({ name }) => name === rule.field || name === rule.than)
        .map(({ name, type }) => ({ name, type })),
    })),
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

/** More records than this are no list to choose from. */
const mostChoices = 500;

/** The records that a column points at, by the names that the data set looks up; null where it does not, or there are too many. */
export async function namedChoices(
  { source, request: asked }: DataSet,
  column: Column,
  signal: AbortSignal | undefined,
): Promise<{ value: string; words: string }[] | null> {
  const lookUp = oneTable(asked)?.lookUps.find(({ by, from }) => by === column.column && from === undefined);
  const name = lookUp?.take.find(({ type }) => type === 'text');
  if (!lookUp || !name) return null;
  const key: Column = { ...column, column: lookUp.key, name: 'key' };
  const title: Column = { ...name, name: 'name' };
  const { records } = await runPlan(
    {
      kind: 'records',
      from: {
        source,
        request: columnsOfTable(lookUp.schema, lookUp.table, [key, title]),
        inputs: {},
        fields: [key, title].map(({ name: field, type }) => ({ name: field, type })),
      },
      zone: 'UTC',
      where: allOf([]),
      fields: ['key', 'name'],
      order: [{ by: 'name' }],
      key: 'key',
      offset: 0,
      limit: mostChoices + 1,
    },
    { doing: 'listing what can be chosen', signal },
  );
  if (records.length > mostChoices) return null;
  return records.flatMap(([value, words]) =>
    value === null || value === undefined ? [] : [{ value: String(value), words: String(words ?? value) }],
  );
}
