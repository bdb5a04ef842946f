import type { Condition } from '#core/ask/condition/schema.ts';
import { namesIn, writtenName } from '#core/ask/expression/check.ts';
import { parseExpression } from '#core/ask/expression/parse.ts';
import { ExpressionError } from '#core/ask/expression/tokens.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Others } from './kind.ts';
import { type FieldFlow, shape, stepMakes } from './kinds.ts';
import type { Making, Step } from './schema.ts';

/* What names a field, with another name in its place. Pure. */

export function renamedCondition(condition: Condition, from: string, to: string): Condition {
  const each = (parts: readonly Condition[]): Condition[] =>
    parts.map((part) => renamedCondition(part, from, to));
  if ('all' in condition) return { all: each(condition.all) };
  if ('any' in condition) return { any: each(condition.any) };
  if ('none' in condition) return { none: each(condition.none) };
  const { field, test } = condition;
  const named = field === from ? to : field;
  return test.op === 'against' && 'field' in test.to && test.to.field === from
    ? { field: named, test: { ...test, to: { field: to } } }
    : { field: named, test };
}

/** The members that hold a field's name, or a list of names. */
const naming = new Set([
  'field',
  'by',
  'split',
  'across',
  'fields',
  'keep',
  'within',
  'zero',
  'inPlace',
  'than',
]);

/** Anything plain with one name of a field put for another, wherever a field is named. */
export function renamedIn<T>(value: T, from: string, to: string): T {
  if (Array.isArray(value)) return value.map((each) => renamedIn(each, from, to)) as T;
  if (value === null || typeof value !== 'object') return value;
  const named = value as Record<string, unknown>;
  if ('all' in named || 'any' in named || 'none' in named || ('field' in named && 'test' in named))
    return renamedCondition(value as unknown as Condition, from, to) as T;
  return Object.fromEntries(
    Object.entries(named).map(([key, part]) => {
      const other = (each: unknown): unknown => (each === from ? to : renamedIn(each, from, to));
      if (!naming.has(key)) return [key, renamedIn(part, from, to)];
      return [key, Array.isArray(part) ? part.map(other) : other(part)];
    }),
  ) as T;
}

/** An expression that reads another field; one that cannot be read stays as it is. */
function renamedExpression(text: string, from: string, to: string): string {
  try {
    const named = namesIn(parseExpression(text)).filter(
      ({ name }) => name.toLowerCase() === from.toLowerCase(),
    );
    // What is compared in a CASE is named once and read for each WHEN.
    return [...new Map(named.map(({ at }) => [at.from, at])).values()]
      .sort((a, b) => b.from - a.from)
      .reduce((written, at) => written.slice(0, at.from) + writtenName(to) + written.slice(at.to), text);
  } catch (thrown) {
    if (thrown instanceof ExpressionError) return text;
    throw thrown;
  }
}

function renamedMaking(making: Making, from: string, to: string): Making {
  const named = (name: string): string => (name === from ? to : name);
  switch (making.kind) {
    case 'expression':
      return { ...making, text: renamedExpression(making.text, from, to) };
    case 'between':
      return {
        ...making,
        from: named(making.from),
        ...(making.to === undefined ? {} : { to: named(making.to) }),
      };
    case 'link':
      return {
        ...making,
        template: making.template.replace(
          /\{([+?&]?)([^{}]+)\}/g,
          (_, operator: string, list: string) =>
            `{${operator}${list
              .split(',')
              .map((name) => named(name.trim()))
              .join(',')}}`,
        ),
      };
    default:
      return renamedIn(making, from, to);
  }
}

/** A step that reads a field by another name. What it makes keeps its names. */
export function stepFollowing(step: Step, from: string, to: string): Step {
  switch (step.kind) {
    case 'derive':
      return { ...step, making: renamedMaking(step.making, from, to) };
    case 'lookUp':
      // All but our side of the pairs is of the other data set.
      return { ...step, on: renamedIn(step.on, from, to) };
    default:
      return renamedIn(step, from, to);
  }
}

export interface CarryOn {
  /** The first step that reads the old name. */
  readonly at: number;
  readonly from: string;
  readonly to: string;
  /** All the steps, with those that read the old name reading the new one. */
  readonly steps: Step[];
  /** How many of them were changed. */
  readonly changed: number;
}

/**
 * How the first step that cannot be done, for want of a field, and those after it would go on with the field's new name:
 * an earlier step renames it, or made it under that name in one of the versions before. Null where no earlier step did.
 */
export function carryOn(
  shaped: FieldFlow,
  steps: readonly Step[],
  before: readonly (readonly Step[])[],
  others: Others,
): CarryOn | null {
  const at = shaped.problems.findIndex((problem) => problem !== null);
  const step = steps[at];
  const fields = shaped.fields[at];
  if (!step || !fields) return null;
  for (const [index, earlier] of steps.slice(0, at).entries())
    for (const [from, to] of earlier.off ? [] : newNames(earlier, before, shaped.fields[index] ?? [])) {
      if (from === to || has(fields, from) || !has(fields, to)) continue;
      const { changed, steps: later } = followedFrom(fields, steps.slice(at), from, to, others);
      if (later[0] !== step) return { at, from, to, steps: [...steps.slice(0, at), ...later], changed };
    }
  return null;
}

const has = (fields: readonly Field[], name: string): boolean => fields.some((field) => field.name === name);

/** The names that a step gave before, each with the one it gives now. */
function newNames(
  step: Step,
  before: readonly (readonly Step[])[],
  fields: readonly Field[],
): (readonly [from: string, to: string])[] {
  const now = stepMakes(step, fields);
  const earlier = before.flatMap((version): (readonly [string, string])[] => {
    const was = version.find(({ id }) => id === step.id);
    const then = was?.kind === step.kind ? stepMakes(was, fields) : [];
    return then.length === now.length ? then.map((name, place) => [name, now[place] ?? '']) : [];
  });
  return step.kind === 'rename' ? [[step.field, step.as], ...earlier] : earlier;
}

/** Steps over fields, those that read a name which is not there any more reading the new one; the others stay the same objects. */
function followedFrom(
  start: readonly Field[],
  steps: readonly Step[],
  from: string,
  to: string,
  others: Others,
): { readonly steps: Step[]; readonly changed: number } {
  let fields = start;
  let changed = 0;
  const next = steps.map((step) => {
    // From where the old name is made again it means that.
    const followed = has(fields, from) ? step : stepFollowing(step, from, to);
    const isChanged = JSON.stringify(followed) !== JSON.stringify(step);
    if (isChanged) changed += 1;
    fields = shape(fields, [followed], others).fields[1] ?? fields;
    return isChanged ? followed : step;
  });
  return { steps: next, changed };
}
