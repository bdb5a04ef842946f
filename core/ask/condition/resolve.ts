import type { Bins } from '#core/value/bins/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { parseValue } from '#core/value/field/value.ts';
import { type Clock, resolvePeriod, type Span } from '#core/value/period/period.ts';
import type { Cycle } from '#core/value/period/units.ts';
import type { Against, Condition, comparisons, Test } from './schema.ts';

/** A condition whose periods have become bounds. Bounds are half-open and null is open. */
export type FilterTest =
  | Exclude<Test, { op: 'during' } | { op: 'against' }>
  | {
      op: 'against';
      is: (typeof comparisons)[number];
      /** A value of null is an input that is not set. */
      to: { field: string } | { value: string | null };
    }
  | { op: 'within'; from: string | null; to: string | null }
  /** It is one of these, letter by letter. */
  | { op: 'among'; values: (string | null)[] }
  /** Its hour of the day, weekday or month is this, by the clock of a zone. */
  | { op: 'cycle'; cycle: Cycle; value: string; zone: string }
  /** It is in the range of this number; null: in none. */
  | { op: 'bin'; bins: Bins; value: string | null };

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

/** Who asks, as conditions know them. */
export interface Asker {
  readonly name: string;
  readonly email: string;
  /** What is known of them, by name, such as their terminals. */
  readonly attributes?: Readonly<Record<string, readonly string[]>> | undefined;
  /** Rules about who sees which records do not hold for them. */
  readonly seesAll?: boolean | undefined;
}

/** For what is done for nobody in particular: refreshes, checks. */
export const everybody: Asker = { name: '', email: '', seesAll: true };

/** What conditions can be compared with besides values: canonical texts of inputs by name, and who asks. */
export interface ConditionInputs {
  readonly inputs?: Readonly<Record<string, { value: string | null }>> | undefined;
  readonly person?: Asker | undefined;
}

/** Keeps no record at all. */
export const nothing: Filter = { none: [{ all: [] }] };

/**
 * Replaces every period by its bounds at a moment, and inputs and the person by their values. `fields` says which fields
 * hold dates and which instants.
 */
export function resolveCondition(
  condition: Condition,
  fields: readonly Field[],
  clock: Clock,
  given: ConditionInputs = {},
): Filter {
  const each = (parts: readonly Condition[]): Filter[] =>
    parts.map((part) => resolveCondition(part, fields, clock, given));
  if ('all' in condition) return { all: each(condition.all) };
  if ('any' in condition) return { any: each(condition.any) };
  if ('none' in condition) return { none: each(condition.none) };
  const { field, test } = condition;
  const type = fields.find((each) => each.name === field)?.type ?? 'instant';
  if (test.op === 'against')
    return 'theirs' in test.to
      ? amongTheirs({ name: field, type }, test.is, test.to.theirs, given)
      : { field, test: { ...test, to: against(test.to, given) } };
  if (test.op !== 'during') return { field, test };
  return { field, test: withinSpan({ type }, resolvePeriod(test.period, clock)) };
}

/** What is known of who asks under a name, whatever its case, as canonical texts of a type. */
function valuesOf(name: string, type: Field['type'], { person }: ConditionInputs): string[] {
  const known = Object.entries(person?.attributes ?? {}).find(
    ([each]) => each.toLowerCase() === name.toLowerCase(),
  );
  return (known?.[1] ?? []).flatMap((text) => {
    const read = parseValue(type, text);
    return read.ok && read.value !== null ? [read.value] : [];
  });
}

/** An empty list keeps nothing here, where that of a reader's filter would restrict nothing. */
function amongTheirs(
  { name, type }: Field,
  is: (typeof comparisons)[number],
  attribute: string,
  given: ConditionInputs,
): Filter {
  const values = valuesOf(attribute, type, given);
  const among: Filter = values.length === 0 ? nothing : { field: name, test: { op: 'is', values } };
  if (is === 'same') return among;
  return is === 'differs' ? { none: [among] } : nothing;
}

function against(
  to: Exclude<Against, { theirs: string }>,
  { inputs, person }: ConditionInputs,
): { field: string } | { value: string | null } {
  if ('field' in to) return to;
  if ('input' in to) return { value: inputs?.[to.input]?.value ?? null };
  return { value: person?.[to.person] ?? '' };
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
    case 'atMost':
    case 'atLeast':
    case 'below':
    case 'above':
      return test.value === '';
    case 'between':
      return test.from === '' || test.to === '';
    case 'within':
      return test.from === null && test.to === null;
    case 'during':
      return test.period.kind === 'dates' && !test.period.from && !test.period.to;
    case 'against':
      return 'value' in test.to && test.to.value === null;
    default:
      return false;
  }
}

/** The conditions that a filter needs all of. */
export const partsOf = (filter: Filter): Filter[] =>
  'all' in filter ? filter.all.flatMap(partsOf) : [filter];

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
  if (!parts) {
    if (!('field' in condition)) return [];
    const { field, test } = condition;
    return test.op === 'against' && 'field' in test.to ? [...new Set([field, test.to.field])] : [field];
  }
  return [...new Set(parts.flatMap((part) => fieldsOf(part)))];
}
