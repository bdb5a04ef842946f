import type { DataSet } from '#core/dataset/schema.ts';
import { isTemporal, labelOf } from '#core/value/field/value.ts';
import { type Unit, units } from '#core/value/period/units.ts';

/* What records can be grouped by, as choices: fields, and the units of those that say when. */

interface Group {
  readonly field: string;
  readonly unit?: Unit | undefined;
}

/** The fields that records can be grouped by. */
export const groupable = ({ fields }: DataSet) =>
  fields.filter(({ hidden, type, format }) => !hidden && type !== 'nested' && format?.kind !== 'picture');

/** A group as the value of a choice, and back. */
export const groupName = ({ field, unit }: Group): string => (unit ? `${field}\n${unit}` : field);
export function groupOf(name: string): { field: string; unit?: Unit } {
  const [field = '', unitName] = name.split('\n');
  const unit = units.find((each) => each === unitName);
  return { field, ...(unit ? { unit } : {}) };
}

export const groupChoices = (dataSet: DataSet): { value: string; words: string }[] =>
  groupable(dataSet).flatMap((field) =>
    isTemporal(field.type)
      ? units
          .filter((unit) => unit !== 'hour' || field.type === 'instant')
          .map((unit) => ({
            value: groupName({ field: field.name, unit }),
            words: `${unit} of ${labelOf(field).toLowerCase()}`,
          }))
      : [{ value: field.name, words: labelOf(field).toLowerCase() }],
  );
