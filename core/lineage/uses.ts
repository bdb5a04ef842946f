import { fieldsOf } from '#core/ask/condition/resolve.ts';
import { calculationFields, measureFields } from '#core/ask/measure/calculation.ts';
import { ruleWords } from '#core/change/rules.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { PaneUse } from '#core/dashboard/pane/use.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Clause, Dashboard } from '#core/dashboard/schema.ts';
import { actionFields } from '#core/dataset/action-fields.ts';
import { checkFields } from '#core/dataset/check-fields.ts';
import { refsOf, startOf } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { renamedCondition, renamedIn } from '#core/dataset/step/follow-names.ts';
import { freeStepId } from '#core/dataset/step/free-id.ts';
import { shape, stepReads, stepRefs } from '#core/dataset/step/kinds.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import type { World } from '#core/dataset/world.ts';

/* What depends on what. Pure: over definitions alone. */

export interface NamedDataSet {
  readonly id: string;
  readonly name: string;
  readonly definition: DataSet;
}

export interface NamedDashboard {
  readonly id: string;
  readonly dashboard: Dashboard;
}

/** One thing that needs something else. `at` says where, in words; `id` is of the data set or dashboard it is in. */
export interface Use {
  readonly in: 'dataSet' | 'dashboard';
  readonly id: string;
  readonly at: string;
  /** What goes on without it, worse; everything else fails. */
  readonly mild?: boolean;
}

/** The fields that a pane names of what it uses. */
const useFields = ({ keeping, when, fields }: PaneUse): string[] => [
  ...(keeping ? fieldsOf(keeping) : []),
  ...(typeof when === 'object' ? [when.field] : []),
  ...fields,
];

const paneUse = ({ id, dashboard: { title } }: NamedDashboard, pane: Pane): Use => ({
  in: 'dashboard',
  id,
  at: `“${pane.title || 'untitled'}” on “${title}”`,
});

const clauseUse = ({ id, dashboard: { title } }: NamedDashboard, { many }: Clause): Use => ({
  in: 'dashboard',
  id,
  at: `the reader filters of “${title}”, “${many}”`,
});

/** The panes that use a data set in some way. */
const panesUsing = ({ panes }: Dashboard, id: string, how: (use: PaneUse) => boolean = () => true): Pane[] =>
  panes.filter((pane) => usesOf(pane).some((use) => use.dataSet === id && how(use)));

/** What of a step reads of another data set. */
function readsOfOther(step: Step, id: string): string[] {
  if (!stepRefs(step).some(({ dataSet }) => dataSet === id)) return [];
  if (step.kind !== 'lookUp') return [];
  return [
    ...step.on.map(({ other }) => other),
    ...step.take.map(({ field }) => field),
    ...step.order.map(({ by }) => by),
    ...(step.calculation ? calculationFields(step.calculation) : []),
  ];
}

