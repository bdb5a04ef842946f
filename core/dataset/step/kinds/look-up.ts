import { calculationFields, calculationType } from '#core/ask/measure/calculation.ts';
import { isNumeric } from '#core/value/field/value.ts';
import {
  byItself,
  calculationProblem,
  conditionWithin,
  fieldNamed,
  first,
  missingOf,
  newField,
  orderable,
  orderNames,
  orderWithoutTies,
  other,
  type StepKind,
  takenOf,
  withName,
} from '../kind.ts';
import type { StepOf } from '../schema.ts';

/** Whether a look-up brings fields of the other data set, rather than something worked out. */
const brings = ({ mode }: StepOf<'lookUp'>): boolean => mode === 'one' || mode === 'first' || mode === 'all';

export const lookUp: StepKind<StepOf<'lookUp'>> = {
  problem(step, before, others) {
    const found = other(step.from, others);
    if (typeof found === 'string') return found;
    const ours = missingOf(
      step.on.map(({ field }) => field),
      before,
    );
    const theirs = missingOf(
      [
        ...step.on.map((each) => each.other),
        ...(brings(step) ? step.take.map(({ field }) => field) : []),
        ...orderNames(step.order),
      ],
      found.fields,
    );
    if (theirs) return `in the other data set ${theirs}`;
    if (ours) return ours;
    for (const { field, other: theirName } of step.on) {
      const [a, b] = [fieldNamed(before, field)?.type, fieldNamed(found.fields, theirName)?.type];
      const numbers = a && b && isNumeric(a) && isNumeric(b) && a !== 'float' && b !== 'float';
      if (a !== b && !numbers)
        return `“${field}” is ${a} and “${theirName}” is ${b}, so they are never equal; change the type of one first`;
      if (a === 'nested' || a === 'float') return `“${field}” cannot be matched: it is ${a}`;
    }
    if (step.mode === 'first' && step.order.length === 0) return 'the first by which order? Choose one';
    if (brings(step) && step.take.length === 0) return 'choose what is brought';
    if (!brings(step) || step.mode === 'all') {
      if (step.as === undefined) return 'the new field has no name';
      const taken = takenOf([step.as], before);
      if (taken) return taken;
    }
    if (step.mode === 'aggregate') {
      if (!step.calculation) return 'choose what is worked out';
      const wrong = calculationProblem(step.calculation, found.fields);
      if (wrong) return `in the other data set ${wrong}`;
    }
    return first(
      orderable(orderNames(step.order), found.fields),
      step.mode === 'one' || step.mode === 'first'
        ? takenOf(
            step.take.map(({ as }) => as),
            before,
          )
        : null,
    );
  },
  after(step, before, others) {
    const found = other(step.from, others);
    const fields = typeof found === 'string' ? [] : found.fields;
    const as = step.as ?? '';
    switch (step.mode) {
      case 'one':
      case 'first':
        return [
          ...before,
          ...step.take.map(({ field, as: name }) =>
            withName(fieldNamed(fields, field) ?? newField(field, 'text'), name),
          ),
        ];
      case 'count':
        return [...before, newField(as, 'integer')];
      case 'any':
        return [...before, newField(as, 'boolean')];
      case 'all':
        return [...before, newField(as, 'nested')];
      case 'aggregate':
        return [
          ...before,
          newField(as, step.calculation ? calculationType(step.calculation, fields) : 'decimal'),
        ];
    }
  },
  reads: (step) => step.on.map(({ field }) => field),
  makes: (step) => (brings(step) && step.mode !== 'all' ? step.take.map(({ as }) => as) : [step.as ?? '']),
  records: () => 'same',
  done: () => 'where wanted',
  canWait: () => true,
  passes: true,
  ...byItself,
  conditions: ({ calculation }) => conditionWithin(calculation),
  conditionsAbout: 'the other data set',
  refs: ({ from }) => [from],
  needsOfOther(step, _, other) {
    const keys = step.on.map((each) => each.other);
    const taken = step.take.map(({ field }) => field);
    switch (step.mode) {
      case 'one':
        return [...keys, ...taken];
      case 'first':
      case 'all':
        return [...keys, ...taken, ...orderWithoutTies(step.order, other)];
      case 'count':
      case 'any':
        return keys;
      case 'aggregate':
        return [...keys, ...(step.calculation ? calculationFields(step.calculation) : [])];
    }
  },
};
