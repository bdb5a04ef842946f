import type { Condition, Test } from '#core/condition/schema.ts';
import type { Field } from '#core/field/field.ts';
import type { FieldType } from '#core/field/types.ts';
import { isNumeric, isTemporal, parseValue } from '#core/field/value.ts';

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
      ] as [string, string][])
    : ([
        ['is', 'is'],
        ['isNot', 'is not'],
      ] as [string, string][])),
  ...(isNumeric(type)
    ? ([
        ['atLeast', 'is at least'],
        ['above', 'is above'],
        ['atMost', 'is at most'],
        ['below', 'is below'],
      ] as [string, string][])
    : []),
  ...(type === 'text'
    ? ([
        ['contains', 'contains'],
        ['startsWith', 'starts with'],
        ['lacks', 'does not contain'],
      ] as [string, string][])
    : []),
  ['blank', 'is blank'],
  ['filled', 'is not blank'],
];

export const opOf = (test: Test): string => (test.op === 'during' ? test.period.kind : test.op);

/** A test of another kind, keeping the value where it fits. */
export function withOp(test: Test, op: string): Test {
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
    case 'lacks':
      return { op, text };
    case 'atLeast':
    case 'above':
    case 'atMost':
    case 'below':
      return { op, value: text === '' ? '0' : text };
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
const isFlat = (parts: readonly Condition[]): parts is One[] => parts.every((part) => 'field' in part);

/** The tests of a condition that is one list, and how they are joined; null for a deeper one. */
export function partsOf(value: Condition | undefined): { join: 'all' | 'any'; tests: One[] } | null {
  if (!value) return { join: 'all', tests: [] };
  if ('field' in value) return { join: 'all', tests: [value] };
  if ('all' in value) return isFlat(value.all) ? { join: 'all', tests: value.all } : null;
  if ('any' in value) return isFlat(value.any) ? { join: 'any', tests: value.any } : null;
  return null;
}

/** A typed value in canonical text; none where it is no value of the type. */
export function canonical(type: FieldType, text: string): string[] {
  const read = parseValue(type, text);
  return read.ok ? [read.value] : [];
}
