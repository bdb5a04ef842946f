import type { Condition } from '#core/condition/schema.ts';
import { namesIn, writtenName } from '#core/expression/check.ts';
import { parseExpression } from '#core/expression/parse.ts';
import { ExpressionError } from '#core/expression/tokens.ts';
import type { Field } from '#core/field/field.ts';
import { shape, stepMakes, type World } from './kinds.ts';
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

/** Anything plain with one name of a field put for another, wherever a field is named. */
export function renamedIn<T>(value: T, from: string, to: string): T {
  if (Array.isArray(value)) return value.map((each) => renamedIn(each, from, to)) as T;
  if (value === null || typeof value !== 'object') return value;
  const named = value as Record<string, unknown>;
  if ('all' in named || 'any' in named || 'none' in named || ('field' in named && 'test' in named))
    return renamedCondition(value as unknown as Condition, from, to) as T;
  return Object.fromEntries(
    Object.entries(named).map(([key, part]) => {
      const isName = (key === 'field' || key === 'by' || key === 'split') && part === from;
      const isList =
        key === 'fields' && Array.isArray(part) && part.every((each) => typeof each === 'string');
      if (isName) return [key, to];
      if (isList) return [key, renamedNames(part as string[], from, to)];
      return [key, renamedIn(part, from, to)];
    }),
  ) as T;
}

const renamedNames = (names: readonly string[], from: string, to: string): string[] =>
  names.map((name) => (name === from ? to : name));

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
  const names = (list: readonly string[]): string[] => renamedNames(list, from, to);
  switch (step.kind) {
    case 'fields':
      return { ...step, keep: names(step.keep) };
    case 'derive':
      return { ...step, making: renamedMaking(step.making, from, to) };
    case 'lookUp':
      // Its order and what it works out are of the other data set.
      return { ...step, on: step.on.map((pair) => (pair.field === from ? { ...pair, field: to } : pair)) };
    case 'distinct':
      return { ...step, by: names(step.by), order: renamedIn(step.order, from, to) };
    case 'fill':
      return {
        ...renamedIn(step, from, to),
        with:
          step.with.kind === 'value'
            ? step.with
            : { ...step.with, order: renamedIn(step.with.order, from, to), within: names(step.with.within) },
      };
    case 'rank':
    case 'running':
      return { ...renamedIn(step, from, to), within: names(step.within) };
    case 'periods':
      return { ...renamedIn(step, from, to), within: names(step.within), zero: names(step.zero) };
    case 'wide':
      return {
        ...step,
        by: names(step.by),
        across: step.across === from ? to : step.across,
        calculation: renamedIn(step.calculation, from, to),
      };
    case 'stack':
      return step;
    case 'spread':
      return step.field === from ? { ...step, field: to } : step;
    default:
      return renamedIn(step, from, to);
  }
}

export interface Carried {
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
export function carriedOn(
  start: readonly Field[],
  steps: readonly Step[],
  before: readonly (readonly Step[])[],
  world: World,
): Carried | null {
  const shaped = shape(start, steps, world);
  const at = shaped.problems.findIndex((problem) => problem !== null);
  const step = steps[at];
  const fields = shaped.fields[at];
  if (!step || !fields) return null;
  const has = (some: readonly Field[], name: string): boolean => some.some((field) => field.name === name);
  for (const [index, earlier] of steps.slice(0, at).entries()) {
    if (earlier.off) continue;
    const pairs: (readonly [string, string])[] =
      earlier.kind === 'rename' ? [[earlier.field, earlier.as]] : [];
    const now = stepMakes(earlier, shaped.fields[index] ?? []);
    for (const version of before) {
      const was = version.find(({ id }) => id === earlier.id);
      if (!was || was.kind !== earlier.kind) continue;
      const then = stepMakes(was, shaped.fields[index] ?? []);
      if (then.length === now.length)
        pairs.push(...then.map((name, place) => [name, now[place] ?? ''] as const));
    }
    for (const [from, to] of pairs) {
      if (from === to || has(fields, from) || !has(fields, to)) continue;
      const followed = stepFollowing(step, from, to);
      if (JSON.stringify(followed) === JSON.stringify(step)) continue;
      return { from, to, ...followedFrom(start, steps, at, from, to, world) };
    }
  }
  return null;
}

/** The steps from one on that read a field which is not there any more, with its new name. */
function followedFrom(
  start: readonly Field[],
  steps: readonly Step[],
  first: number,
  from: string,
  to: string,
  world: World,
): Pick<Carried, 'steps' | 'changed'> {
  const next = [...steps];
  let changed = 0;
  for (let at = first; at < next.length; at += 1) {
    const step = next[at];
    const fields = shape(start, next.slice(0, at), world).fields.at(-1) ?? start;
    if (!step || fields.some(({ name }) => name === from)) break;
    const followed = stepFollowing(step, from, to);
    if (JSON.stringify(followed) === JSON.stringify(step)) continue;
    next[at] = followed;
    changed += 1;
  }
  return { steps: next, changed };
}
