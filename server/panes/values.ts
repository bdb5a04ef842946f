import { resolveCondition } from '#core/ask/condition/resolve.ts';
import { type Bin, binsOf } from '#core/ask/measure/bins.ts';
import { relationOf } from '#core/dashboard/flow/applies.ts';
import { clauseField } from '#core/dashboard/flow/clauses.ts';
import { type Context, dataSetNamed, testOf } from '#core/dashboard/flow/context.ts';
import { offeredFields } from '#core/dashboard/flow/offered.ts';
import type { Clause } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { allOf } from '#core/plan/plan.ts';
import type { Field } from '#core/value/field/field.ts';
import { placeInStates } from '#core/value/field/states.ts';
import { type Cell, isNumeric, labelOf } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { runPlan } from '../records/run.ts';
import { type ValueCounts, valueCounts } from '../value-counts.ts';
import { visibleFilter } from './visible.ts';

/** Values that exist, with how many records each has under the other clauses; and for numbers their range. */
export interface ClauseValues extends ValueCounts {
  readonly least: Cell;
  readonly greatest: Cell;
  /** How many records fall into each stretch of numbers; empty where there is nothing to draw. */
  readonly spread: readonly { bin: Bin; count: string }[];
}

/** The records of a data set that a reader may see, under every clause that is set except one. */
function underTheRest(id: string, dataSet: DataSet, context: Context, except?: Clause) {
  const others = context.dashboard.scope.flatMap((other) => {
    const test = testOf(other, context.scope);
    const at = clauseField(other, context.dataSets.get(other.dataSet), dataSet);
    return other !== except && test && at
      ? [resolveCondition({ field: at, test }, dataSet.fields, context.clock, { person: context.person })]
      : [];
  });
  return {
    kind: 'groups' as const,
    from: relationOf(dataSet, context).relation,
    zone: context.clock.zone,
    where: allOf([visibleFilter(id, dataSet, context), ...others]),
  };
}

/** Values with the states of their field first, in their order. */
const inOrder = ({ values, more }: ValueCounts, { states }: Field): ValueCounts => ({
  values: [...values].sort((a, b) => placeInStates(a.value, states) - placeInStates(b.value, states)),
  more,
});

/**
 * The values of a field that a reader may narrow by, under the rest of the sentence; `path` as in addresses. Throws a
 * {@link ProblemError} for any other field as for one that does not exist.
 */
export async function fieldValues(
  path: string,
  find: string,
  context: Context,
  signal?: AbortSignal,
): Promise<ValueCounts> {
  const [name = '', ...rest] = path.split('.');
  const named = dataSetNamed(name, context);
  const offered = named && offeredFields(context.dashboard, named.id, named.dataSet);
  const field = named?.dataSet.fields.find((each) => each.name === rest.join('.'));
  if (!named || !field || !offered?.includes(field.name))
    throw new ProblemError({
      code: 'missing',
      doing: 'finding values',
      why: `there is no field “${path}”`,
      mend: 'Reload the page.',
    });
  const under = underTheRest(named.id, named.dataSet, context);
  const doing = `finding the values of ${labelOf(field).toLowerCase()}`;
  return inOrder(await valueCounts({ ...under, field: field.name, find }, { doing, signal }), field);
}

/** What a clause can be set to now. */
export async function clauseValues(
  name: string,
  find: string,
  context: Context,
  signal?: AbortSignal,
): Promise<ClauseValues> {
  const clause = context.dashboard.scope.find((each) => each.name === name);
  const dataSet = clause && context.dataSets.get(clause.dataSet);
  const field =
    clause && clause.offer !== 'input' && dataSet?.fields.find(({ name }) => name === clause.field);
  if (!clause || !dataSet || !field)
    throw new ProblemError({
      code: 'missing',
      doing: 'finding values',
      why: `there is no clause “${name}”`,
      mend: 'Reload the page.',
    });
  const asking = { doing: `finding ${clause.many}`, signal };
  const whole = underTheRest(clause.dataSet, dataSet, context, clause);
  const count = { name: 'count', calculation: { kind: 'count' as const } };
  if (clause.offer === 'values' || clause.offer === 'text') {
    return {
      ...inOrder(await valueCounts({ ...whole, field: field.name, find }, asking), field),
      least: null,
      greatest: null,
      spread: [],
    };
  }
  const ends = (['least', 'greatest'] as const).map((kind) => ({
    name: kind,
    calculation: { kind, field: field.name },
  }));
  const { records } = await runPlan({ ...whole, by: [], measures: ends, order: [], limit: 1 }, asking);
  const [least = null, greatest = null] = records[0] ?? [];
  const bins = isNumeric(field.type) ? binsOf(least, greatest, field.type === 'integer') : [];
  if (bins.length === 0) return { values: [], more: false, least, greatest, spread: [] };
  const counts = bins.map(({ from, below }, index) => ({
    ...count,
    name: `bin ${index}`,
    where: allOf([
      { field: field.name, test: { op: 'atLeast' as const, value: from } },
      below === null ? null : { field: field.name, test: { op: 'below' as const, value: below } },
    ]),
  }));
  const spread = await runPlan({ ...whole, by: [], measures: counts, order: [], limit: 1 }, asking);
  return {
    values: [],
    more: false,
    least,
    greatest,
    spread: bins.map((bin, index) => ({ bin, count: String(spread.records[0]?.[index] ?? '0') })),
  };
}
