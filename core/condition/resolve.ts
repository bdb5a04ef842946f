import type { Field } from '#core/field/field.ts';
import { type Clock, resolvePeriod, type Span } from '#core/period/period.ts';
import type { Condition, Test } from './schema.ts';

/** A condition whose periods have become bounds. Bounds are half-open and null is open. */
export type FilterTest =
  | Exclude<Test, { op: 'during' }>
  | { op: 'within'; from: string | null; to: string | null };

export type Filter =
  | { field: string; test: FilterTest }
  | { all: Filter[] }
  | { any: Filter[] }
  | { none: Filter[] };

/** The bounds of a span in the terms of a field: days for dates, UTC instants otherwise. */
export function withinSpan(field: Pick<Field, 'type'>, { from, to, fromDay, toDay }: Span): FilterTest {
  if (field.type === 'date') return { op: 'within', from: fromDay, to: toDay };
  return { op: 'within', from: from?.toISOString() ?? null, to: to?.toISOString() ?? null };
}

/** Replaces every period by its bounds at a moment. `fields` says which fields hold dates and which instants. */
export function resolveCondition(condition: Condition, fields: readonly Field[], clock: Clock): Filter {
  if ('all' in condition) return { all: condition.all.map((part) => resolveCondition(part, fields, clock)) };
  if ('any' in condition) return { any: condition.any.map((part) => resolveCondition(part, fields, clock)) };
  if ('none' in condition)
    return { none: condition.none.map((part) => resolveCondition(part, fields, clock)) };
  const { field, test } = condition;
  if (test.op !== 'during') return { field, test };
  const type = fields.find((each) => each.name === field)?.type ?? 'instant';
  return { field, test: withinSpan({ type }, resolvePeriod(test.period, clock)) };
}

/** Unset is unrestricted: a test without a value adds no condition. */
export function isUnset(test: Test | FilterTest): boolean {
  switch (test.op) {
    case 'is':
    case 'isNot':
      return test.values.length === 0;
    case 'contains':
    case 'lacks':
    case 'startsWith':
    case 'endsWith':
      return test.text === '';
    case 'within':
      return test.from === null && test.to === null;
    case 'during':
      return test.period.kind === 'dates' && !test.period.from && !test.period.to;
    default:
      return false;
  }
}

/** The names of the fields a condition reads, each once. */
export function fieldsOf(condition: Condition | Filter): string[] {
  const parts =
    'all' in condition
      ? condition.all
      : 'any' in condition
        ? condition.any
        : 'none' in condition
          ? condition.none
          : null;
  if (!parts) return 'field' in condition ? [condition.field] : [];
  return [...new Set(parts.flatMap((part) => fieldsOf(part)))];
}
