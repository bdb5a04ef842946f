import { fieldsOf } from '#core/ask/condition/resolve.ts';
import type { Field } from '#core/value/field/field.ts';
import { isNumeric } from '#core/value/field/value.ts';
import {
  byItself,
  fieldNamed,
  first,
  literalProblem,
  missingOf,
  newField,
  noOrder,
  orderable,
  orderNames,
  orderWithoutTies,
  type StepKind,
  takenOf,
} from '../kind.ts';
import type { StepOf } from '../schema.ts';

/* Steps that keep some of the records, or look at them in an order. */

const distinctReads = (
  by: readonly string[],
  order: readonly { by: string }[],
  before: readonly Field[],
): string[] => [...new Set([...by, ...orderWithoutTies(order, before)])];

export const where: StepKind<StepOf<'where'>> = {
  problem: ({ condition }, before) => missingOf(fieldsOf(condition), before),
  after: (_, before) => [...before],
  reads: ({ condition }) => fieldsOf(condition),
  makes: () => [],
  records: () => 'fewer',
  done: () => 'always',
  canWait: () => false,
  passes: true,
  ...byItself,
  conditions: ({ condition }) => [condition],
};

export const distinct: StepKind<StepOf<'distinct'>> = {
  problem: ({ by, order }, before) =>
    first(missingOf([...by, ...orderNames(order)], before), orderable([...by, ...orderNames(order)], before)),
  after: (_, before) => [...before],
  reads: ({ by, order }, before) => distinctReads(by, order, before),
  makes: () => [],
  records: () => 'fewer',
  done: () => 'always',
  canWait: () => false,
  passes: true,
  ...byItself,
};

export const fill: StepKind<StepOf<'fill'>> = {
  problem(step, before) {
    const field = fieldNamed(before, step.field);
    if (!field) return missingOf([step.field], before);
    if (step.with.kind === 'value') return literalProblem(step.with.value, field.type);
    const names = [...orderNames(step.with.order), ...step.with.within];
    return first(
      step.with.order.length === 0 ? noOrder : null,
      missingOf(names, before),
      orderable(names, before),
    );
  },
  after: (_, before) => [...before],
  reads: (step, before) =>
    step.with.kind === 'value'
      ? [step.field]
      : [step.field, ...step.with.within, ...orderWithoutTies(step.with.order, before)],
  makes: ({ field }) => [field],
  records: () => 'same',
  done: () => 'where wanted',
  canWait: ({ with: { kind } }) => kind === 'value',
  passes: true,
  ...byItself,
};

export const rank: StepKind<StepOf<'rank'>> = {
  problem: ({ as, order, within }, before) => {
    const names = [...orderNames(order), ...within];
    return first(
      order.length === 0 ? noOrder : null,
      missingOf(names, before),
      orderable(names, before),
      takenOf([as], before),
    );
  },
  after: ({ as }, before) => [...before, newField(as, 'integer')],
  reads: ({ order, within }) => [...orderNames(order), ...within],
  makes: ({ as }) => [as],
  records: ({ keep }) => (keep === undefined ? 'same' : 'fewer'),
  done: ({ keep }) => (keep === undefined ? 'where wanted' : 'always'),
  canWait: () => false,
  passes: true,
  ...byItself,
};

export const running: StepKind<StepOf<'running'>> = {
  problem({ as, what, field, order, within, over }, before) {
    const names = [...orderNames(order), ...within];
    const type = fieldNamed(before, field)?.type;
    return first(
      missingOf([field, ...names], before),
      type && isNumeric(type) ? null : `“${field}” is not a number`,
      orderable(names, before),
      what !== 'share' && order.length === 0 ? noOrder : null,
      what === 'average' && over === undefined ? 'over how many records?' : null,
      takenOf([as], before),
    );
  },
  after: ({ as, what, field }, before) => {
    const type = fieldNamed(before, field)?.type ?? 'decimal';
    const divided = what === 'average' || what === 'share';
    return [...before, newField(as, divided && type !== 'float' ? 'decimal' : type)];
  },
  reads: ({ field, what, order, within }, before) => [
    field,
    ...within,
    ...(what === 'share' ? [] : orderWithoutTies(order, before)),
  ],
  makes: ({ as }) => [as],
  records: () => 'same',
  done: () => 'where wanted',
  canWait: () => false,
  passes: true,
  ...byItself,
};
