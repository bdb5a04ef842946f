import { fieldsOf } from '#core/ask/condition/resolve.ts';
import { calculationFields, calculationType, measureFields } from '#core/ask/measure/calculation.ts';
import type { Field } from '#core/value/field/field.ts';
import { isNumeric, isTemporal } from '#core/value/field/value.ts';
import {
  byItself,
  calculationProblem,
  conditionWithin,
  fieldNamed,
  first,
  literalProblem,
  missingOf,
  newField,
  type Others,
  orderable,
  other,
  type StepKind,
  takenOf,
  withName,
} from '../kind.ts';
import type { StepOf } from '../schema.ts';

/* Steps that make other records. */

function stacked(list: StepOf<'stack'>['with'], before: readonly Field[], others: Others): Field[] {
  const fields = [...before];
  for (const { ref } of list) {
    const found = other(ref, others);
    const theirs = typeof found === 'string' ? [] : found.fields;
    fields.push(...theirs.filter(({ name }) => !fieldNamed(fields, name)));
  }
  return fields;
}

export const unfold: StepKind<StepOf<'unfold'>> = {
  problem: ({ field, as, place }, before) =>
    first(
      missingOf([field], before),
      fieldNamed(before, field)?.type === 'nested' ? null : `“${field}” is not a list`,
      takenOf([...(as === field ? [] : [as]), ...(place === undefined ? [] : [place])], before),
    ),
  after: ({ field, as, place }, before) => [
    ...before.map((each) => (each.name === field ? newField(as, 'nested') : each)),
    ...(place === undefined ? [] : [newField(place, 'integer')]),
  ],
  reads: ({ field }) => [field],
  makes: ({ as, place }) => [as, ...(place === undefined ? [] : [place])],
  records: () => 'other',
  done: () => 'always',
  canWait: () => false,
  passes: true,
  ...byItself,
};

export const stack: StepKind<StepOf<'stack'>> = {
  problem({ with: list, origin }, before, others) {
    for (const { ref } of list) {
      const found = other(ref, others);
      if (typeof found === 'string') return found;
      for (const field of found.fields) {
        const own = fieldNamed(before, field.name);
        if (own && own.type !== field.type)
          return `“${field.name}” is ${own.type} here and ${field.type} in the other; change the type of one first`;
      }
    }
    return origin ? takenOf([origin.name], stacked(list, before, others)) : null;
  },
  after: ({ with: list, origin }, before, others) => [
    ...stacked(list, before, others),
    ...(origin ? [newField(origin.name, 'text')] : []),
  ],
  reads: () => [],
  makes: () => [],
  records: () => 'other',
  done: () => 'always',
  canWait: () => false,
  passes: true,
  ...byItself,
  refs: ({ with: list }) => list.map(({ ref }) => ref),
  needsOfOther: (_, wanted, other) => other.map(({ name }) => name).filter((name) => wanted.has(name)),
};

export const summarise: StepKind<StepOf<'summarise'>> = {
  problem({ by, measures }, before) {
    const missing = missingOf(
      by.map(({ field }) => field),
      before,
    );
    if (missing) return missing;
    for (const { field, unit } of by) {
      const type = fieldNamed(before, field)?.type ?? 'text';
      if (unit && !isTemporal(type)) return `“${field}” is neither a date nor a moment`;
      if (type === 'nested') return `“${field}” is a list or object`;
    }
    const wrong = measures
      .map(({ calculation, where }) =>
        first(calculationProblem(calculation, before), missingOf(where ? fieldsOf(where) : [], before)),
      )
      .find((problem) => problem !== null);
    return wrong ?? takenOf([...by.map(({ as }) => as), ...measures.map(({ name }) => name)], []);
  },
  after: ({ by, measures }, before) => [
    ...by.map(({ field, unit, as }) => {
      const own = fieldNamed(before, field) ?? newField(field, 'text');
      return unit ? newField(as, 'date') : withName(own, as);
    }),
    ...measures.map(({ name, calculation }) => newField(name, calculationType(calculation, before))),
  ],
  reads: ({ by, measures }) => [...by.map(({ field }) => field), ...measures.flatMap(measureFields)],
  makes: () => [],
  records: () => 'other',
  done: () => 'always',
  canWait: () => false,
  passes: false,
  ...byItself,
  conditions: ({ measures }) =>
    measures.flatMap(({ calculation, where: own }) => [
      ...(own ? [own] : []),
      ...conditionWithin(calculation),
    ]),
};

export const periods: StepKind<StepOf<'periods'>> = {
  problem: ({ field, within, zero }, before) => {
    if (within.includes(field)) return `“${field}” is the calendar itself`;
    return first(
      missingOf([field, ...within, ...zero], before),
      fieldNamed(before, field)?.type === 'date'
        ? null
        : `“${field}” is not a date; summarise by a calendar unit first`,
      orderable(within, before),
      zero.every((name) => isNumeric(fieldNamed(before, name)?.type ?? 'text'))
        ? null
        : 'only numbers count as zero',
    );
  },
  after: (_, before) => before.map((field) => field),
  reads: ({ field, within }) => [field, ...within],
  makes: () => [],
  records: () => 'other',
  done: () => 'always',
  canWait: () => false,
  passes: true,
  ...byItself,
};

export const wide: StepKind<StepOf<'wide'>> = {
  problem: ({ by, across, values, calculation }, before) => {
    const type = fieldNamed(before, across)?.type;
    return first(
      missingOf([...by, across], before),
      type === 'text' || type === 'integer' || type === 'boolean'
        ? null
        : `“${across}” has no values to make fields of`,
      values.map(({ value }) => literalProblem(value, type ?? 'text')).find((each) => each !== null) ?? null,
      orderable(by, before),
      calculationProblem(calculation, before),
      takenOf([...by, ...values.map(({ as }) => as)], []),
    );
  },
  after: ({ by, values, calculation }, before) => [
    ...by.flatMap((name) => fieldNamed(before, name) ?? []),
    ...values.map(({ as }) => newField(as, calculationType(calculation, before))),
  ],
  reads: ({ by, across, calculation }) => [...by, across, ...calculationFields(calculation)],
  makes: () => [],
  records: () => 'other',
  done: () => 'always',
  canWait: () => false,
  passes: false,
  ...byItself,
  conditions: ({ calculation }) => conditionWithin(calculation),
};

export const long: StepKind<StepOf<'long'>> = {
  problem({ fields, name, value }, before) {
    const missing = missingOf(fields, before);
    if (missing) return missing;
    const types = new Set(fields.map((each) => fieldNamed(before, each)?.type));
    if (types.size === 0) return 'choose the fields';
    if (types.size > 1) return `these fields are of different types: ${[...types].join(', ')}`;
    return takenOf(
      [name, value],
      before.filter((field) => !fields.includes(field.name)),
    );
  },
  after: ({ fields, name, value }, before) => [
    ...before.filter((field) => !fields.includes(field.name)),
    newField(name, 'text'),
    newField(value, fieldNamed(before, fields[0] ?? '')?.type ?? 'text'),
  ],
  reads: ({ fields }) => fields,
  makes: ({ name, value }) => [name, value],
  records: () => 'other',
  done: () => 'always',
  canWait: () => false,
  passes: true,
  ...byItself,
};
