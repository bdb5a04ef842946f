import { type Filter, isUnset, resolveCondition, withinSpan } from '#core/ask/condition/resolve.ts';
import type { Condition } from '#core/ask/condition/schema.ts';
import type { Applied } from '#core/dashboard/pane/kind.ts';
import type { PaneRecords } from '#core/dashboard/pane/shared.ts';
import type { PaneUse } from '#core/dashboard/pane/use.ts';
import type { Focus } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import { relationWith } from '#core/plan/relation.ts';
import type { Field } from '#core/value/field/field.ts';
import { isTemporal, meaningOf, parseValue } from '#core/value/field/value.ts';
import { spanOfGroup } from '#core/value/period/period.ts';
import { clauseField, givesInput } from './clauses.ts';
import { type Context, dataSetOf, testOf } from './context.ts';
import { counterpart } from './counterpart.ts';
import { ownConditions } from './offered.ts';
import { effectOf, needOf } from './reach.ts';

/** Whether a condition tests when something was. */
function isTimed(condition: Condition): boolean {
  if ('all' in condition) return condition.all.some(isTimed);
  if ('any' in condition) return condition.any.some(isTimed);
  if ('none' in condition) return condition.none.some(isTimed);
  return condition.test.op === 'during';
}

/** Whether a pane's own period stands in place of what a reader chooses of a field. */
export function hasOwnTime({ when }: PaneRecords, field: Field | undefined): boolean {
  if (when === undefined || !field || !isTemporal(field.type)) return false;
  return when === 'any' || when.field === field.name;
}

/** Whether a period that readers can choose reaches what a pane uses. */
export function hasReaderPeriod(
  use: PaneRecords,
  dataSet: DataSet,
  { dashboard, dataSets }: Pick<Context, 'dashboard' | 'dataSets'>,
): boolean {
  return dashboard.scope.some((clause) => {
    const name = clause.offer === 'dates' ? clauseField(clause, dataSets.get(clause.dataSet), dataSet) : null;
    const field = dataSet.fields.find((each) => each.name === name);
    return field !== undefined && !hasOwnTime(use, field);
  });
}

/** Every condition on what a pane uses, in the order in which they are said. */
export function appliedTo(
  use: PaneUse,
  dataSet: DataSet,
  context: Context,
  /** The case that was typed in the pane. */
  typed?: string,
): Applied[] {
  const { dashboard, dataSets, scope, clock } = context;
  const say = (from: Applied['from'], condition: Condition, name?: string): Applied => {
    const period =
      'field' in condition && condition.test.op === 'during'
        ? { field: condition.field, period: condition.test.period }
        : undefined;
    return {
      from,
      condition,
      filter: resolveCondition(condition, dataSet.fields, clock, { person: context.person }),
      isTimed: isTimed(condition),
      ...(name === undefined ? {} : { name }),
      ...(period ? { period } : {}),
    };
  };
  const fieldOf = (name: string): Field | undefined => dataSet.fields.find((each) => each.name === name);
  const applied: Applied[] = [];
  if (dataSet.keeping) applied.push(say('dataSet', dataSet.keeping));
  for (const condition of ownConditions(use, dataSet))
    applied.push(say(condition === use.keeping ? 'pane' : 'dataSet', condition));
  if (typeof use.when === 'object')
    applied.push(say('period', { field: use.when.field, test: { op: 'during', period: use.when.period } }));
  if (use.follows === 'scope') {
    for (const clause of dashboard.scope) {
      const test = testOf(clause, scope);
      const field = clauseField(clause, dataSets.get(clause.dataSet), dataSet);
      if (test && field && !isUnset(test) && !hasOwnTime(use, fieldOf(field)))
        applied.push(say('clause', { field, test }, clause.name));
    }
    for (const group of scope.own) {
      const parts = group.map((part) =>
        part.flatMap((own): Condition[] => {
          const of = dataSetOf(own.dataSet, context);
          const field = of && counterpart(own.field, of, dataSet);
          return field && !hasOwnTime(use, fieldOf(field)) ? [{ field, test: own.test }] : [];
        }),
      );
      if (parts.every((part, at) => part.length === group[at]?.length))
        applied.push(say('own', { any: parts.map((all) => (all.length === 1 && all[0]) || { all }) }));
    }
  }
  for (const focus of scope.focus) {
    const filter = focusFilter(focus, use, dataSet, context);
    if (filter) applied.push({ from: 'focus', condition: null, filter, isTimed: focus.unit !== undefined });
  }
  const linked = use.about ? caseFilter(use.about, context, typed) : linkFilter(use, dataSet, context);
  if (linked) applied.push({ from: 'focus', condition: null, filter: linked, isTimed: false });
  return applied;
}

