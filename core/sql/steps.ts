import type { Field } from '#core/field/field.ts';
import { calculationFields, type PlannedStep, type Relation } from '#core/plan/plan.ts';
import { tied } from '#core/step/kind.ts';
import { stepMakes, stepReads, stepRecords } from '#core/step/kinds.ts';
import type { Step } from '#core/step/schema.ts';
import type { Dialect } from './dialect.ts';
import { identifier, type Sql, sql } from './fragment.ts';
import { fieldReader } from './read.ts';
import { relationSql } from './relation.ts';
import { deriveSql, renameSql, spreadSql, typeSql, whereSql } from './step/fields.ts';
import { lookUpSql } from './step/look-up.ts';
import { distinctSql, fillSql, rankSql, runningSql } from './step/order.ts';
import { longSql, periodsSql, stackSql, summariseSql, unfoldSql, wideSql } from './step/reshape.ts';
import type { Tools } from './step/tools.ts';

/* Steps as SQL: each is a SELECT around the one before it, with only the fields that are wanted further on. */

/** A step with what is wanted before and after it. */
interface Wanting {
  readonly planned: PlannedStep;
  readonly wanted: ReadonlySet<string>;
}

/** From the last step back: what each must yield, and what the request itself must; steps that add nothing wanted are left out. */
function wantings(
  planned: readonly PlannedStep[],
  needed: ReadonlySet<string>,
): { steps: Wanting[]; base: Set<string> } {
  let wanted = new Set(needed);
  const steps: Wanting[] = [];
  for (const each of [...planned].reverse()) {
    const { step, before } = each;
    const makes = stepMakes(step, before);
    const isAdding = stepRecords(step) === 'same' && step.kind !== 'rename' && step.kind !== 'fields';
    if (step.kind === 'fields' || (isAdding && !makes.some((name) => wanted.has(name)))) continue;
    steps.unshift({ planned: each, wanted });
    wanted = new Set(neededBefore(step, wanted, before, makes));
  }
  return { steps, base: wanted };
}

function neededBefore(
  step: Step,
  wanted: ReadonlySet<string>,
  before: readonly Field[],
  makes: readonly string[],
): string[] {
  const reads = stepReads(step, before);
  if (step.kind === 'summarise' || step.kind === 'wide') return [...reads];
  const passes = before.map(({ name }) => name).filter((name) => wanted.has(name) && !makes.includes(name));
  return [...passes, ...reads];
}

/** The requests that a relation comes from, each with the fields that are needed of it: its own, and those of look-ups and stacks. */
export function basesOf(
  relation: Relation,
  needed: ReadonlySet<string>,
): { readonly base: Relation; readonly needed: ReadonlySet<string> }[] {
  const { steps, base } = wantings(relation.steps ?? [], needed);
  return [
    { base: relation, needed: base },
    ...steps.flatMap(({ planned, wanted }) =>
      planned.others.flatMap((other) => basesOf(other, neededOfOther(planned.step, wanted, other))),
    ),
  ];
}

/** The fields that a step needs of another data set. */
function neededOfOther(step: Step, wanted: ReadonlySet<string>, other: Relation): Set<string> {
  if (step.kind === 'stack')
    return new Set(other.fields.map(({ name }) => name).filter((name) => wanted.has(name)));
  if (step.kind !== 'lookUp') return new Set();
  const keys = step.on.map((each) => each.other);
  const taken = step.take.map(({ field }) => field);
  switch (step.mode) {
    case 'one':
      return new Set([...keys, ...taken]);
    case 'first':
    case 'all':
      return new Set([...keys, ...taken, ...tied(step.order, other.fields)]);
    case 'count':
    case 'any':
      return new Set(keys);
    case 'aggregate':
      return new Set([...keys, ...(step.calculation ? calculationFields(step.calculation) : [])]);
  }
}

/**
 * The steps of a relation in two parts: those that decide which records there are and in which order, and those after that
 * only add to each record by itself. The second part can be left until a page has been cut out.
 */