/** Everything that needs a field of a data set as readers have it. */
export function usesOfField(
  id: string,
  field: string,
  dataSets: readonly NamedDataSet[],
  dashboards: readonly NamedDashboard[],
): Use[] {
  const own = dataSets.find((each) => each.id === id);
  const world: World = new Map(dataSets.map((each) => [each.id, each.definition]));
  const uses: Use[] = [];
  const here = (at: string, mild = false): void => {
    uses.push({ in: 'dataSet', id, at, ...(mild ? { mild } : {}) });
  };
  const measures = new Set<string>();
  if (own) {
    const { definition } = own;
    if (definition.key === field) here('it identifies a record');
    if (definition.title === field) here('it names a record to readers', true);
    if (definition.keeping && fieldsOf(definition.keeping).includes(field)) here('what is always kept');
    if (definition.rowRule && fieldsOf(definition.rowRule).includes(field)) here('who sees which records');
    for (const measure of definition.measures)
      if (measureFields(measure).includes(field)) {
        measures.add(measure.name);
        here(`the measure “${measure.label}”`);
      }
    for (const subset of definition.subsets ?? [])
      if (fieldsOf(subset.where).includes(field)) here(`the subset “${subset.label}”`);
    for (const check of definition.checks ?? [])
      if (checkFields(check.expects).includes(field)) here(`the check “${check.name}”`);
    for (const action of definition.changes?.actions ?? [])
      if (actionFields(action).includes(field)) here(`the action “${action.label}”`);
    for (const rule of definition.changes?.rules ?? [])
      if (rule.field === field || rule.than === field)
        here(`the rule “${ruleWords(rule, definition.fields)}”`);
  }
  for (const other of dataSets) {
    const { definition } = other;
    for (const { name, label, allowed } of definition.inputs)
      if (allowed?.dataSet === id && allowed.field === field)
        uses.push({ in: 'dataSet', id: other.id, at: `the input “${label ?? name}” of “${other.name}”` });
    for (const { label, lines } of definition.changes?.actions ?? [])
      if (lines?.dataSet === id && lines.refers === field)
        uses.push({ in: 'dataSet', id: other.id, at: `the action “${label}” of “${other.name}”` });
    const steps = definition.steps ?? [];
    const isMade = definition.request.kind === 'of' && definition.request.dataSet === id;
    const shaped = shape(startOf(definition), steps, world);
    steps.forEach((step, at) => {
      const before = shaped.fields[at] ?? [];
      const reads =
        isMade &&
        startOf(definition).some(({ name }) => name === field) &&
        stepReads(step, before).includes(field);
      const keeps = isMade && step.kind === 'fields' && step.keep.includes(field);
      if (reads || keeps || readsOfOther(step, id).includes(field))
        uses.push({ in: 'dataSet', id: other.id, at: `step ${at + 1} of “${other.name}”` });
    });
  }
  for (const each of dashboards) {
    for (const clause of each.dashboard.scope)
      if (clause.offer !== 'input' && clause.dataSet === id && clause.field === field)
        uses.push(clauseUse(each, clause));
    const names = (use: PaneUse): boolean =>
      useFields(use).includes(field) || use.measures.some((name) => measures.has(name));
    uses.push(...panesUsing(each.dashboard, id, names).map((pane) => paneUse(each, pane)));
  }
  return uses;
}

/** The panes whose number is a measure of a data set. */
export const usesOfMeasure = (id: string, measure: string, dashboards: readonly NamedDashboard[]): Use[] =>
  dashboards.flatMap((each) =>
    panesUsing(each.dashboard, id, ({ measures }) => measures.includes(measure)).map((pane) =>
      paneUse(each, pane),
    ),
  );

/** Everything that needs a data set. */
export function usesOfDataSet(
  id: string,
  dataSets: readonly NamedDataSet[],
  dashboards: readonly NamedDashboard[],
): Use[] {
  return [
    ...dataSets
      .filter(({ definition }) => refsOf(definition).some(({ dataSet }) => dataSet === id))
      .map((each): Use => ({ in: 'dataSet', id: each.id, at: `the data set “${each.name}”` })),
    ...dataSets.flatMap(({ id: other, name, definition }) =>
      (definition.changes?.actions ?? [])
        .filter(({ lines }) => lines?.dataSet === id)
        .map(({ label }): Use => ({ in: 'dataSet', id: other, at: `the action “${label}” of “${name}”` })),
    ),
    ...dashboards.flatMap((each) => [
      ...panesUsing(each.dashboard, id).map((pane) => paneUse(each, pane)),
      ...each.dashboard.scope
        .filter((clause) => clause.dataSet === id)
        .map((clause) => clauseUse(each, clause)),
    ]),
  ];
}

/**
 * A data set whose field readers have under another name: a last step gives it the name, and its measures, subsets, checks and
 * what else names the field follow.
 */
