import {
  type ConditionInputs,
  type Filter,
  fieldsOf,
  nothing,
  resolveCondition,
} from '#core/ask/condition/resolve.ts';
import type { Condition } from '#core/ask/condition/schema.ts';
import { isRuled } from '#core/dataset/is-ruled.ts';
import { startOf } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { kindOf, shape, stepRefs } from '#core/dataset/step/kinds.ts';
import type { Ref, Step } from '#core/dataset/step/schema.ts';
import type { World } from '#core/dataset/world.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Clock } from '#core/value/period/period.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { type Allowed, extend, type PlannedStep, type Relation } from './plan.ts';

/** Everything besides the records that a relation depends on. */
export interface Planning {
  readonly world: World;
  readonly clock: Clock;
  readonly person?: ConditionInputs['person'];
  /** The data set whose own steps are being planned. */
  readonly within?: string | undefined;
}

/** How many data sets may look one another up in a row; more is a circle, or no one can follow it. */
export const deepest = 12;

/** The relation of a data set: where its records are, with values for its inputs that may have them, and its steps. */
export function relationWith(
  dataSet: DataSet,
  id: string,
  inputs: Relation['inputs'],
  planning: Planning,
  depth = 0,
): Relation {
  const relation = ruled(
    withStates(recordsWith(dataSet, id, inputs, planning, depth), dataSet.fields),
    dataSet,
    planning,
  );
  const allowed = dataSet.inputs.flatMap(({ name, label, allowed: from }): Allowed[] => {
    const value = inputs[name]?.value ?? null;
    if (!from || value === null) return [];
    const among = relationOfRef(from, planning, depth + 1);
    return [{ input: label ?? name, value, among, field: from.field }];
  });
  return allowed.length === 0 ? relation : { ...relation, allowed };
}

/**
 * A relation with only the records that who asks may see. Every relation is made through this, those of data sets that others are made of
 * or look up too, so that no question goes round it; where it is not known who asks, there are none.
 */
function ruled(relation: Relation, { rowRule }: DataSet, planning: Planning): Relation {
  const { clock, person } = planning;
  if (!rowRule || person?.seesAll) return relation;
  const gone = fieldsOf(rowRule).find((name) => !relation.fields.some((field) => field.name === name));
  if (gone !== undefined)
    throw new ProblemError({
      code: 'bad-request',
      doing: 'working out which records you may see',
      why: `the rule about them names “${gone}”, which is no longer there`,
      mend: 'Tell whoever builds this dashboard: the rule stands on the page of the data set.',
    });
  const filter = person ? resolveCondition(rowRule, relation.fields, clock, { person }) : nothing;
  const step: PlannedStep = {
    step: { kind: 'where', id: 'row-rule', condition: rowRule },
    before: relation.fields,
    filters: [filter],
    others: [],
  };
  return extend(relation, { fields: relation.fields, steps: [step] });
}

/** A relation whose fields have the states that are said of them: records stand in their order. */
function withStates(relation: Relation, fields: readonly Field[]): Relation {
  const statesOf = new Map(fields.flatMap(({ name, states }) => (states ? [[name, states] as const] : [])));
  if (statesOf.size === 0) return relation;
  const withOwn = (field: Field): Field => {
    const states = statesOf.get(field.name);
    return states ? { ...field, states } : field;
  };
  return { ...relation, fields: relation.fields.map(withOwn) };
}

function recordsWith(
  dataSet: DataSet,
  id: string,
  inputs: Relation['inputs'],
  planning: Planning,
  depth = 0,
): Relation {
  if (depth > deepest)
    throw new ProblemError({
      code: 'bad-request',
      doing: 'working out what to ask',
      why: 'data sets look one another up in a circle',
      mend: 'Remove one of the steps that lead back to where they started.',
    });
  const { source, request, fields, keep, fresh, steps = [] } = dataSet;
  if (request.kind === 'of') {
    const of = relationOfRef(request, planning, depth + 1);
    if (steps.length === 0) return of;
    return extend(of, planSteps(of.fields, steps, inputs, { ...planning, within: id }, depth));
  }
  const start = startOf(dataSet);
  const base: Relation = {
    source,
    request: keep ? ({ kind: 'kept', name: id } as const) : request,
    ...(fresh === undefined ? {} : { fresh }),
    inputs,
    fields: steps.length === 0 ? fields : start,
  };
  const readable = request.kind === 'follow-ups' ? ofSeenRecords(base, request, planning, depth) : base;
  if (steps.length === 0) return readable;
  return extend(readable, planSteps(start, steps, inputs, { ...planning, within: id }, depth));
}

const seenField = 'follow-up is seen';

/**
 * Follow-ups of only those records that who asks may see, where a rule says which those are. What stands beside a record that is seen needs
 * no such look.
 */