export function laterSteps(
  relation: Relation,
  deciding: readonly string[],
): { readonly first: Relation; readonly later: readonly PlannedStep[] } {
  const needed = new Set(deciding);
  const later: PlannedStep[] = [];
  const first: PlannedStep[] = [];
  for (const planned of [...(relation.steps ?? [])].reverse()) {
    const { step, before } = planned;
    const makes = stepMakes(step, before);
    const reads = stepReads(step, before);
    const remade = new Set(
      first.flatMap((each) => [
        ...stepMakes(each.step, each.before),
        ...(each.step.kind === 'rename' ? [each.step.field] : []),
      ]),
    );
    const canWait =
      addsToEach.has(step.kind) &&
      !makes.some((name) => needed.has(name)) &&
      ![...makes, ...reads].some((name) => remade.has(name)) &&
      !first.some((each) => stepRecords(each.step) === 'other') &&
      !(step.kind === 'fill' && step.with.kind === 'before');
    // It comes after steps that were behind it, so their fields are before it too.
    if (canWait)
      later.unshift({
        ...planned,
        before: joinedFields(
          before,
          relation.fields.filter(({ name }) => !makes.includes(name)),
        ),
      });
    else {
      first.unshift(planned);
      for (const name of makes) needed.delete(name);
      for (const name of reads) needed.add(name);
    }
  }
  return { first: { ...relation, steps: first }, later };
}

const joinedFields = (fields: readonly Field[], more: readonly Field[]): Field[] => [
  ...fields,
  ...more.filter(({ name }) => !fields.some((field) => field.name === name)),
];

/** Steps that work on one record at a time and keep it. */
const addsToEach: ReadonlySet<Step['kind']> = new Set([
  'derive',
  'type',
  'spread',
  'lookUp',
  'fill',
  'fields',
]);

/** Steps over a query that is told which fields it must yield. */
export function steppedSql(
  steps: readonly PlannedStep[],
  wanted: ReadonlySet<string>,
  inner: (needed: ReadonlySet<string>) => Sql,
  dialect: Dialect,
  zone: string,
): Sql {
  const { steps: wanting, base } = wantings(steps, wanted);
  return wanting.reduce((inside, each) => stepSql(each, inside, dialect, zone), inner(base));
}

/** A relation as a SELECT that yields only the fields named, under their own names. */
export function shapedSql(
  relation: Relation,
  needed: ReadonlySet<string>,
  dialect: Dialect,
  zone: string,
): Sql {
  const start: Relation = relation.start ? { ...relation, fields: relation.start } : relation;
  return steppedSql(relation.steps ?? [], needed, (base) => relationSql(start, base, dialect), dialect, zone);
}

function stepSql({ planned, wanted }: Wanting, inner: Sql, dialect: Dialect, zone: string): Sql {
  const { step, before, filters, others, now } = planned;
  const tools: Tools = {
    dialect,
    zone,
    now: now ?? '1970-01-01T00:00:00Z',
    before,
    inner: sql`(${inner}) AS s`,
    wanted,
    field: fieldReader(sql`s`, before),
    filters,
    others: others.map((other) => ({
      fields: other.fields,
      records: shapedSql(other, neededOfOther(step, wanted, other), dialect, zone),
    })),
    passing: (but = []) =>
      before
        .filter(({ name }) => wanted.has(name) && !but.includes(name))
        .map(({ name }) => sql`s.${identifier(name)} AS ${identifier(name)}`),
  };
  switch (step.kind) {
    case 'fields':
      return inner;
    case 'rename':
      return renameSql(step, tools);
    case 'type':
      return typeSql(step, tools);
    case 'where':
      return whereSql(tools);
    case 'derive':
      return deriveSql(step, tools);
    case 'lookUp':
      return lookUpSql(step, tools);
    case 'unfold':
      return unfoldSql(step, tools);
    case 'spread':
      return spreadSql(step, tools);
    case 'stack':
      return stackSql(step, inner, tools);
    case 'distinct':
      return distinctSql(step, tools);
    case 'fill':
      return fillSql(step, tools);
    case 'summarise':
      return summariseSql(step, tools);
    case 'rank':
      return rankSql(step, tools);
    case 'running':
      return runningSql(step, tools);
    case 'periods':
      return periodsSql(step, inner, tools);
    case 'wide':
      return wideSql(step, tools);
    case 'long':
      return longSql(step, tools);
  }
}
