import type { DataSet } from '#core/dataset/schema.ts';
import { isTemporal, labelOf } from '#core/value/field/value.ts';
import { type Cycle, cycles, type Unit, units } from '#core/value/period/units.ts';
import { cycleWords } from '#core/words/cycle.ts';

/* What records can be grouped by, as choices: fields, and the units of those that say when. */

interface Group {
  readonly field: string;
  readonly unit?: Unit | undefined;
  readonly cycle?: Cycle | undefined;
}

/** The fields that records can be grouped by. */
export const groupable = ({ fields }: DataSet) =>
  fields.filter(({ hidden, type, format }) => !hidden && type !== 'nested' && format?.kind !== 'picture');

/** A group as the value of a choice, and back. */
export const groupName = ({ field, unit, cycle }: Group): string =>
  unit || cycle ? `${field}\n${unit ?? cycle}` : field;
export function groupOf(name: string): { field: string; unit?: Unit; cycle?: Cycle } {
  const [field = '', by] = name.split('\n');
  const unit = units.find((each) => each === by);
  const cycle = cycles.find((each) => each === by);
  return { field, ...(unit ? { unit } : {}), ...(cycle ? { cycle } : {}) };
}

export const groupChoices = (dataSet: DataSet): { value: string; words: string }[] =>
  groupable(dataSet).flatMap((field) =>
    isTemporal(field.type)
      ? [
          ...units
            .filter((unit) => unit !== 'hour' || field.type === 'instant')
            .map((unit) => ({
              value: groupName({ field: field.name, unit }),
              words: `${unit} of ${labelOf(field).toLowerCase()}`,
            })),
          ...cycles
            .filter((cycle) => cycle !== 'hourOfDay' || field.type === 'instant')
            .map((cycle) => ({
              value: groupName({ field: field.name, cycle }),
              words: `${cycleWords[cycle]} of ${labelOf(field).toLowerCase()}`,
            })),
        ]
      : [{ value: field.name, words: labelOf(field).toLowerCase() }],
  );
