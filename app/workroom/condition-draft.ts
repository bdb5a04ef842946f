import type { Against, Condition, Test } from '#core/ask/condition/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { isNumeric, isTemporal, parseValue } from '#core/value/field/value.ts';

/* A condition while it is edited as one list of tests. Pure. */

export type One = Extract<Condition, { field: string }>;

/** The tests that suit a type, with their words. */
export const opsOf = (type: FieldType): readonly [string, string][] => [
  ...(isTemporal(type)
    ? ([
        ['last', 'is in the last'],
        ['olderThan', 'is longer ago than'],
        ['next', 'is in the next'],
        ['past', 'is in the past'],
        ['future', 'is in the future'],
        ['this', 'is in this'],
        ['ago', 'is in the previous'],
        ['dates', 'is between the days'],
      ] as [string, string][])
    : ([
        ['is', 'is'],
        ['isNot', 'is not'],
      ] as [string, string][])),
  ...(isNumeric(type) || isTemporal(type)
    ? ([
        ['atLeast', 'is at least'],
        ['above', 'is above'],
        ['atMost', 'is at most'],
        ['below', 'is below'],
        ['between', 'is between'],
      ] as [string, string][])
    : []),
  ...(type === 'text'
    ? ([
        ['contains', 'contains'],
        ['startsWith', 'starts with'],
        ['endsWith', 'ends with'],
        ['lacks', 'does not contain'],
      ] as [string, string][])
    : []),
  ['blank', 'is blank'],
  ['filled', 'is not blank'],
];

/** Operators that can compare with something else than a value, and what they are then called. */
const againstOps = {
  is: 'same',
  isNot: 'differs',
  atLeast: 'atLeast',
  above: 'above',
  atMost: 'atMost',
  below: 'below',
} as const;
export type AgainstOp = keyof typeof againstOps;

export const canBeAgainst = (op: string): op is AgainstOp => op in againstOps;

export function opOf(test: Test): string {
  if (test.op === 'during') return test.period.kind;
  if (test.op !== 'against') return test.op;
  return Object.entries(againstOps).find(([, is]) => is === test.is)?.[0] ?? 'is';
}

/** A test that compares with another field, an input or who is signed in. */
export const againstTest = (op: AgainstOp, to: Against): Test => ({ op: 'against', is: againstOps[op], to });

/** A test of another kind, keeping the value where it fits. */
export function withOp(test: Test, op: string): Test {
  if (test.op === 'against' && canBeAgainst(op)) return againstTest(op, test.to);
  const text =
    'value' in test
      ? (test.value ?? '')
      : 'text' in test
        ? test.text
        : 'values' in test
          ? (test.values[0] ?? '')
          : '';
  switch (op) {
    case 'is':
    case 'isNot':
      return { op, values: 'values' in test ? test.values : text === '' ? [] : [text] };
    case 'contains':
    case 'startsWith':
    case 'endsWith':
    case 'lacks':
      return { op, text };
    case 'between':
      return { op, from: text, to: text };
    case 'this':
      return { op: 'during', period: { kind: op, unit: 'week' } };
    case 'ago':
      return { op: 'during', period: { kind: op, count: 1, unit: 'week' } };
    case 'dates':
      return { op: 'during', period: { kind: op, from: null, to: null } };
    case 'atLeast':
    case 'above':
    case 'atMost':
    case 'below':
      return { op, value: text };
    case 'last':
    case 'olderThan':
    case 'next':
      return { op: 'during', period: { kind: op, count: 7, unit: 'day' } };
    case 'past':
    case 'future':
      return { op: 'during', period: { kind: op } };
    default:
      return { op: op === 'filled' ? 'filled' : 'blank' };
  }
}

/** The test a field starts with. */
export const firstTest = (field: Field): Test =>
  withOp({ op: 'is', values: [] }, opsOf(field.type)[0]?.[0] ?? 'blank');

export type Join = 'all' | 'any' | 'none';
/** A list of tests and groups inside it. */
export interface Group {
  readonly join: Join;
  readonly parts: readonly Condition[];
}

/** A condition as a group; a single test is a group of one. */
export function groupOf(value: Condition | undefined): Group {
  if (!value) return { join: 'all', parts: [] };
  if ('field' in value) return { join: 'all', parts: [value] };
  if ('all' in value) return { join: 'all', parts: value.all };
  if ('any' in value) return { join: 'any', parts: value.any };
  return { join: 'none', parts: value.none };
}

/** A group as a condition; undefined where it restricts nothing. Inside another group it stays a group. */
export function conditionOf({ join, parts }: Group, inside = false): Condition | undefined {
  if (parts.length === 0 && !inside) return undefined;
  const [only] = parts;
  if (parts.length === 1 && only && join !== 'none' && !inside) return only;
  switch (join) {
    case 'all':
      return { all: [...parts] };
    case 'any':
      return { any: [...parts] };
    case 'none':
      return { none: [...parts] };
  }
}

/** A typed value in canonical text; none where it is no value of the type. */
export function canonical(type: FieldType, text: string): string[] {
  const read = parseValue(type, text);
  return read.ok ? [read.value] : [];
}
