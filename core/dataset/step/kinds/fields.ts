import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { isNumeric } from '#core/value/field/value.ts';
import {
  byItself,
  fieldNamed,
  first,
  missingOf,
  newField,
  put,
  type StepKind,
  takenOf,
  withName,
} from '../kind.ts';
import { makingType, readsOf } from '../making.ts';
import type { StepOf } from '../schema.ts';

/* Steps that change fields and leave the records. */

/** How a type can be read as another. */
export const readable: Readonly<Record<FieldType, readonly FieldType[]>> = {
  text: ['integer', 'decimal', 'float', 'boolean', 'date', 'instant', 'nested'],
  integer: ['text', 'decimal', 'float'],
  decimal: ['text', 'integer', 'float'],
  float: ['decimal', 'integer'],
  boolean: ['text'],
  date: ['text'],
  instant: ['text', 'date'],
  nested: ['text'],
};

/** The field that holds the texts a type change could not read. */
export const unreadName = (field: string): string => `${field} as written`;

export const fields: StepKind<StepOf<'fields'>> = {
  problem: ({ keep }, before) =>
    first(missingOf(keep, before), new Set(keep).size < keep.length ? 'a field is named twice' : null),
  after: ({ keep }, before) => keep.flatMap((name) => fieldNamed(before, name) ?? []),
  reads: () => [],
  makes: () => [],
  records: () => 'same',
  done: () => 'never',
  canWait: () => true,
  passes: true,
  ...byItself,
};

export const rename: StepKind<StepOf<'rename'>> = {
  problem: ({ field, as }, before) =>
    first(missingOf([field], before), field === as ? 'it is called so already' : takenOf([as], before)),
  after: ({ field, as }, before) => before.map((each) => (each.name === field ? withName(each, as) : each)),
  reads: ({ field }) => [field],
  makes: ({ as }) => [as],
  records: () => 'same',
  done: () => 'always',
  canWait: () => false,
  passes: true,
  ...byItself,
  carries: ({ field, as }, name) => (name === as ? field : null),
};

export const type: StepKind<StepOf<'type'>> = {
  problem: ({ field, to, misfit }, before) => {
    const from = fieldNamed(before, field);
    if (!from) return missingOf([field], before);
    if (from.type === to) return `“${field}” is ${to} already`;
    if (!readable[from.type].includes(to)) return `${from.type} cannot be read as ${to}`;
    return misfit === 'list' ? takenOf([unreadName(field)], before) : null;
  },
  after: ({ field, to, misfit }, before) => {
    const changed = before.map((each): Field => {
      if (each.name !== field) return each;
      const { format: _, states: __, colours: ___, bands, ...rest } = each;
      return { ...rest, type: to, ...(bands && isNumeric(to) ? { bands } : {}) };
    });
    return misfit === 'list' ? [...changed, newField(unreadName(field), 'text')] : changed;
  },
  reads: ({ field }) => [field],
  makes: ({ field, misfit }) => (misfit === 'list' ? [field, unreadName(field)] : [field]),
  records: () => 'same',
  done: () => 'where wanted',
  canWait: () => true,
  passes: true,
  ...byItself,
};

export const derive: StepKind<StepOf<'derive'>> = {
  problem: ({ making }, before) => {
    const found = makingType(making, before);
    return found.ok ? null : found.why;
  },
  after: ({ name, making }, before) => {
    const found = makingType(making, before);
    const type = found.ok ? found.type : 'text';
    const was = fieldNamed(before, name);
    const field: Field = {
      ...(was?.type === type && making.kind === 'shift' ? was : newField(name, type)),
      ...(making.kind === 'link' ? { format: { kind: 'link' as const } } : {}),
    };
    return put(before, field);
  },
  reads: ({ making }, before) => readsOf(making, before),
  makes: ({ name }) => [name],
  records: () => 'same',
  done: () => 'where wanted',
  canWait: () => true,
  passes: true,
  ...byItself,
  conditions: ({ making }) => {
    if (making.kind === 'choose') return making.when.map(({ where }) => where);
    return making.kind === 'shift' && making.where ? [making.where] : [];
  },
  dependsOnNow: ({ making }) =>
    (making.kind === 'between' && making.to === undefined) ||
    (making.kind === 'expression' && /current_/i.test(making.text)),
  notAtSource: ({ making }) =>
    making.kind === 'extract' ? 'databases each have their own kind of pattern' : null,
};

export const spread: StepKind<StepOf<'spread'>> = {
  problem: ({ field, take, keepWhole }, before) =>
    first(
      missingOf([field], before),
      take.length === 0 ? 'choose what is taken out of it' : null,
      fieldNamed(before, field)?.type === 'nested' ? null : `“${field}” is not an object`,
      takenOf(
        take.map(({ name }) => name),
        keepWhole ? before : before.filter(({ name }) => name !== field),
      ),
    ),
  after: ({ field, take, keepWhole }, before) => [
    ...before.filter(({ name }) => keepWhole || name !== field),
    ...take.map(({ name, type }) => newField(name, type)),
  ],
  reads: ({ field }) => [field],
  makes: ({ take }) => take.map(({ name }) => name),
  records: () => 'same',
  done: () => 'where wanted',
  canWait: () => true,
  passes: true,
  ...byItself,
};