export function withFieldRenamed(definition: DataSet, from: string, to: string, stepId: string): DataSet {
  const { key, title, keeping, rowRule, measures, subsets, checks, changes, steps = [], fields } = definition;
  const named = (name: string | undefined): string | undefined => (name === from ? to : name);
  const [nextKey, nextTitle] = [named(key), named(title)];
  return {
    ...definition,
    start: definition.start ?? fields,
    steps: [...steps, { kind: 'rename', id: stepId, field: from, as: to }],
    fields: fields.map((field) => (field.name === from ? { ...field, name: to } : field)),
    measures: renamedIn(measures, from, to),
    ...(subsets ? { subsets: renamedIn(subsets, from, to) } : {}),
    ...(checks ? { checks: renamedIn(checks, from, to) } : {}),
    ...(changes ? { changes: renamedIn(changes, from, to) } : {}),
    ...(keeping ? { keeping: renamedCondition(keeping, from, to) } : {}),
    ...(rowRule ? { rowRule: renamedCondition(rowRule, from, to) } : {}),
    ...(nextKey === undefined ? {} : { key: nextKey }),
    ...(nextTitle === undefined ? {} : { title: nextTitle }),
  };
}

/** Another data set that follows a field's new name: in look-ups, and where it is made of that data set by a step put first. */
export function followingRename(definition: DataSet, id: string, from: string, to: string): DataSet {
  const steps = (definition.steps ?? []).map((step): Step => {
    if (step.kind !== 'lookUp' || step.from.dataSet !== id) return step;
    return {
      ...step,
      on: step.on.map((pair) => (pair.other === from ? { ...pair, other: to } : pair)),
      take: step.take.map((taken) => (taken.field === from ? { ...taken, field: to } : taken)),
      order: renamedIn(step.order, from, to),
      ...(step.calculation ? { calculation: renamedIn(step.calculation, from, to) } : {}),
    };
  });
  const { request, changes: before } = definition;
  const changes = before && {
    ...before,
    actions: before.actions.map((action) =>
      action.lines?.dataSet === id && action.lines.refers === from
        ? { ...action, lines: { ...action.lines, refers: to } }
        : action,
    ),
  };
  const inputs = definition.inputs.map((input) =>
    input.allowed?.dataSet === id && input.allowed.field === from
      ? { ...input, allowed: { ...input.allowed, field: to } }
      : input,
  );
  if (request.kind !== 'of' || request.dataSet !== id)
    return { ...definition, inputs, ...(steps.length > 0 ? { steps } : {}), ...(changes ? { changes } : {}) };
  // Its own steps go on calling the field as they did.
  const back: Step = { kind: 'rename', id: freeStepId(steps), field: to, as: from };
  return {
    ...definition,
    inputs,
    ...(changes ? { changes } : {}),
    start: startOf(definition).map((field) => (field.name === from ? { ...field, name: to } : field)),
    steps: [back, ...steps],
  };
}

/** Definitions with a field's new name in each part that is about its data set: one that names it, with all that stands in it. */
function renamedOf<T>(value: T, id: string, from: string, to: string): T {
  if (Array.isArray(value)) return value.map((each) => renamedOf(each, id, from, to)) as T;
  if (value === null || typeof value !== 'object') return value;
  if ('dataSet' in value) return value.dataSet === id ? renamedIn(value, from, to) : value;
  return Object.fromEntries(
    Object.entries(value).map(([key, part]) => [key, renamedOf(part, id, from, to)]),
  ) as T;
}

/** A dashboard whose panes and clauses follow a field's new name. */
export const dashboardFollowing = (
  dashboard: Dashboard,
  id: string,
  from: string,
  to: string,
): Dashboard => ({
  ...dashboard,
  scope: dashboard.scope.map((clause) =>
    clause.offer !== 'input' && clause.dataSet === id && clause.field === from
      ? { ...clause, field: to }
      : clause,
  ),
  panes: renamedOf(dashboard.panes, id, from, to),
});