/** Keeps what is of the case that was typed, else of the one that is looked at; null while there is none. */
function caseFilter(
  { meaning, field }: NonNullable<PaneUse['about']>,
  context: Context,
  typed: string | undefined,
): Filter | null {
  if (typed !== undefined) return { field, test: { op: 'is', values: [typed] } };
  const value = lookedAt(context).get(meaning);
  return value === undefined ? null : { field, test: { op: 'same', value } };
}

/** What a pane waits for may also be what a picked record refers to: then it shows that. */
function linkFilter(use: PaneUse, dataSet: DataSet, context: Context): Filter | null {
  const need = needOf(use, dataSet);
  if (need === null || pickedMeanings(context).has(need)) return null;
  const value = context.picked?.links[need];
  const field = dataSet.fields.find((each) => meaningOf(each) === need);
  return value !== undefined && field ? { field: field.name, test: { op: 'same', value } } : null;
}

function focusFilter(focus: Focus, use: PaneUse, dataSet: DataSet, context: Context): Filter | null {
  const picked = dataSetOf(focus.dataSet, context);
  if (!picked) return null;
  const effect = effectOf(focus, picked, use, dataSet);
  if (effect.kind !== 'narrows') return null;
  const field = dataSet.fields.find(({ name }) => name === effect.field);
  if (hasOwnTime(use, field)) return null;
  if (focus.value === null) return { field: effect.field, test: { op: 'blank' } };
  if (!focus.unit || !field) return { field: effect.field, test: { op: 'same', value: focus.value } };
  const span = spanOfGroup(focus.value, focus.unit, context.clock.zone);
  return { field: effect.field, test: withinSpan(field, span) };
}

/** What is picked, by what it means. */
function pickedMeanings(context: Context): Map<string, string> {
  const found = new Map<string, string>();
  for (const focus of context.scope.focus) {
    const field = dataSetOf(focus.dataSet, context)?.fields.find(({ name }) => name === focus.field);
    const meaning = field && meaningOf(field);
    if (meaning !== undefined && focus.value !== null && !focus.unit) found.set(meaning, focus.value);
  }
  return found;
}

/** The meanings of what is being looked at now: what is picked, else what picked records refer to. */
const lookedAt = (context: Context): Map<string, string> =>
  new Map([...Object.entries(context.picked?.links ?? {}), ...pickedMeanings(context)]);

/** An input's value where nothing supplies one; what is no value of its type is none. */
function initialOf({ type, initially }: DataSet['inputs'][number]): string | null {
  if (initially === undefined || initially === '') return null;
  const read = parseValue(type, initially);
  return read.ok ? read.value : null;
}

/** The meaning that a pane waits for with a use of it, and nobody has picked; null when it can be asked. */
export function waitsFor(use: PaneUse, dataSet: DataSet, context: Context): string | null {
  const need = use.about ? null : needOf(use, dataSet);
  return need !== null && !lookedAt(context).has(need) ? need : null;
}

const idOf = (dataSet: DataSet, { dataSets }: Context): string =>
  [...dataSets].find(([, each]) => each === dataSet)?.[0] ?? '';

/**
 * The relation of a data set with its inputs supplied: by what is being looked at, else by the clause of the same name
 * or meaning when it holds one value. A sample value is never used here. `missing` names a required input without one.
 */
export function relationOf(
  dataSet: DataSet,
  context: Context,
): { relation: Relation; missing: { label: string; refers: string | undefined } | null } {
  const looked = lookedAt(context);
  const fromClause = (input: DataSet['inputs'][number]): string | null => {
    for (const clause of context.dashboard.scope) {
      const test = testOf(clause, context.scope);
      const gives = givesInput(clause, context.dataSets.get(clause.dataSet), input);
      if (gives && test?.op === 'is' && test.values.length === 1) return test.values[0] ?? null;
    }
    return null;
  };
  const supplied = dataSet.inputs.map((input) => ({
    input,
    value:
      (input.refers !== undefined ? looked.get(input.refers) : undefined) ??
      fromClause(input) ??
      initialOf(input),
  }));
  const missing = supplied.find(({ input, value }) => input.required && value === null);
  return {
    relation: relationWith(
      dataSet,
      idOf(dataSet, context),
      Object.fromEntries(supplied.map(({ input, value }) => [input.name, { type: input.type, value }])),
      { world: context.dataSets, clock: context.clock, person: context.person },
    ),
    missing: missing
      ? {
          label: missing.input.label ?? missing.input.name.replaceAll('_', ' '),
          refers: missing.input.refers,
        }
      : null,
  };
}
