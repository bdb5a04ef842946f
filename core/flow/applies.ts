import { type Filter, isUnset, resolveCondition, withinSpan } from '#core/condition/resolve.ts';
import type { Condition } from '#core/condition/schema.ts';
import type { DataSet, Subset } from '#core/dataset/schema.ts';
import { meaningOf, parseValue } from '#core/field/value.ts';
import type { Pane } from '#core/pane/schema.ts';
import { spanOfGroup } from '#core/period/period.ts';
import type { Period } from '#core/period/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import { ProblemError } from '#core/problem/problem.ts';
import type { Focus } from '#core/scope/state.ts';
import { relationWith } from '#core/step/plan.ts';
import { type Context, dataSetOf, testOf } from './context.ts';
import { counterpart, effectOf, needOf } from './reach.ts';

/** One thing that narrows a pane, and who asked for it: what an empty pane is explained by. */
export interface Applied {
  readonly from: 'dataSet' | 'pane' | 'clause' | 'own' | 'focus';
  /** The clause's name, where a clause. */
  readonly name?: string;
  readonly condition: Condition | null;
  readonly filter: Filter;
  /** The period of a date clause, for comparing with the one before. */
  readonly period?: { field: string; period: Period };
}

/** Every condition on a pane, in the order in which they are said. */
export function appliedTo(pane: Pane, dataSet: DataSet, context: Context): Applied[] {
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
      ...(name === undefined ? {} : { name }),
      ...(period ? { period } : {}),
    };
  };
  const applied: Applied[] = [];
  if (dataSet.keeping) applied.push(say('dataSet', dataSet.keeping));
  const subset = pane.subset === undefined ? undefined : subsetOf(dataSet, pane.subset);
  if (subset) applied.push(say('dataSet', subset.where));
  if (pane.keeping) applied.push(say('pane', pane.keeping));
  if (pane.kind !== 'detail') {
    for (const clause of dashboard.scope) {
      const test = testOf(clause, scope);
      const of = dataSets.get(clause.dataSet);
      const field = of && counterpart(clause.field, of, dataSet);
      if (test && field && !isUnset(test)) applied.push(say('clause', { field, test }, clause.name));
    }
    for (const group of scope.own) {
      const tests = group.map((own) => {
        const of = dataSetOf(own.dataSet, context);
        const field = of && counterpart(own.field, of, dataSet);
        return field ? { field, test: own.test } : null;
      });
      if (tests.every((test) => test !== null)) applied.push(say('own', { any: tests }));
    }
  }
  for (const focus of scope.focus) {
    const filter = focusFilter(focus, pane, dataSet, context);
    if (filter) applied.push({ from: 'focus', condition: null, filter });
  }
  return applied;
}

/** A data set's subset by name. Throws a {@link ProblemError} when it has gone: all records are not what was meant. */
export function subsetOf(dataSet: DataSet, name: string): Subset {
  const found = dataSet.subsets?.find((subset) => subset.name === name);
  if (found) return found;
  throw new ProblemError({
    code: 'missing',
    doing: 'working out which records to show',
    why: `the data set of ${dataSet.noun.many} has no subset “${name}”`,
    mend: 'Choose another in the brief, or bring it back in the data set.',
  });
}

function focusFilter(focus: Focus, pane: Pane, dataSet: DataSet, context: Context): Filter | null {
  const picked = dataSetOf(focus.dataSet, context);
  if (!picked) return null;
  const effect = effectOf(focus, picked, pane, dataSet);
  if (effect.kind !== 'narrows') return null;
  const field = dataSet.fields.find(({ name }) => name === effect.field);
  if (focus.value === null) return { field: effect.field, test: { op: 'blank' } };
  if (!focus.unit || !field) return { field: effect.field, test: { op: 'same', value: focus.value } };
  const span = spanOfGroup(focus.value, focus.unit, context.clock.zone);
  return { field: effect.field, test: withinSpan(field, span) };
}

/** The meanings of what is being looked at now. */
function lookedAt(context: Context): Map<string, string> {
  const found = new Map<string, string>();
  for (const focus of context.scope.focus) {
    const field = dataSetOf(focus.dataSet, context)?.fields.find(({ name }) => name === focus.field);
    const meaning = field && meaningOf(field);
    if (meaning !== undefined && focus.value !== null && !focus.unit) found.set(meaning, focus.value);
  }
  return found;
}

/** An input's value where nothing supplies one; what is no value of its type is none. */
function initialOf({ type, initially }: DataSet['inputs'][number]): string | null {
  if (initially === undefined || initially === '') return null;
  const read = parseValue(type, initially);
  return read.ok ? read.value : null;
}

/** The meaning that a pane waits for and nobody has picked; null when it can be asked. */
export function waitsFor(pane: Pane, dataSet: DataSet, context: Context): string | null {
  const need = needOf(pane, dataSet);
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
): { relation: Relation; missing: string | null } {
  const looked = lookedAt(context);
  const fromClause = (name: string, refers: string | undefined): string | null => {
    for (const clause of context.dashboard.scope) {
      const test = testOf(clause, context.scope);
      const field = context.dataSets.get(clause.dataSet)?.fields.find((each) => each.name === clause.field);
      const fits = clause.name === name || (refers !== undefined && field && meaningOf(field) === refers);
      if (fits && test?.op === 'is' && test.values.length === 1) return test.values[0] ?? null;
    }
    return null;
  };
  const supplied = dataSet.inputs.map((input) => ({
    input,
    value:
      (input.refers !== undefined ? looked.get(input.refers) : undefined) ??
      fromClause(input.name, input.refers) ??
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
    missing: missing ? (missing.input.label ?? missing.input.name.replaceAll('_', ' ')) : null,
  };
}
