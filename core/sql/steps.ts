import { kindOf, stepMakes, stepReads, stepRecords } from '#core/dataset/step/kinds.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import type { PlannedStep, Relation } from '#core/plan/plan.ts';
import type { Dialect } from '#core/sql/dialect/dialect.ts';
import type { Field } from '#core/value/field/field.ts';
import { identifier, sql } from './fragment.ts';
import { fieldReader, type Level, levelFrom, plainColumns, readable, selectOf, textsIn } from './level.ts';
import { relationSql } from './relation.ts';
import { sqlOf } from './step/kinds.ts';
import type { AroundTools, StepParts } from './step/tools.ts';

/* Steps as SQL, with only the fields that are wanted further on: written into the SELECT of those before them, or around it. */

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
    const kind = kindOf(step);
    const makes = kind.makes(step, before);
    const done = kind.done(step);
    if (done === 'never' || (done === 'where wanted' && !makes.some((name) => wanted.has(name)))) continue;
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
  const { reads: readsOf, passes: passesOn } = kindOf(step);
  const reads = readsOf(step, before);
  if (!passesOn) return [...reads];
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

/** Whether a field's values are those that the request gave, each in at most the one record that it came in. */
export const isAsFetched = ({ steps = [] }: Relation, name: string): boolean =>
  !steps.some(({ step, before }) => stepMakes(step, before).includes(name) || stepRecords(step) === 'other');

/** The fields that a step needs of another data set. */
const neededOfOther = (step: Step, wanted: ReadonlySet<string>, other: Relation): ReadonlySet<string> =>
  new Set(kindOf(step).needsOfOther(step, wanted, other.fields));

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
  // A field that one of the steps behind drops is on the way to it all the same.
  let behind: readonly Field[] = relation.fields;
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
      kindOf(step).canWait(step) &&
      !makes.some((name) => needed.has(name)) &&
      ![...makes, ...reads].some((name) => remade.has(name)) &&
      !first.some((each) => stepRecords(each.step) === 'other');
    // It comes after steps that were behind it, so their fields are before it too.
    if (canWait)
      later.unshift({
        ...planned,
        before: joinedFields(
          before,
          behind.filter(({ name }) => !makes.includes(name)),
        ),
      });
    else {
      first.unshift(planned);
      for (const name of makes) needed.delete(name);
      for (const name of reads) needed.add(name);
    }
    behind = joinedFields(before, behind);
  }
  return { first: { ...relation, steps: first }, later };
}

const joinedFields = (fields: readonly Field[], more: readonly Field[]): Field[] => [
  ...fields,
  ...more.filter(({ name }) => !fields.some((field) => field.name === name)),
];

/** Steps over a level that is told which fields it must yield. */
export function steppedLevel(
  steps: readonly PlannedStep[],
  wanted: ReadonlySet<string>,
  inner: (needed: ReadonlySet<string>) => Level,
  dialect: Dialect,
  zone: string,
): Level {
  const { steps: wanting, base } = wantings(steps, wanted);
  return wanting.reduce((level, each) => stepLevel(each, level, dialect, zone), inner(base));
}

/** A relation's records with the fields named, under their own names. */
export function shapedLevel(
  relation: Relation,
  needed: ReadonlySet<string>,
  dialect: Dialect,
  zone: string,
): Level {
  const start: Relation = relation.start ? { ...relation, fields: relation.start } : relation;
  return steppedLevel(relation.steps ?? [], needed, (base) => baseLevel(start, base, dialect), dialect, zone);
}

/** Kept records are written with blanks for empty texts, so what comes straight from them needs no look at each text. */
function baseLevel(relation: Relation, needed: ReadonlySet<string>, dialect: Dialect): Level {
  const { request } = relation;
  return request.kind === 'kept'
    ? levelFrom(sql`${dialect.kept(request.name)} AS r`, needed, () => ({ mayBeEmpty: false }))
    : levelFrom(sql`(${relationSql(relation, needed, dialect)}) AS r`, needed, () => ({ mayBeEmpty: true }));
}

/** A step written into a level, or around it. */
function stepLevel({ planned, wanted }: Wanting, level: Level, dialect: Dialect, zone: string): Level {
  const { step, before, filters, others, now } = planned;
  const tools = {
    dialect,
    zone,
    now: now ?? '1970-01-01T00:00:00Z',
    before,
    wanted,
    filters,
    others: others.map((other) => ({
      fields: other.fields,
      level: shapedLevel(other, neededOfOther(step, wanted, other), dialect, zone),
      isUnique: (name: string) => other.unique?.includes(name) === true && isAsFetched(other, name),
    })),
  };
  const kind = sqlOf(step);
  // What is read once may be written out where it is read; what is read more often has to be a column first.
  const open = kind.readsOnce(step) ? level : readable(level, stepReads(step, before));
  const records = (): AroundTools => {
    const columns = plainColumns(sql`s`, level.columns.keys(), textsIn(level));
    const of = selectOf(level);
    return {
      ...tools,
      field: fieldReader(before, columns),
      records: of,
      inner: sql`(${of}) AS s`,
      passThrough: (but = []) =>
        before
          .filter(({ name }) => wanted.has(name) && !but.includes(name))
          .map(({ name }) => sql`s.${identifier(name)} AS ${identifier(name)}`),
    };
  };
  const written = kind.write(step, { ...tools, field: fieldReader(before, open.columns) }, open, records);
  if ('added' in written) return withAdded(open, written.added, wanted);
  const output = stepRecords(step) === 'other' ? [...wanted] : stepMakes(step, before);
  return levelFrom(sql`(${written.around}) AS r`, wanted, (name) =>
    output.includes(name) ? { mayBeEmpty: true } : textsIn(level)(name),
  );
}

function withAdded(level: Level, added: StepParts, wanted: ReadonlySet<string>): Level {
  const columns = new Map([...level.columns].filter(([name]) => wanted.has(name) && name !== added.drops));
  for (const { name, value, plain = false, filled = false, words } of added.columns ?? [])
    if (wanted.has(name)) columns.set(name, { value, plain, mayBeEmpty: !filled, words });
  return {
    from: added.join ? sql`${level.from}${added.join}` : level.from,
    where: [...level.where, ...(added.where ?? [])],
    joins: level.joins + (added.join ? 1 : 0),
    columns,
  };
}