function ofSeenRecords(
  relation: Relation,
  { dataSet: id, columns }: Extract<DataSet['request'], { kind: 'follow-ups' }>,
  planning: Planning,
  depth: number,
): Relation {
  const { world, clock, person, within } = planning;
  const of = world.get(id);
  if (person?.seesAll || within === id || of?.key === undefined || !isRuled(id, world)) return relation;
  const record = columns.find(({ column }) => column === 'record')?.name ?? '';
  const withSeen: Field[] = [...relation.fields, { name: seenField, type: 'boolean' }];
  const isSeen: Condition = { field: seenField, test: { op: 'is', values: ['true'] } };
  const steps: PlannedStep[] = [
    {
      step: {
        kind: 'lookUp',
        id: 'seen',
        from: { dataSet: id },
        on: [{ field: record, other: of.key }],
        mode: 'any',
        take: [],
        order: [],
        as: seenField,
      },
      before: relation.fields,
      filters: [],
      others: [relationOfRef({ dataSet: id }, planning, depth + 1)],
    },
    {
      step: { kind: 'where', id: 'only-seen', condition: isSeen },
      before: withSeen,
      filters: [resolveCondition(isSeen, withSeen, clock, { person })],
      others: [],
    },
  ];
  return extend(relation, { fields: relation.fields, steps });
}

/** Steps over fields, with all they depend on. Throws a {@link ProblemError} that names the first step that cannot be done. */
export function planSteps(
  start: readonly Field[],
  steps: readonly Step[],
  inputs: Relation['inputs'],
  planning: Planning,
  depth = 0,
): { readonly fields: readonly Field[]; readonly steps: readonly PlannedStep[] } {
  const active = steps.filter(({ off }) => !off);
  const shaped = shape(start, active, planning.world);
  const { clock, person } = planning;
  const given: ConditionInputs = { inputs, person };
  return {
    fields: shaped.fields.at(-1) ?? start,
    steps: active.map((step, index): PlannedStep => {
      const before = shaped.fields[index] ?? start;
      const problem = shaped.problems[index];
      if (problem)
        throw new ProblemError({
          code: 'bad-request',
          doing: `doing step ${index + 1}`,
          why: problem,
          mend: 'Mend the step on the page of the data set, or switch it off.',
        });
      const others = stepRefs(step).map((ref) => relationOfRef(ref, planning, depth + 1));
      const kind = kindOf(step);
      const about = kind.conditionsAbout === 'its records' ? before : (others[0]?.fields ?? []);
      const filters = kind
        .conditions(step)
        .map((condition) => resolveCondition(condition, about, clock, given));
      return {
        step,
        before,
        filters,
        others,
        ...(kind.dependsOnNow(step) ? { now: clock.now.toISOString() } : {}),
      };
    }),
  };
}

/** Another data set as a relation: its steps, what it always keeps, and the subset. */
function relationOfRef(
  { dataSet: id, subset }: Pick<Ref, 'dataSet' | 'subset'>,
  planning: Planning,
  depth: number,
): Relation {
  const found = planning.world.get(id);
  if (!found)
    throw new ProblemError({
      code: 'missing',
      doing: 'working out what to ask',
      why: 'a data set that is looked up no longer exists',
      mend: 'Choose another in the step.',
    });
  return relationAsRead(
    found,
    id,
    planning,
    found.subsets?.find(({ name }) => name === subset)?.where,
    depth,
  );
}

/** The inputs of a data set while nobody has said anything. */
export const unsetInputs = ({ inputs }: Pick<DataSet, 'inputs'>): Relation['inputs'] =>
  Object.fromEntries(inputs.map(({ name, type }) => [name, { type, value: null }]));

/** A data set's records as whoever refers to it has them: only those always kept, those of a subset, and no input set. */
export function relationAsRead(
  dataSet: DataSet,
  id: string,
  planning: Planning,
  subset?: Condition,
  depth = 0,
): Relation {
  const relation = relationWith(dataSet, id, unsetInputs(dataSet), planning, depth);
  const conditions = [dataSet.keeping, subset].filter((condition) => condition !== undefined);
  return conditions.length === 0 ? relation : narrow(relation, conditions, planning);
}

/** A relation with only the records that conditions keep. */
export function narrow(
  relation: Relation,
  conditions: readonly Condition[],
  { clock, person }: Planning,
): Relation {
  const steps = conditions.map((condition, index): PlannedStep => {
    const filter: Filter = resolveCondition(condition, relation.fields, clock, {
      inputs: relation.inputs,
      person,
    });
    return {
      step: { kind: 'where', id: `keeping-${index + 1}`, condition },
      before: relation.fields,
      filters: [filter],
      others: [],
    };
  });
  return extend(relation, { fields: relation.fields, steps });
}
