import { resolveCondition } from '#core/ask/condition/resolve.ts';
import { relationOf } from '#core/dashboard/flow/applies.ts';
import { clauseField } from '#core/dashboard/flow/clauses.ts';
import { type Context, dataSetNamed, testOf } from '#core/dashboard/flow/context.ts';
import { offeredFields } from '#core/dashboard/flow/offered.ts';
import type { Clause } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { binFacts } from '#core/plan/bin-facts.ts';
import { allOf, type GroupsPlan, totals } from '#core/plan/plan.ts';
import { binNumbers } from '#core/value/bins/bins.ts';
import type { Bins } from '#core/value/bins/schema.ts';
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
  /** The ranges that numbers are counted in; null where there are none. */
  readonly bins: Bins | null;
  /** How many records are in each of them, in order. */
  readonly spread: readonly string[];
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
      bins: null,
      spread: [],
    };
  }
  const { zone } = context.clock;
  if (!isNumeric(field.type)) {
    const ends = (['least', 'greatest'] as const).map((kind) => ({
      name: kind,
      calculation: { kind, field: field.name },
    }));
    const { records } = await runPlan(totals(whole.from, zone, ends, whole.where), asking);
    const [least = null, greatest = null] = records[0] ?? [];
    return { values: [], more: false, least, greatest, bins: null, spread: [] };
  }
  const rangeFacts = binFacts(whole, field);
  const facts = rangeFacts.read((await runPlan(rangeFacts.plan, asking)).records);
  const bins = rangeFacts.bins(facts);
  const { least, greatest } = facts;
  if (!bins) return { values: [], more: false, least, greatest, bins, spread: [] };
  const plan: GroupsPlan = {
    ...totals(whole.from, zone, [count], whole.where),
    by: [{ field: field.name, bins }],
    limit: bins.last - bins.first + 2,
  };
  const { records } = await runPlan(plan, asking);
  const counts = new Map(records.map(([number, n]) => [String(number), String(n ?? '0')]));
  return {
    values: [],
    more: false,
    least,
    greatest,
    bins,
    spread: binNumbers(bins).map((number) => counts.get(String(number)) ?? '0'),
  };
}
